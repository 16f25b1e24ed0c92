"""A made piece as a run takes it up: its skin, its weight, and which way its lettering looks."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kizami.errors import RunError
from kizami.formats.stl import facets_of
from kizami.surfaces.protocol import FloatArray

__all__ = ["Body", "body_of", "model_text", "moved"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Body:
    """A piece's skin.

    Attributes
    ----------
    points : (n, 3), mm
    faces : (m, 3), anticlockwise seen from outside
    lettering_mm2 : (3,), the vector area of the lettering's facets: the way that lettering on one side of a
    piece
        looks, as long as its area; nothing for lettering right round or right through
    """

    points: FloatArray
    faces: npt.NDArray[np.int64]
    lettering_mm2: FloatArray

    @property
    def volume_mm3(self) -> float:
        """By the divergence theorem, from the middle so that little is lost to rounding."""
        a, b, c = (self.points - self.points.mean(axis=0))[self.faces.T]
        return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6.0)

    @property
    def bounds_mm(self) -> tuple[FloatArray, FloatArray]:
        """Lowest and highest x, y, z."""
        return self.points.min(axis=0), self.points.max(axis=0)


def body_of(stl: bytes, lettering_mm2: Sequence[float] = (0.0, 0.0, 0.0)) -> Body:
    """A body from the STL that was made of a piece.

    Raises
    ------
    RunError : the file is damaged
    """
    corners = facets_of(stl)
    # Corners at one place are one point, as they were before the file was written.
    points, index = _told_apart(corners.reshape(-1, 3))
    return Body(
        points=points,
        faces=index.reshape(-1, 3),
        lettering_mm2=np.asarray(lettering_mm2, dtype=np.float64),
    )


def _told_apart(corners: FloatArray) -> tuple[FloatArray, npt.NDArray[np.int64]]:
    """The different ones among corners, in the order of x, y, z, and for each corner which one it is.

    As `numpy.unique` along an axis gives, which compares rows as bytes and takes four times as long.
    """
    order = np.lexsort(corners.T[::-1])
    rows = corners[order]
    new = np.ones(len(rows), dtype=bool)
    new[1:] = (rows[1:] != rows[:-1]).any(axis=1)
    index = np.empty(len(rows), dtype=np.int64)
    index[order] = np.cumsum(new) - 1
    return rows[new], index


#: What the model in a piece's 3MF may unpack to.
_LARGEST_MODEL_BYTES = 256 * 1024 * 1024


def model_text(three_mf: bytes) -> bytes:
    """The model within a 3MF package that we wrote.

    Raises
    ------
    RunError : it is no such package
    """
    try:
        with zipfile.ZipFile(io.BytesIO(three_mf)) as package, package.open("3D/3dmodel.model") as file:
            text = file.read(_LARGEST_MODEL_BYTES + 1)
    except (zipfile.BadZipFile, KeyError, OSError, EOFError) as error:
        raise RunError("A piece's 3MF is damaged or not whole. Make the piece again.") from error
    if len(text) > _LARGEST_MODEL_BYTES:
        raise RunError("A piece's 3MF is too large for a run.")
    return text


def moved(points: FloatArray, turn: FloatArray, shift: FloatArray) -> FloatArray:
    """Points turned by a (3, 3) matrix and then shifted."""
    return points @ turn.T + shift
