"""Held lines cured together: what would cure each, gathered by cause, taken for many in one step."""
