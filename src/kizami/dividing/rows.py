"""Ragged rows: rows of unequal length one after the other in one array, and where each begins."""

from __future__ import annotations

import numpy as np

from kizami.outlines.edges import IntArray

__all__ = ["following", "of_rows", "starts_of", "steps_of"]


def starts_of(lengths: IntArray) -> IntArray:
    """Where rows begin (r + 1,), the last entry where they end.

    >>> starts_of(np.array([2, 0, 3])).tolist()
    [0, 2, 2, 5]
    """
    return np.concatenate(([0], np.cumsum(lengths))).astype(np.int64)


def steps_of(lengths: IntArray) -> IntArray:
    """How far along its row each entry stands.

    >>> steps_of(np.array([2, 0, 3])).tolist()
    [0, 1, 0, 1, 2]
    """
    starts = starts_of(lengths)
    return np.arange(starts[-1]) - np.repeat(starts[:-1], lengths)


def of_rows(starts: IntArray, which: IntArray) -> tuple[IntArray, IntArray]:
    """The entries of some rows, row by row, and where each row begins among them.

    >>> entries, begins = of_rows(np.array([0, 2, 2, 5]), np.array([2, 0]))
    >>> entries.tolist(), begins.tolist()
    ([2, 3, 4, 0, 1], [0, 3, 5])
    """
    lengths = np.diff(starts)[which]
    return np.repeat(starts[:-1][which], lengths) + steps_of(lengths), starts_of(lengths)


def following(starts: IntArray) -> IntArray:
    """Which entry comes next in rows that close on themselves; none of them may be empty.

    >>> following(np.array([0, 2, 5])).tolist()
    [1, 0, 3, 4, 2]
    """
    after = np.arange(1, starts[-1] + 1)
    after[starts[1:] - 1] = starts[:-1]
    return after
