"""A picture of a finished piece, drawn without a display: rays into the solid, shading on the depth picture.

Every point of the picture is a ray. Where it meets the piece, light falls from a lamp at the upper left, with
its shadow, and from bright walls around. Corners are darkened by how far a point lies behind what surrounds
it (after Luft, Colditz and Deussen, Image Enhancement by Unsharp Masking the Depth Buffer, 2006; from
memory), so that shallow lettering reads. Grounds are blackened as a workshop does: floors that are cut, and
what lies around raised letters.
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np
import numpy.typing as npt
from PIL import Image
from scipy.ndimage import gaussian_filter, maximum_filter

from kizami.as_made.treatment import Engraved, InRecess, Raised, Scored, Treatment
from kizami.drawing.looking import Look, unit_vector
from kizami.outlines.curves import FloatArray
from kizami.solids.rays import Hits, Rays
from kizami.solids.solid import Solid

__all__ = [
    "Ground",
    "picture",
    "picture_png",
    "seen_size_mm",
]

_Bytes = npt.NDArray[np.uint8]


class Ground(Enum):
    """What a workshop blackens so that lettering reads: what is cut in, or what lies around what stands."""

    FLOORS = "floors"
    AROUND = "around"
    NONE = "none"

    @classmethod
    def of(cls, treatment: Treatment) -> Ground:
        """That of a treatment; lettering that is the piece, or goes through it, has none."""
        if isinstance(treatment, Engraved | Scored):
            return cls.FLOORS
        return cls.AROUND if isinstance(treatment, Raised | InRecess) else cls.NONE


def seen_size_mm(solid: Solid, look: Look) -> tuple[float, float]:
    """How wide and how high a piece is as it is looked at."""
    _, right, up = look.directions
    points = solid.vertices.astype(np.float64)
    return float(np.ptp(points @ right)), float(np.ptp(points @ up))


#: Facets that meet more bluntly than this belong to one smooth face, radians.
_CREASE_RAD = 0.5
#: Reach of the darkening in corners, as shares of the picture's width, and how much each counts.
_REACHES = ((0.004, 0.55), (0.012, 0.45))
#: What lies so far behind what surrounds it, against the reach, is as dark as it gets.
_DEEP = 0.55
#: What is left of the light in the deepest corner and on a blackened ground.
_CORNER, _BLACK = 0.34, 0.42
#: What a shadow takes of the lamp's light.
_SHADOW = 0.85
#: How far around raised letters a ground stays black, as a share of the picture's width.
_AROUND = 0.02
_GAMMA = 2.2
#: Steps of light that are told apart, and the brightest of them.
_SHADES, _BRIGHTEST = 2048, 2.0
_ROOM_PX = 4


def picture_png(
    solid: Solid, *, look: Look, colour: str, size_px: tuple[int, int], ground: Ground, margin_px: int = 24
) -> bytes:
    """The picture as a PNG file with a clear background; see `picture`."""
    file = io.BytesIO()
    drawn = picture(solid, look=look, colour=colour, size_px=size_px, ground=ground, margin_px=margin_px)
    Image.fromarray(drawn).save(file, "PNG", compress_level=2)
    return file.getvalue()


def picture(
    solid: Solid, *, look: Look, colour: str, size_px: tuple[int, int], ground: Ground, margin_px: int = 24
) -> _Bytes:
    """A solid as it is seen from one side.

    Parameters
    ----------
    colour : of the material, as #rrggbb
    size_px : width and height, larger than the margins
    ground : what is blackened
    margin_px : left free on every side

    Returns
    -------
    (height, width, 4) red, green, blue and cover
    """
    width, height = size_px
    eye = _Eye.of(solid, look, size_px, margin_px)
    # Only where the piece is, and a few points around it, anything is to be seen.
    left, top, right, bottom = eye.box(solid, width, height)
    out = np.zeros((height, width, 4), dtype=np.uint8)
    out[top:bottom, left:right] = _drawn(
        solid, eye.moved(left, top), look, (right - left, bottom - top), colour=colour, ground=ground
    )
    return out


def _drawn(
    solid: Solid, eye: _Eye, look: Look, size: tuple[int, int], *, colour: str, ground: Ground
) -> _Bytes:
    width, height = size
    rays = Rays(solid.vertices, solid.triangles)
    hits = eye.shot(rays, *_grid(width, height))
    seen = (hits.triangle >= 0).reshape(height, width)
    depth = np.where(seen, hits.distance.reshape(height, width), 0.0)
    skin = _Skin.of(solid, hits, eye, seen)
    light = np.zeros((height, width))
    light[seen] = _light(skin, eye, look, _shadow(rays, skin, eye, look, seen))
    light *= 1.0 - (1.0 - _CORNER) * _corners(depth, seen, eye, skin.facing(eye, seen))
    lettering = np.zeros((height, width), dtype=bool)
    lettering[seen] = solid.is_lettering[hits.triangle[seen.ravel()]]
    light *= _blackened(lettering, seen, eye.across_px, ground)
    light = _carried_outward(light, seen)
    out = np.empty((height, width, 4), dtype=np.uint8)
    shade = np.clip(light * (_SHADES / _BRIGHTEST), 0, _SHADES - 1).astype(np.int64)
    out[:, :, :3] = _shades(colour).take(shade, axis=0)
    out[:, :, 3] = np.round(255.0 * _smooth_edges(seen))
    return out


def _shades(colour: str) -> _Bytes:
    """The material's colour in every light, (n, 3): the brightest turns white, as on polished edges."""
    light = (np.arange(_SHADES) + 0.5) * (_BRIGHTEST / _SHADES)
    tone = np.array([int(colour[place : place + 2], 16) / 255.0 for place in (1, 3, 5)]) ** _GAMMA
    mixed = light[:, None] * tone + 0.5 * np.clip(light - 1.0, 0.0, 1.0)[:, None]
    table: _Bytes = np.round(255.0 * np.clip(mixed, 0.0, 1.0) ** (1.0 / _GAMMA)).astype(np.uint8)
    return table


def _grid(width: int, height: int) -> tuple[FloatArray, FloatArray]:
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    return x.ravel(), y.ravel()


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Eye:
    """Where rays start: a plane in front of the piece, all along one way."""

    corner: FloatArray
    right: FloatArray
    down: FloatArray
    way: FloatArray
    unit_mm: float
    across_px: int

    @classmethod
    def of(cls, solid: Solid, look: Look, size_px: tuple[int, int], margin_px: int) -> _Eye:
        width, height = size_px
        way, right, up = look.directions
        points = solid.vertices.astype(np.float64)
        across, along = points @ right, points @ up
        unit = max(np.ptp(across) / (width - 2 * margin_px), np.ptp(along) / (height - 2 * margin_px))
        middle = right * (across.min() + across.max()) / 2.0 + up * (along.min() + along.max()) / 2.0
        near = float((points @ way).min()) - 1.0
        corner = middle - right * unit * width / 2.0 + up * unit * height / 2.0 + way * near
        return cls(
            corner=corner, right=right * unit, down=-up * unit, way=way, unit_mm=float(unit), across_px=width
        )

    def box(self, solid: Solid, width: int, height: int) -> tuple[int, int, int, int]:
        """Left, top, right and bottom of what the piece takes of the picture, with room for its edges."""
        off = solid.vertices.astype(np.float64) - self.corner
        across, along = off @ self.right / self.unit_mm**2, off @ self.down / self.unit_mm**2
        return (
            max(int(across.min()) - _ROOM_PX, 0),
            max(int(along.min()) - _ROOM_PX, 0),
            min(int(across.max()) + _ROOM_PX, width),
            min(int(along.max()) + _ROOM_PX, height),
        )

    def moved(self, left: int, top: int) -> _Eye:
        """The same eye for a picture whose corner is cut out of this one."""
        return replace(self, corner=self.corner + self.right * left + self.down * top)

    def starts(self, x: FloatArray, y: FloatArray) -> FloatArray:
        at: FloatArray = self.corner + np.outer(x, self.right) + np.outer(y, self.down)
        return at

    def shot(self, rays: Rays, x: FloatArray, y: FloatArray) -> Hits:
        return rays.first(self.starts(x, y), np.broadcast_to(self.way, (len(x), 3)))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Skin:
    """Where rays met the piece, (n, 3) mm, and the outward directions there, (n, 3)."""

    at: FloatArray
    normal: FloatArray

    @classmethod
    def of(cls, solid: Solid, hits: Hits, eye: _Eye, seen: npt.NDArray[np.bool_]) -> _Skin:
        rows, columns = np.nonzero(seen)
        which = seen.ravel()
        at = (
            eye.starts(np.asarray(columns + 0.5), np.asarray(rows + 0.5))
            + hits.distance[which][:, None] * eye.way
        )
        return cls(at=at, normal=_normals(solid, hits.triangle[which], at))

    def facing(self, eye: _Eye, seen: npt.NDArray[np.bool_]) -> FloatArray:
        """How far each point of the picture faces the eye, 0 to 1."""
        out = np.zeros(seen.shape)
        out[seen] = np.clip(-(self.normal @ eye.way), 0.0, 1.0)
        return out


def _light(skin: _Skin, eye: _Eye, look: Look, shadow: FloatArray) -> FloatArray:
    """How bright each point is: lamp, walls around, and their mirror images."""
    normal = skin.normal
    lamp = unit_vector(np.array(look.lamp))
    mirrored = eye.way - 2.0 * (normal @ eye.way)[:, None] * normal
    straight = np.clip(normal @ lamp, 0.0, 1.0) * (1.0 - shadow)
    overhead = np.clip(0.5 + 0.5 * mirrored[:, 2], 0.0, 1.0)
    side = np.clip(mirrored @ unit_vector(np.array([0.9, -0.5, 0.25])), 0.0, 1.0)
    gleam = np.clip(mirrored @ lamp, 0.0, 1.0) ** 18 * (1.0 - shadow)
    bright: FloatArray = 0.3 + 0.5 * straight + 0.26 * overhead + 0.18 * side**4 + 0.3 * gleam
    return bright


def _normals(solid: Solid, facets: npt.NDArray[np.int64], at: FloatArray) -> FloatArray:
    """Outward directions at places on facets, smooth within a face and sharp at its edges."""
    shown, which = np.unique(facets, return_inverse=True)
    corners = solid.vertices.astype(np.float64)[solid.triangles[shown]]
    by_corner = _corner_normals(solid, shown)
    # Barycentric coordinates by areas, as slopes over the plane of each facet.
    one, other = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    across = np.cross(one, other)
    square = np.maximum(np.einsum("ij,ij->i", across, across), 1e-30)[:, None]
    slope_v, slope_w = np.cross(other, across) / square, np.cross(across, one) / square
    off = at - corners[:, 0].take(which, axis=0)
    v = np.clip(np.einsum("ij,ij->i", off, slope_v.take(which, axis=0)), 0.0, 1.0)
    w = np.clip(np.einsum("ij,ij->i", off, slope_w.take(which, axis=0)), 0.0, 1.0)
    u = np.clip(1.0 - v - w, 0.0, 1.0)
    normal = u[:, None] * by_corner[:, 0].take(which, axis=0)
    normal += v[:, None] * by_corner[:, 1].take(which, axis=0)
    normal += w[:, None] * by_corner[:, 2].take(which, axis=0)
    length = np.sqrt(np.einsum("ij,ij->i", normal, normal))
    smooth: FloatArray = normal / np.maximum(length, 1e-12)[:, None]
    return smooth


def _corner_normals(solid: Solid, shown: npt.NDArray[np.int64]) -> FloatArray:
    """The direction at each corner of the facets that are seen: of all facets there that are no edge away."""
    points, triangles = solid.vertices.astype(np.float64), solid.triangles.astype(np.int64)
    corners = points[triangles]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    flat = across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-30)
    # Every corner of every facet by its vertex, so that those of one vertex stand together.
    owner = triangles.ravel()
    order = np.argsort(owner, kind="stable")
    first = np.searchsorted(owner[order], np.arange(len(points) + 1))
    wanted = triangles[shown].ravel()
    count = first[wanted + 1] - first[wanted]
    mine = np.repeat(np.arange(len(wanted)), count)
    place = (
        np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + np.repeat(first[wanted], count)
    )
    theirs = order[place] // 3
    alike = (flat[shown[mine // 3]] * flat[theirs]).sum(axis=1) > math.cos(_CREASE_RAD)
    # Facets count by their angle there: however a face is cut into triangles, its angles add up to the same.
    angle = _angles(corners).ravel()[order[place]]
    summed: FloatArray = np.zeros((len(wanted), 3))
    for axis in range(3):
        weights = (flat[theirs, axis] * angle)[alike]
        summed[:, axis] = np.bincount(mine[alike], weights, minlength=len(wanted))
    lengths = np.maximum(np.sqrt(np.einsum("ij,ij->i", summed, summed)), 1e-30)
    units: FloatArray = (summed / lengths[:, None]).reshape(-1, 3, 3)
    return units


def _angles(corners: FloatArray) -> FloatArray:
    """The angle of every facet at each of its corners, (m, 3, 3) -> (m, 3), radians."""
    ahead = np.roll(corners, -1, axis=1) - corners
    back = np.roll(corners, 1, axis=1) - corners
    across = np.linalg.norm(np.cross(ahead, back), axis=2)
    angles: FloatArray = np.arctan2(across, (ahead * back).sum(axis=2))
    return angles


def _shadow(rays: Rays, skin: _Skin, eye: _Eye, look: Look, seen: npt.NDArray[np.bool_]) -> FloatArray:
    """How much of the lamp each point does not get, its edges a little soft, (n,)."""
    lamp = unit_vector(np.array(look.lamp))
    # Every second point both ways is enough for what is softened; what is turned away from the lamp has no
    # light of it to lose.
    number = np.full(seen.shape, -1)
    number[seen] = np.arange(len(skin.at))
    asked = number[::2, ::2]
    points = asked[asked >= 0]
    points = points[skin.normal[points] @ lamp > 0.02]
    # A little off the skin, so that nothing shades itself.
    at = skin.at[points] + (skin.normal[points] + lamp) * eye.unit_mm * 0.6
    shaded = np.zeros(len(skin.at))
    shaded[points] = rays.first(at, np.broadcast_to(lamp, at.shape)).triangle >= 0
    coarse = np.where(asked >= 0, shaded[asked], 0.0)
    whole = coarse.repeat(2, axis=0).repeat(2, axis=1)[: seen.shape[0], : seen.shape[1]]
    return _SHADOW * _blurred(whole, seen, eye.across_px * 0.002)[seen]


def _corners(depth: FloatArray, seen: npt.NDArray[np.bool_], eye: _Eye, facing: FloatArray) -> FloatArray:
    """How deep each point lies behind what surrounds it, 0 to 1."""
    total = np.zeros(depth.shape)
    for reach, weight in _REACHES:
        sigma = max(reach * eye.across_px, 0.8)
        behind = depth - _blurred(depth, seen, sigma)
        # A face that leans leaves as much on either side and is not changed; only at its rim it is one-sided.
        total += weight * np.clip(behind / (_DEEP * sigma * eye.unit_mm), 0.0, 1.0)
    return np.clip(total, 0.0, 1.0) * np.clip(2.5 * facing, 0.0, 1.0)


def _blackened(
    lettering: npt.NDArray[np.bool_], seen: npt.NDArray[np.bool_], across_px: int, ground: Ground
) -> FloatArray:
    """What is left of the light on grounds that a workshop blackens."""
    if ground is Ground.NONE or not lettering.any():
        return np.ones(seen.shape)
    sharp = _soft(lettering, 0.6)
    black = sharp
    if ground is Ground.AROUND:
        black = np.clip(2.6 * _soft(lettering, _AROUND * across_px), 0.0, 1.0) * (1.0 - sharp)
    return 1.0 - (1.0 - _BLACK) * black


def _soft(values: FloatArray | npt.NDArray[np.bool_], sigma: float) -> FloatArray:
    """Values with what surrounds them; single precision is plenty for light."""
    single: FloatArray = gaussian_filter(values.astype(np.float32), sigma, truncate=2.5)
    return single


def _blurred(values: FloatArray, seen: npt.NDArray[np.bool_], sigma: float) -> FloatArray:
    """Values with what surrounds them, of the piece alone."""
    cover = _soft(seen, sigma)
    return np.where(seen, _soft(np.where(seen, values, 0.0), sigma) / np.maximum(cover, 1e-6), 0.0)


def _smooth_edges(seen: npt.NDArray[np.bool_]) -> FloatArray:
    """How much of each point the piece covers: its outline is no staircase."""
    return np.clip((_soft(seen, 0.75) - 0.5) * 1.6 + 0.5, 0.0, 1.0)


def _carried_outward(light: FloatArray, seen: npt.NDArray[np.bool_]) -> FloatArray:
    """Light that goes on beyond the outline by a point or two, where it is half covered."""
    rim = maximum_filter(seen, 5) & ~seen
    spread = _soft(np.where(seen, light, 0.0), 1.2) / np.maximum(_soft(seen, 1.2), 1e-6)
    return np.where(rim, spread, light)
