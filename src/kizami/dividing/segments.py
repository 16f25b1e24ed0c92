"""Straight pieces of the plane."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray

__all__ = ["Segments", "clustered"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Segments:
    """Straight pieces from place to place, unrolled mm.

    Attributes
    ----------
    starts, ends : (n, 2)
    """

    starts: FloatArray
    ends: FloatArray

    def __len__(self) -> int:
        return len(self.starts)

    @classmethod
    def none(cls) -> Segments:
        """None at all."""
        return cls(starts=np.empty((0, 2)), ends=np.empty((0, 2)))

    @classmethod
    def of(cls, *sets: Segments) -> Segments:
        """All of several sets, one after the other."""
        return cls(starts=np.vstack([s.starts for s in sets]), ends=np.vstack([s.ends for s in sets]))

    def take(self, which: IntArray) -> Segments:
        """Some of them, by number."""
        return Segments(starts=self.starts[which], ends=self.ends[which])


def clustered(values: FloatArray, *, apart: float) -> IntArray:
    """Numbers (n,) of sets of values that are the same but for rounding, growing with the values.

    Parameters
    ----------
    apart : values that differ by more are not the same

    >>> clustered(np.array([3.0, 1.0, 3.0 + 1e-12, 2.0]), apart=1e-9).tolist()
    [2, 0, 2, 1]
    """
    order = np.argsort(values, kind="stable")
    numbers = np.empty(len(values), dtype=np.int64)
    numbers[order] = np.concatenate(([0], np.cumsum(np.diff(values[order]) > apart)))[: len(values)]
    return numbers
