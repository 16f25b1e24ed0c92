"""Checks: each one a measurement against a limit, with its spot. The catalogue is docs/checks.md."""
