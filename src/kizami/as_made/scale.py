"""How long things really are: unrolled lengths at a height above the surface, measured in space.

Unrolled millimetres are true on the surface itself, and only where it unrolls without stretch. What is
made lies at a height: the floor of an engraving round a ring is shorter than its mouth, the top of raised
letters in a bore shorter than their feet, and at the ends of a ball's zone everything is narrower.
"""

from __future__ import annotations

import numpy as np

from kizami.surfaces.protocol import Evenness, FloatArray, Surface

__all__ = ["Scale"]

#: Distance between the places whose difference gives the scale; on a supplied shape it must not be lost
#: within one facet's rounding.
_STEP_MM, _ROUGH_STEP_MM = 1e-3, 2e-2


class Scale:
    """The first fundamental form of the surfaces at all heights over one area (do Carmo 1976, chapter 2,
    from memory).

    Parameters
    ----------
    surface : that the lettering lies on
    pull : unit direction along which heights run instead of the normal; what counts then is the width seen
        along it, as walls are parallel to it
    """

    def __init__(self, surface: Surface, pull: FloatArray | None = None) -> None:
        self.surface, self.pull = surface, pull
        self._is_even = surface.evenness is Evenness.SAME and pull is None
        self._even: dict[float, tuple[FloatArray, FloatArray]] = {}
        one = np.zeros((1, 2))
        #: A plane read along its normal: an unrolled millimetre is a millimetre everywhere.
        self.is_true = self._is_even and all(
            np.allclose(self._form(one, h)[0], np.eye(2), atol=1e-9) for h in (0.0, 1.0)
        )

    def at(self, uv: FloatArray, h_mm: float) -> FloatArray:
        """The form at places (n, 2) and a height, (n, 2, 2): a step d is sqrt(d^T G d) mm long.

        >>> from kizami.surfaces.cylinder import Cylinder
        >>> Scale(Cylinder(radius_mm=10.0)).at(np.zeros((1, 2)), -1.0).round(6).tolist()
        [[[0.81, 0.0], [0.0, 1.0]]]
        """
        if not self._is_even:
            return self._form(uv, h_mm)
        return np.broadcast_to(self._everywhere(h_mm)[0], (len(uv), 2, 2))

    def _everywhere(self, h_mm: float) -> tuple[FloatArray, FloatArray]:
        """The form and its inverse where they are the same at every place, (2, 2) each."""
        both = self._even.get(h_mm)
        if both is None:
            form = self._form(np.zeros((1, 2)), h_mm)[0]
            both = self._even[h_mm] = form, np.linalg.inv(form)
        return both

    def across(self, uv: FloatArray, across: FloatArray, h_mm: float) -> FloatArray:
        """True width of a band that is one unrolled mm wide, at places (n, 2), shape (n,).

        Parameters
        ----------
        across : (n, 2) unit vectors at right angles to the band, unrolled; where one is (0, 0) the least of
            all directions is taken

        Notes
        -----
        Walls n . x = c and n . x = c + 1 are 1 / sqrt(n^T G^-1 n) apart, the height of a strip under a
        linear map.
        """
        if self.is_true:
            return np.ones(len(uv))
        x, y = across.T
        if self._is_even:
            form, inverse = self._everywhere(h_mm)
            squares = inverse[0, 0] * x * x + (inverse[0, 1] + inverse[1, 0]) * x * y + inverse[1, 1] * y * y
        else:
            form = self._form(uv, h_mm)
            a, b, c = form[:, 0, 0], form[:, 0, 1], form[:, 1, 1]
            squares = (c * x * x - 2.0 * b * x * y + a * y * y) / (a * c - b * b)
        with np.errstate(divide="ignore"):
            widths: FloatArray = 1.0 / np.sqrt(squares)
        everywhere = np.flatnonzero((x == 0.0) & (y == 0.0))
        if len(everywhere):
            forms = form if self._is_even else form[everywhere]
            widths[everywhere] = np.sqrt(np.maximum(np.linalg.eigvalsh(forms)[..., 0], 0.0))
        return widths

    def span(self, uv: FloatArray, h_mm: float) -> tuple[float, float]:
        """Least and greatest scale at places (n, 2), any direction."""
        if not len(uv):
            return 1.0, 1.0
        squares = np.linalg.eigvalsh(self.at(uv, h_mm))
        low, high = float(squares[:, 0].min()), float(squares[:, 1].max())
        return max(low, 0.0) ** 0.5, max(high, 0.0) ** 0.5

    def _form(self, uv: FloatArray, h_mm: float) -> FloatArray:
        step = _ROUGH_STEP_MM if self.surface.evenness is Evenness.ROUGH else _STEP_MM
        count = len(uv)
        around = np.concatenate([uv + np.array(d) * step for d in ((1, 0), (-1, 0), (0, 1), (0, -1))])
        height = 0.0 if self.pull is not None else h_mm
        east, west, north, south = self.surface.place(around, np.full(4 * count, height)).reshape(4, count, 3)
        ways = np.stack((east - west, north - south), axis=1) / (2.0 * step)
        if self.pull is not None:
            ways = ways - np.einsum("nkd,d->nk", ways, self.pull)[..., None] * self.pull
        form: FloatArray = np.einsum("nid,njd->nij", ways, ways)
        return form

    def facing(self, uv: FloatArray) -> FloatArray:
        """Cosine of the angle between the normal and the pull at places (n, 2); 1 where heights run along
        the normal. Below 0 the face looks away, and nothing can be drawn off there."""
        if self.pull is None:
            return np.ones(len(uv))
        foot, head = (self.surface.place(uv, np.full(len(uv), h)) for h in (0.0, 1.0))
        facing: FloatArray = (head - foot) @ self.pull
        return facing
