"""The core of Kizami: from a row of an order list to a checked solid and its files.

Pure functions over frozen values. No web framework, no database, no clock and no
randomness: the same input gives the same bytes.
"""

__version__ = "0.1.0"

#: Part of every fingerprint. Raise it when the same inputs would give another solid.
RECIPE = 22
