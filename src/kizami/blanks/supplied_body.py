"""A body that a customer supplied: closed, whole, the right way out and in mm, or refused.

It is mended only within stated limits: corners nearer than a micrometre are made one, facets without
area and doubles are left out, holes no longer round than `LARGEST_HOLE_MM` are closed, and facets that
look the wrong way are turned. Whatever needs more than that goes back to the one who drew it.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from functools import cached_property
from typing import Any, Self

import manifold3d as m3
import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import breadth_first_order, connected_components

from kizami.counting import so_many
from kizami.errors import SurfaceError
from kizami.surfaces.protocol import FloatArray

__all__ = [
    "LARGEST_HOLE_MM",
    "LARGEST_SIDE_MM",
    "MOST_FACETS",
    "SMALLEST_SIDE_MM",
    "UNITS_MM",
    "SuppliedBody",
    "sound_body",
]

_Faces = npt.NDArray[np.int64]

#: Lengths that a file without a unit may be drawn in.
UNITS_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
MOST_FACETS = 400_000
#: Its longest side must lie between these (the largest that a process of the workshop takes).
SMALLEST_SIDE_MM, LARGEST_SIDE_MM = 3.0, 600.0
#: A hole is closed when the way round it is at most this long and a twentieth of the body's diagonal.
LARGEST_HOLE_MM = 2.0
_HOLE_SHARE = 0.05
#: Corners nearer to each other than this are one.
_WELD_MM = 1e-3
#: A body that fills less of its box than this has no inside.
_LEAST_FILL = 1e-4


class SuppliedBody:
    """A sound body. Two are equal when their corners and facets are.

    Attributes
    ----------
    name : of its file, for people
    vertices : (n, 3) mm
    triangles : (m, 3) corners, anticlockwise seen from outside
    notes : what was mended, in words
    """

    __slots__ = ("__dict__", "digest", "name", "notes", "triangles", "vertices")

    def __init__(
        self, *, name: str, vertices: FloatArray, triangles: _Faces, notes: Iterable[str] = ()
    ) -> None:
        self.name = name
        self.vertices = np.ascontiguousarray(vertices, dtype=np.float64)
        self.triangles = np.ascontiguousarray(triangles, dtype=np.int64)
        self.notes = tuple(notes)
        for array in (self.vertices, self.triangles):
            array.flags.writeable = False
        self.digest = hashlib.sha256(self.vertices.tobytes() + self.triangles.tobytes()).hexdigest()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, SuppliedBody) and other.digest == self.digest

    def __hash__(self) -> int:
        return hash(self.digest)

    def __deepcopy__(self, memo: dict[int, Any]) -> Self:
        # It never changes, so a copy would only cost memory.
        return self

    def __getstate__(self) -> tuple[str, FloatArray, _Faces, tuple[str, ...]]:
        return (self.name, self.vertices, self.triangles, self.notes)

    def __setstate__(self, state: tuple[str, FloatArray, _Faces, tuple[str, ...]]) -> None:
        name, vertices, triangles, notes = state
        SuppliedBody.__init__(self, name=name, vertices=vertices, triangles=triangles, notes=notes)

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """Overall size x, y, z."""
        x, y, z = np.ptp(self.vertices, axis=0).tolist()
        return (x, y, z)

    @cached_property
    def manifold(self) -> m3.Manifold:
        """The body as a solid."""
        return _manifold(self.vertices, self.triangles)


def sound_body(vertices: FloatArray, triangles: _Faces, *, name: str, unit_mm: float = 1.0) -> SuppliedBody:
    """A body from the facets of a file.

    Parameters
    ----------
    vertices : (n, 3) in the file's unit
    triangles : (m, 3) corners
    unit_mm : length of that unit

    Raises
    ------
    SurfaceError : it is no body, and mending it would go too far; says what is wrong, by how much, where
    """
    if not len(triangles):
        raise SurfaceError(f"{name} holds no surface.")
    if len(triangles) > MOST_FACETS:
        raise SurfaceError(
            f"{name} has {len(triangles):,} facets; {MOST_FACETS:,} are the most. Write it out more coarsely."
        )
    if not np.isfinite(vertices).all():
        raise SurfaceError(f"{name} has corners that are no numbers. Write it out again.")
    if triangles.min() < 0 or triangles.max() >= len(vertices):
        raise SurfaceError(f"{name} has a surface with corners that are not in the file.")
    # Sizes are looked at first: what is a hair's breadth across would be welded to nothing.
    points = np.asarray(vertices, dtype=np.float64) * unit_mm
    _check_size(points[np.unique(triangles)], name)
    notes: list[str] = []
    points, faces = _welded(points, np.asarray(triangles, dtype=np.int64), notes)
    if not len(faces):
        raise SurfaceError(f"{name} has no inside: its surface has no area.")
    faces = _turned_alike(points, faces, name, notes)
    points, faces = _closed(points, faces, name, notes)
    faces = _outward(points, faces, name, notes)
    points, faces = _one_body(points, faces, name, notes)
    _not_crossing(points, faces, name)
    return SuppliedBody(name=name, vertices=points, triangles=faces, notes=notes)


def _check_size(points: FloatArray, name: str) -> None:
    size = np.ptp(points, axis=0)
    said = " × ".join(f"{s:.4g}" for s in size)
    largest = float(size.max())
    if SMALLEST_SIDE_MM <= largest <= LARGEST_SIDE_MM:
        return
    fitting = [
        f"drawn in {unit} it would be {' × '.join(f'{s * mm:.4g}' for s in size)} mm"
        for unit, mm in UNITS_MM.items()
        if mm != 1.0 and SMALLEST_SIDE_MM <= largest * mm <= LARGEST_SIDE_MM
    ]
    raise SurfaceError(
        f"{name} is {said} mm; its longest side must be from {SMALLEST_SIDE_MM:g} to {LARGEST_SIDE_MM:g} mm. "
        + (f"Is its unit another? {fitting[0][0].upper()}{fitting[0][1:]}." if fitting else "Scale it first.")
    )


def _welded(points: FloatArray, faces: _Faces, notes: list[str]) -> tuple[FloatArray, _Faces]:
    """Corners that are one made one; facets without area and doubles left out."""
    before = len(faces)
    _, first, same = np.unique(
        np.round(points / _WELD_MM).astype(np.int64), axis=0, return_index=True, return_inverse=True
    )
    faces = same.reshape(-1)[faces]
    distinct = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    faces = faces[distinct]
    # A facet and its double, whichever way round and from whichever corner.
    _, kept = np.unique(np.sort(faces, axis=1), axis=0, return_index=True)
    doubles = len(faces) - len(kept)
    faces = faces[np.sort(kept)]
    used, faces = np.unique(faces, return_inverse=True)
    if doubles:
        notes.append(f"{so_many(doubles, 'facet')} stood twice, which was left out")
    flat = before - doubles - len(faces.reshape(-1, 3))
    if flat > 0:
        notes.append(f"{so_many(flat, 'facet')} without area left out")
    return points[first][used], faces.reshape(-1, 3)


def _edges(faces: _Faces) -> tuple[_Faces, _Faces]:
    """Edges (3 m, 2) in the direction of their facet, and the facet that each belongs to."""
    edges = faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    return edges, np.repeat(np.arange(len(faces)), 3)


def _turned_alike(points: FloatArray, faces: _Faces, name: str, notes: list[str]) -> _Faces:
    """Facets turned so that neighbours run the same way round."""
    edges, owner = _edges(faces)
    forward = edges[:, 0] < edges[:, 1]
    sorted_edges = np.sort(edges, axis=1)
    order = np.lexsort(sorted_edges.T)
    rows = sorted_edges[order]
    starts = np.flatnonzero(np.r_[True, (rows[1:] != rows[:-1]).any(axis=1)])
    counts = np.diff(np.r_[starts, len(rows)])
    if (counts > 2).any():
        x, y, z = points[rows[starts[np.argmax(counts > 2)]]].mean(axis=0)
        raise SurfaceError(
            f"{name} has {int((counts > 2).sum())} edges at which more than two facets meet, one of them at "
            f"x {x:.2f}, y {y:.2f}, z {z:.2f}; such a body has no clear inside. "
            "Make it one piece in the program that drew it."
        )
    first = order[starts[counts == 2]]
    second = order[starts[counts == 2] + 1]
    a, b = owner[first], owner[second]
    # Two neighbours that run along their edge in the same direction look opposite ways.
    opposed = forward[first] == forward[second]
    if not opposed.any():
        return faces
    count = len(faces)
    links = coo_array((np.ones(2 * len(a)), (np.r_[a, b], np.r_[b, a])), shape=(count, count)).tocsr()
    signs = {(int(x), int(y)): bool(o) for x, y, o in zip(a, b, opposed, strict=True)}
    signs |= {(y, x): o for (x, y), o in signs.items()}
    turned = np.zeros(count, dtype=bool)
    _, group = connected_components(links, directed=False)
    for root in np.unique(group, return_index=True)[1]:
        walk, before = breadth_first_order(links, int(root), directed=False)
        for facet in walk[1:]:
            turned[facet] = turned[before[facet]] ^ signs[(int(before[facet]), int(facet))]
    if (turned[a] ^ turned[b] != opposed).any():
        twisted = faces[a[np.argmax(turned[a] ^ turned[b] != opposed)]]
        x, y, z = points[twisted].mean(axis=0)
        raise SurfaceError(
            f"{name} has only one side, like a twisted band, as at x {x:.2f}, y {y:.2f}, z {z:.2f}; it is no "
            "body. Give it an inside in the program that drew it."
        )
    # In each shell the fewer are the wrong ones.
    for shell in range(int(group.max()) + 1):
        members = group == shell
        if turned[members].sum() > members.sum() / 2:
            turned[members] = ~turned[members]
    notes.append(f"{int(turned.sum())} facets looked the wrong way and were turned")
    result = faces.copy()
    result[turned] = result[turned][:, ::-1]
    return result


def _closed(points: FloatArray, faces: _Faces, name: str, notes: list[str]) -> tuple[FloatArray, _Faces]:
    """Small holes closed by a fan about their middle; larger ones refused with their length and place."""
    loops = _holes(faces)
    if not loops:
        return points, faces
    limit = min(LARGEST_HOLE_MM, _HOLE_SHARE * float(np.linalg.norm(np.ptp(points, axis=0))))
    lengths = [
        float(np.linalg.norm(points[loop] - points[np.roll(loop, -1)], axis=1).sum()) for loop in loops
    ]
    worst = int(np.argmax(lengths))
    if lengths[worst] > limit:
        x, y, z = points[loops[worst]].mean(axis=0)
        holes = f"{len(loops)} holes, the largest" if len(loops) > 1 else "a hole"
        raise SurfaceError(
            f"{name} is not closed: it has {holes} {lengths[worst]:.2f} mm round, at "
            f"x {x:.2f}, y {y:.2f}, z {z:.2f}. Holes up to {limit:.2f} mm round are closed by themselves; "
            "close this one in the program that drew it."
        )
    new_points, new_faces = [points], [faces]
    for number, loop in enumerate(loops):
        middle = len(points) + number
        new_points.append(points[loop].mean(axis=0, keepdims=True))
        # The hole's edges run along the facets beside it, so its own facets run the other way.
        new_faces.append(np.column_stack((np.roll(loop, -1), loop, np.full(len(loop), middle))))
    notes.append(f"{so_many(len(loops), 'hole')} closed, up to {lengths[worst]:.2f} mm round")
    return np.vstack(new_points), np.vstack(new_faces)


def _holes(faces: _Faces) -> list[_Faces]:
    """Corners of each hole in order, along the facets beside it."""
    edges, _ = _edges(faces)
    ids = edges[:, 0] * (faces.max() + 1) + edges[:, 1]
    back = edges[:, 1] * (faces.max() + 1) + edges[:, 0]
    open_edges = edges[~np.isin(ids, back)]
    following: dict[int, list[int]] = {}
    for start, end in open_edges.tolist():
        following.setdefault(start, []).append(end)
    loops = []
    while following:
        start = next(iter(following))
        loop, at = [], start
        while at in following:
            loop.append(at)
            ends = following[at]
            at_next = ends.pop()
            if not ends:
                del following[at]
            at = at_next
            if at == start:
                break
        loops.append(np.array(loop))
    return loops


def _signed_volume(points: FloatArray, faces: _Faces) -> float:
    a, b, c = (points[faces[:, k]] for k in range(3))
    return float(np.einsum("nd,nd->", a, np.cross(b, c)) / 6.0)


def _outward(points: FloatArray, faces: _Faces, name: str, notes: list[str]) -> _Faces:
    """The body the right way out, and not without an inside."""
    middle = points.mean(axis=0)
    volume = _signed_volume(points - middle, faces)
    box = float(np.prod(np.maximum(np.ptp(points, axis=0), _WELD_MM)))
    if abs(volume) < _LEAST_FILL * box or abs(volume) < 1e-3:
        raise SurfaceError(
            f"{name} encloses {abs(volume):.4f} mm3; it is a skin without an inside. "
            "Give it a thickness in the program that drew it."
        )
    if volume > 0:
        return faces
    notes.append("the body was inside out and was turned")
    return faces[:, ::-1].copy()


def _not_crossing(points: FloatArray, faces: _Faces, name: str) -> None:
    """Refuse a skin that crosses itself: there it has an inside twice, or turned outside.

    Along any line through a sound body its skin is entered and left in turn.
    """
    solid = _manifold(points, faces)
    corners = points[faces]
    middles = corners.mean(axis=1)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(normals, axis=1)
    chosen = np.flatnonzero(lengths > 1e-9)
    chosen = chosen[:: max(1, len(chosen) // _MOST_LINES)]
    reach = 2.0 * float(np.linalg.norm(np.ptp(points, axis=0))) + 1.0
    # A little askew, so that a line along an axis does not run within a side.
    ways = normals[chosen] / lengths[chosen, None] + np.array([0.0137, -0.0071, 0.0093])
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    for middle, way in zip(middles[chosen], ways, strict=True):
        hits = solid.ray_cast(tuple(middle + way * reach), tuple(middle - way * reach))
        inside = np.cumsum([1 if np.dot(hit.normal, way) > 0 else -1 for hit in hits])
        places = np.array([hit.distance for hit in hits])
        # Two crossings at one place graze an edge and come in any order.
        if len(inside) == 0 or inside[-1] != 0 or np.diff(places).min(initial=1.0) < 1e-7:
            continue
        if inside.max() > 1 or inside.min() < 0:
            wrong = hits[int(np.argmax((inside > 1) | (inside < 0)))]
            x, y, z = wrong.position
            raise SurfaceError(
                f"{name} crosses itself at x {x:.2f}, y {y:.2f}, z {z:.2f}, so that it is not clear what is "
                "inside. Make it one piece in the program that drew it."
            )


#: Lines along which a skin is looked through.
_MOST_LINES = 200


def _manifold(points: FloatArray, faces: _Faces) -> m3.Manifold:
    # Copied, as the arrays of a body are locked and the library takes only those that are not.
    return m3.Manifold(m3.Mesh64(np.array(points), faces.astype(np.uint64)))


def _one_body(points: FloatArray, faces: _Faces, name: str, notes: list[str]) -> tuple[FloatArray, _Faces]:
    """One connected solid; bodies that overlap are made one."""
    solid = _manifold(points, faces)
    if solid.status() != m3.Error.NoError:
        raise SurfaceError(f"{name} is no closed shape ({solid.status().name}). Write it out again.")
    parts = solid.decompose()
    if len(parts) == 1:
        return points, faces
    # Shells that look inward are hollows, not bodies.
    bodies = [part for part in parts if part.volume() > 0]
    if len(bodies) == 1:
        return points, faces
    if len(bodies) < len(parts):
        raise SurfaceError(f"{name} holds {len(bodies)} parts, hollow ones among them; a blank is one.")
    whole = m3.Manifold.batch_boolean(bodies, m3.OpType.Add)
    apart = len(whole.decompose())
    if apart != 1:
        least = min(whole.decompose(), key=lambda part: part.volume())
        x, y, z = np.array(least.bounding_box()).reshape(2, 3).mean(axis=0)
        raise SurfaceError(
            f"{name} holds {apart} bodies that do not touch, the smallest at x {x:.2f}, y {y:.2f}, "
            f"z {z:.2f}; a blank is one. Send it alone."
        )
    notes.append(f"{len(bodies)} bodies that overlapped were made one")
    mesh = whole.to_mesh64()
    return np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts, dtype=np.int64)
