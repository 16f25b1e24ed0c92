"""The one SVG drawing path: screens, files, tickets and proofs all draw with it."""
