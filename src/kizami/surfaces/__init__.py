"""Surfaces: unrolled millimetres to space, at constant height along the outward normal."""
