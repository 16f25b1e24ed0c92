"""Shapes bounded by curves, whatever they are of: flattened, measured, thickened, joined, cleaned."""
