"""How true curves are kept, where nobody asks for another tolerance."""

from __future__ import annotations

__all__ = ["SAGITTA_MM"]

#: Largest distance between a chord and the curve or surface that it stands for.
SAGITTA_MM = 0.005
