"""What most surfaces have in common, so that each says only what is its own."""

from __future__ import annotations

import numpy as np

from kizami.surfaces.protocol import Apex, Evenness, FloatArray

__all__ = ["Plain"]


class Plain:
    """A surface that does not meet itself, whose level lines are straight and lengths true everywhere."""

    __slots__ = ()

    @property
    def period_mm(self) -> float | None:
        """It does not meet itself."""
        return None

    @property
    def apex(self) -> Apex | None:
        """Level lines are straight."""
        return None

    @property
    def evenness(self) -> Evenness:
        """Nothing changes from place to place."""
        return Evenness.SAME

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray] | None:
        """There is no closed formula."""
        return None

    def stretch(self, uv: FloatArray) -> FloatArray:
        """True length everywhere."""
        return np.ones((len(uv), 2))
