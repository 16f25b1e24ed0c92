"""How a piece lies on a bed: one of the poses in which it does not tip over, lettering up or outward, with
the least to be held up from below."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely
from scipy.spatial import ConvexHull, QhullError

from kizami.errors import RunError
from kizami.outlines.curves import polygons_from_contours
from kizami.runs.body import Body
from kizami.solids.centre import centre_of_mass
from kizami.surfaces.protocol import FloatArray

__all__ = ["Laid", "Pose", "lay", "stable_poses"]

#: Undersides steeper than this from the level need no support (common practice, no source).
_STEEP = np.cos(np.radians(45.0))
#: What lies so near to the bed lies on it, mm.
_ON_BED_MM = 0.05
#: A mm2 of lettering that looks down costs as much as so many mm3 of support: its edges would be spoilt.
_LETTERING_DOWN = 50.0
#: A mm of height costs as much as so many mm3 of support: it is time on the machine.
_HEIGHT = 5.0
#: The centre of mass may lie so far beside the face that a piece stands on.
_STAYS_MM = 1e-3
_MOST_FACES, _MOST_POSES = 60, 12


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Pose:
    """A way to lie.

    Attributes
    ----------
    turn : (3, 3) matrix from the piece's axes to the bed's
    support_mm3 : room under overhanging faces that are not on the bed
    lettering_down_mm2 : lettering that looks down, as area seen from below
    height_mm : how high it stands
    contact_mm2 : area of the hull's face that it lies on
    """

    turn: FloatArray
    support_mm3: float
    lettering_down_mm2: float
    height_mm: float
    contact_mm2: float

    @property
    def cost(self) -> float:
        """What the pose costs; the least is taken."""
        return self.support_mm3 + _LETTERING_DOWN * self.lettering_down_mm2 + _HEIGHT * self.height_mm


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Laid:
    """A piece as it lies on a bed.

    Attributes
    ----------
    turn, shift : put the piece with its lowest corner at x = y = z = 0
    outline : its shadow on the bed, from x = y = 0, without holes
    height_mm, volume_mm3 : of the body
    support_mm3, lettering_down_mm2 : see `Pose`
    """

    turn: FloatArray
    shift: FloatArray
    outline: shapely.Polygon
    height_mm: float
    volume_mm3: float
    support_mm3: float
    lettering_down_mm2: float


def stable_poses(body: Body) -> list[Pose]:
    """Poses on a face of the hull that has the centre of mass above it, the best first; never none.

    The centre of mass is that of the body filled with one material; a pose counts when the plumb line hits
    the face that it stands on.

    Raises
    ------
    RunError : the body is flat
    """
    try:
        hull = ConvexHull(body.points)
    except QhullError as error:
        raise RunError("A piece has no thickness, so it lies nowhere. Make it again.") from error
    centre = centre_of_mass(body.points, body.faces)
    normals = hull.equations[:, :3]
    areas = _areas(hull)
    # Facets of one face are told by their normal.
    _, first, face = np.unique(np.round(normals, 3), axis=0, return_index=True, return_inverse=True)
    size = np.bincount(face.reshape(-1), weights=areas)
    stays: list[tuple[float, FloatArray]] = []
    rolls: list[tuple[float, float, FloatArray]] = []
    # The largest faces first: on what is a speck of the hull nothing stands still.
    for number in np.argsort(-size, kind="stable")[:_MOST_FACES]:
        base = np.unique(hull.simplices[face.reshape(-1) == number])
        turn = _turn_down(normals[first[number]])
        ground = shapely.MultiPoint((hull.points[base] @ turn.T)[:, :2]).convex_hull
        tips = float(shapely.Point((turn @ centre)[:2]).distance(ground))
        if tips < _STAYS_MM:
            stays.append((float(size[number]), turn))
        rolls.append((tips, float(size[number]), turn))
        if len(stays) == _MOST_POSES:
            break
    # A ball or a pebble rolls: it is laid where it rolls least.
    stays = stays or [min(rolls, key=lambda row: row[0])[1:]]
    poses = [_measured(body, turn, area) for area, turn in stays]
    # Where two cost about the same, the one nearer to how the piece is drawn.
    step = 1.0 + 0.02 * min(pose.cost for pose in poses)
    return sorted(poses, key=lambda pose: (round(pose.cost / step), -float(np.trace(pose.turn))))


def lay(body: Body, *, pose: Pose | None = None) -> Laid:
    """A piece in its best pose, or in a given one.

    Raises
    ------
    RunError : see `stable_poses`
    """
    if pose is None:
        pose = stable_poses(body)[0]
    points = body.points @ pose.turn.T
    shadow = _shadow(points, body.faces)
    low = points.min(axis=0)
    low[:2] = shadow.bounds[:2]
    outline = shapely.transform(shadow, lambda xy: xy - low[:2])
    return Laid(
        turn=pose.turn,
        shift=-low,
        outline=outline,
        height_mm=pose.height_mm,
        volume_mm3=body.volume_mm3,
        support_mm3=pose.support_mm3,
        lettering_down_mm2=pose.lettering_down_mm2,
    )


def _measured(body: Body, turn: FloatArray, contact_mm2: float) -> Pose:
    points = body.points @ turn.T
    low, high = points[:, 2].min(), points[:, 2].max()
    a, b, c = points[body.faces.T]
    doubled = np.cross(b - a, c - a)
    area = np.linalg.norm(doubled, axis=1) / 2.0
    level = doubled[:, 2] / np.maximum(2.0 * area, 1e-12)
    height = (a[:, 2] + b[:, 2] + c[:, 2]) / 3.0 - low
    hangs = (level < -_STEEP) & (height > _ON_BED_MM)
    return Pose(
        turn=turn,
        support_mm3=float((-level * area * height)[hangs].sum()),
        lettering_down_mm2=max(0.0, -float(turn[2] @ body.lettering_mm2)),
        height_mm=float(high - low),
        contact_mm2=contact_mm2,
    )


def _shadow(points: FloatArray, faces: np.ndarray[tuple[int, ...], np.dtype[np.int64]]) -> shapely.Polygon:
    """What a body covers of the bed, as one outline without holes."""
    mesh = m3.Mesh(points.astype(np.float32), faces.astype(np.uint32))
    body = m3.Manifold(mesh)
    if body.status() == m3.Error.NoError and not body.is_empty():
        shape = polygons_from_contours([np.asarray(c) for c in body.project().to_polygons()])
    else:
        up = np.cross(points[faces[:, 1]] - points[faces[:, 0]], points[faces[:, 2]] - points[faces[:, 0]])
        shape = shapely.union_all(shapely.polygons(points[faces[up[:, 2] > 1e-9]][:, :, :2]))
    bodies = [shapely.Polygon(part.exterior) for part in shapely.get_parts(shape) if part.area > 1e-4]
    if not bodies:
        raise RunError("A piece covers nothing of the bed. Make it again.")
    whole = shapely.union_all(bodies)
    return whole if isinstance(whole, shapely.Polygon) else whole.convex_hull


def _areas(hull: ConvexHull) -> FloatArray:
    a, b, c = hull.points[hull.simplices.T]
    return np.asarray(np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2.0)


def _turn_down(normal: FloatArray) -> FloatArray:
    """The least turn that brings a direction straight down (Rodrigues' formula)."""
    to = np.array([0.0, 0.0, -1.0])
    cosine = float(normal @ to)
    if cosine > 1.0 - 1e-9:
        return np.eye(3)
    if cosine < -1.0 + 1e-9:
        return np.diag([1.0, -1.0, -1.0])
    axis = np.cross(normal, to)
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + cross + cross @ cross / (1.0 + cosine))
