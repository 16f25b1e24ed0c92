"""Whoever sends lists to the shop."""
