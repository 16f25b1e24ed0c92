"""The lines that a pen would have followed to draw a letter: its medial axis, put right where strokes meet.

The medial axis leaves the middle of a stroke near corners and joints: two strokes that meet at an angle run
into one line before their middles do, which makes a Y of the top of an A. Here the axis is cut back around
every joint and corner to where it is a stroke's middle again, and the strokes go on straight from there to
where they meet. A disc that touches the notch between two strokes of width w at an angle a has its middle
(w/2)(1 - s)/(s (1 + s)) from where their middles meet, s = sin(a/2), and the axis is bent as far as the foot
of the notch on either middle, (w/2) cot(a/2); between the two lie 0.7 to 1 radii of that disc (derived).
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import shapely
import shapely.ops

from kizami.outlines.curves import FloatArray
from kizami.outlines.narrow import MedialAxis
from kizami.prepared import prepared

__all__ = ["CentreLine", "CentreLines", "centre_lines"]

#: The outline between the points that a disc touches is at least this many times as long as the disc is wide
#: where the disc is a stroke's: along the two corners of a flat end it is as long as wide.
_LASTING = 1.9
#: A branch shorter than this many radii of the disc at its joint, and that ends within so many of where the
#: other strokes meet, is the corner of a joint, no stroke.
_STUB, _TIP_NEAR = 3.0, 1.3
#: Where a stroke ends in two branches no longer than this, they are the feet of a serif.
_FOOT = 1.6
#: The axis is cut back by so many of those radii.
_CUT_BACK = 1.4
#: And by so many at a corner of one stroke, which may turn in two steps.
_CORNER_BACK = 1.7
#: And by so many radii of its last disc where a stroke ends.
_END_BACK = 0.9
#: A line that turns by more than this within a radius or so has a corner there, degrees.
_CORNER_DEG = 60.0
#: Where strokes meet is not further than this many radii from where their axes do.
_NEAR = 2.2


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class CentreLine:
    """The middle of one stroke.

    Attributes
    ----------
    points : (n, 2); the first is the last again where it closes
    ends : of its first and last point: "joint" where it meets others, "flat" or "round" where it ends
    """

    points: FloatArray
    ends: tuple[str, str] = ("joint", "joint")


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class CentreLines:
    """A letter as lines.

    Attributes
    ----------
    lines : of its strokes
    joints : (m, 2) where three or more of them meet
    dots : (k, 3) middles and radii of marks that have no line
    width : of most of its strokes
    is_round : most of its strokes end round
    openings, bodies : closed middles, and parts that do not touch
    """

    lines: tuple[CentreLine, ...]
    joints: FloatArray
    dots: FloatArray
    width: float
    is_round: bool
    openings: int = 0
    bodies: int = 1

    def moved(self, factor: tuple[float, float], origin: tuple[float, float]) -> CentreLines:
        """In another size, each way by its factor, and at another place."""
        scale, to = np.array(factor), np.array(origin)
        return CentreLines(
            lines=tuple(replace(line, points=line.points * scale + to) for line in self.lines),
            joints=self.joints * scale + to,
            dots=np.column_stack((self.dots[:, :2] * scale + to, self.dots[:, 2:] * abs(factor[1]))),
            width=self.width * abs(factor[1]),
            is_round=self.is_round,
            openings=self.openings,
            bodies=self.bodies,
        )

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Of all lines and the middles of all dots."""
        points = np.concatenate([*(line.points for line in self.lines), self.dots[:, :2]])
        low, high = points.min(axis=0), points.max(axis=0)
        return (float(low[0]), float(low[1]), float(high[0]), float(high[1]))


@dataclass(eq=False)
class _Branch:
    """A line between two nodes, `None` where it just ends."""

    points: FloatArray
    nodes: list[int | None]

    @property
    def is_closed(self) -> bool:
        return self.nodes == [None, None] and bool(np.array_equal(self.points[0], self.points[-1]))

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


def centre_lines(shape: shapely.MultiPolygon, axis: MedialAxis | None) -> CentreLines | None:
    """The lines of a letter; None where it has none.

    Parameters
    ----------
    shape : bodies with holes, any unit
    axis : its medial axis
    """
    if axis is None or shape.is_empty:
        return None
    shape = prepared(shape)
    lasting = np.flatnonzero(axis.path >= _LASTING * axis.width)
    within = shapely.contains_xy(shape, axis.centres[lasting, 0], axis.centres[lasting, 1])
    chosen = lasting[within]
    edge = prepared(shape.boundary)
    dots = _dots(shape, axis.centres[chosen])
    if not len(chosen):
        if not len(dots):
            return None
        return CentreLines(
            lines=(),
            joints=np.empty((0, 2)),
            dots=dots,
            width=2.0 * float(dots[:, 2].max()),
            is_round=True,
            bodies=len(shape.geoms),
        )
    width = float(np.median(axis.width[chosen]))
    merged = shapely.line_merge(shapely.multilinestrings(shapely.linestrings(axis.ridges[chosen])))
    merged = shapely.simplify(merged, 0.01 * width)
    # In the corner of a joint or an oblique end a piece of the axis may be left by itself.
    pieces = shapely.get_parts(merged)
    longest = {
        body: max((line.length for line in pieces if line.intersects(body)), default=0.0)
        for body in shape.geoms
    }
    whole = [
        line
        for line in pieces
        if line.length > 0.5 * width
        or any(line.intersects(body) and line.length >= most for body, most in longest.items())
        or (not line.is_ring and _touches_others(line, pieces))
    ]
    branches = [b for line in whole for b in _at_corners(line, edge)]
    graph = _Graph(branches, shape, edge)
    graph.drop_stubs()
    lines = graph.drawn()
    ended = [end for line in lines for end in line.ends if end != "joint"]
    finished = tuple(_with_ends(line, shape, edge) for line in lines)
    finished = _with_what_stands_out(finished, shape, width)
    rounds = [end for line in finished for end in line.ends if end != "joint"]
    return CentreLines(
        lines=finished,
        joints=graph.joints(),
        dots=dots,
        width=width,
        is_round=bool(ended) and rounds.count("round") > len(rounds) / 2,
        openings=sum(len(body.interiors) for body in shape.geoms),
        bodies=len(shape.geoms),
    )


def _touches_others(line: shapely.LineString, pieces: np.ndarray) -> bool:
    return int(shapely.intersects(line, pieces).sum()) > 1


def _with_what_stands_out(
    lines: tuple[CentreLine, ...], shape: shapely.MultiPolygon, width: float
) -> tuple[CentreLine, ...]:
    """Lines with one more for each part of the letter that a pen along them would leave out.

    The top of a Þ and the arm of a Ł are hardly longer than wide, and the axis of such a stroke is no longer
    than that of a corner. Yet without them they are other letters.
    """
    pens = [
        shapely.LineString(line.points).buffer(
            width / 2.0, cap_style="square", join_style="mitre", mitre_limit=_POINTED
        )
        for line in lines
    ]
    drawn = shapely.union_all(pens)
    middles = shapely.MultiLineString([line.points for line in lines])
    added = []
    with_lines = shapely.MultiPolygon([body for body in shape.geoms if body.intersects(middles)])
    left_out = with_lines.difference(drawn.buffer(_OUT_AT_ALL * width))
    # Two arms that stand out beside each other may be tied by a hair.
    hair = _HAIR * width
    for part in shapely.get_parts(left_out.buffer(-hair).buffer(hair, join_style="mitre")):
        corners = shapely.get_coordinates(part)
        if not len(corners) or not shapely.contains_xy(shape, *part.representative_point().coords[0]):
            continue
        far = float(shapely.distance(shapely.points(corners), drawn).max())
        if far < _OUT_FAR * width or part.area < _OUT_AREA * width**2:
            continue
        if part.area < _OUT_FULL * shapely.minimum_rotated_rectangle(part).area:
            # The corner of a broad shoulder, no stroke.
            continue
        middle = np.array(part.centroid.coords[0])
        _, nearest = shapely.shortest_line(part.centroid, middles).coords
        start = np.array(nearest)
        way = middle - start
        for along in (0, 1):
            if abs(way[1 - along]) < _STRAIGHT * abs(way[along]):
                way[1 - along] = 0.0
                start[1 - along] = middle[1 - along]
        way = way / max(float(np.hypot(*way)), 1e-12)
        reach = float(((corners - start) @ way).max()) - width / 2.0
        if reach > 0:
            added.append(CentreLine(points=np.array([start, start + way * reach]), ends=("joint", "flat")))
    return (*lines, *added)


#: What stands out of a letter drawn with a pen is a stroke from this far out on, and of this area, in widths.
_OUT_AT_ALL, _OUT_FAR, _OUT_AREA = 0.12, 0.42, 0.2
_HAIR = 0.06
#: A point between strokes is no stroke, however sharp.
_POINTED = 10.0
#: And it fills its box by this share.
_OUT_FULL = 0.55
#: What leans by less than this, across over along, goes straight: up, or to the side.
_STRAIGHT = 0.5


def _dots(shape: shapely.MultiPolygon, centres: FloatArray) -> FloatArray:
    """Middles and radii of bodies without a line of their own."""
    found = []
    points = shapely.points(centres) if len(centres) else np.array([], dtype=object)
    for body in shape.geoms:
        if not shapely.contains(body, points).any():
            disc = shapely.maximum_inscribed_circle(body)
            found.append((*disc.coords[0], disc.length))
    return np.array(found, dtype=np.float64).reshape(-1, 3)


def _at_corners(line: shapely.LineString, edge: shapely.Geometry) -> Iterator[_Branch]:
    """A line of the axis, parted at its corners."""
    points = np.asarray(line.coords)
    length = line.length
    reach = 1.2 * float(shapely.distance(line.interpolate(0.5, normalized=True), edge))
    steps = max(int(length / max(reach, 1e-12) * 8), 0)
    cuts: list[float] = []
    if steps > 4:
        at = np.linspace(0.0, length, steps + 1)
        inner = at[(at > reach) & (at < length - reach)]
        if len(inner):
            before, here, after = (
                shapely.get_coordinates(shapely.line_interpolate_point(line, inner + offset))
                for offset in (-reach, 0.0, reach)
            )
            one, other = here - before, after - here
            turn = np.degrees(
                np.abs(
                    np.arctan2(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0], (one * other).sum(axis=1))
                )
            )
            while turn.max() > _CORNER_DEG:
                sharpest = int(turn.argmax())
                cuts.append(float(inner[sharpest]))
                turn[np.abs(inner - inner[sharpest]) < 2.0 * reach] = 0.0
    if not cuts:
        yield _Branch(points=points, nodes=[None, None])
        return
    ends = [0.0, *sorted(cuts), length]
    for start, end in itertools.pairwise(ends):
        part = shapely.get_coordinates(shapely.ops.substring(line, start, end))
        yield _Branch(points=part, nodes=[None, None])


class _Graph:
    """Branches and the nodes in which they meet."""

    def __init__(self, branches: list[_Branch], shape: shapely.MultiPolygon, edge: shapely.Geometry) -> None:
        self.branches, self.shape, self.edge = branches, shape, edge
        self.middles: dict[int, FloatArray] = {}
        self.radii: dict[int, float] = {}
        self._node_them()

    def _node_them(self) -> None:
        ends: dict[tuple[float, float], list[tuple[_Branch, int]]] = defaultdict(list)
        for branch in self.branches:
            for side in (0, 1):
                point = branch.points[-side]
                ends[round(float(point[0]), 9), round(float(point[1]), 9)].append((branch, side))
        for number, (point, several) in enumerate(ends.items()):
            if len(several) < 2 or (len(several) == 2 and several[0][0] is several[1][0]):
                # A line that closes on itself has no joint where it happens to begin.
                continue
            self.middles[number] = np.array(point)
            self.radii[number] = float(shapely.distance(shapely.Point(point), self.edge))
            for branch, side in several:
                branch.nodes[side] = number
        # What is shorter than a joint lies within one.
        for branch in list(self.branches):
            one, other = branch.nodes
            if one is None or other is None or one == other:
                continue
            if branch.length < 0.8 * max(self.radii[one], self.radii[other]):
                self.branches.remove(branch)
                self._unite(one, other)

    def _unite(self, one: int, other: int) -> None:
        self.middles[one] = (self.middles[one] + self.middles[other]) / 2.0
        self.radii[one] = max(self.radii[one], self.radii[other])
        for branch in self.branches:
            branch.nodes = [one if node == other else node for node in branch.nodes]

    def at(self, node: int) -> list[tuple[_Branch, int]]:
        """Branches that end in a node, and with which end."""
        return [(b, side) for b in self.branches for side in (0, 1) if b.nodes[side] == node]

    def drop_stubs(self) -> None:
        """Take out short branches that only reach into the corners of a joint or of a stroke's end."""
        for node in list(self.middles):
            several = self.at(node)
            free = [branch for branch, side in several if branch.nodes[1 - side] is None]
            stubs = [branch for branch in free if branch.length < _STUB * self.radii[node]]
            feet = [branch for branch in free if branch.length < _FOOT * self.radii[node]]
            if len(feet) == len(several) - 1 >= 2:
                stubs = feet
            elif len(several) - len(stubs) < 2:
                continue
            left = len(several) - len(stubs)
            if left > 1:
                # Only what the strokes that stay reach by themselves where they meet.
                ways = [self._way_in(branch, side) for branch, side in several if branch not in stubs]
                met = _meeting(ways, self.middles[node], self.radii[node])
                reach = self.radii[node] * (_TIP_NEAR if left > 2 else _pointed(ways))
                stubs = [b for b in stubs if self._tip_is_near(b, met, reach)]
            if not stubs or left == 0 or (left == 1 and len(stubs) < 2):
                continue
            for branch in stubs:
                self.branches.remove(branch)
            if left > 1 and len(rest := self.at(node)) == 2 and not self._turns(rest):
                self._join(node, rest)
            if left == 1:
                # A stroke that ends in two short feet ends there.
                for branch in self.branches:
                    branch.nodes = [None if n == node else n for n in branch.nodes]

    def _turns(self, pair: list[tuple[_Branch, int]]) -> bool:
        """Whether two branches that meet make a corner."""
        (_, one), (_, other) = (self._way_in(branch, side) for branch, side in pair)
        return float(one @ other) > -math.cos(math.radians(_CORNER_DEG))

    def _join(self, node: int, pair: list[tuple[_Branch, int]]) -> None:
        """Make one branch of two that go on as one line."""
        (first, side), (second, other) = pair
        if first is second:
            first.nodes = [None, None]
            return
        head = first.points[::-1] if side == 0 else first.points
        tail = second.points if other == 0 else second.points[::-1]
        self.branches = [b for b in self.branches if b is not first and b is not second]
        self.branches.append(
            _Branch(
                points=np.concatenate((head, tail[1:])),
                nodes=[first.nodes[1 - side], second.nodes[1 - other]],
            )
        )

    def _way_in(self, branch: _Branch, side: int) -> tuple[FloatArray, FloatArray]:
        """Where a branch is the middle of its stroke beyond a joint, and its direction there."""
        node = branch.nodes[side]
        assert node is not None
        points = branch.points if side == 0 else branch.points[::-1]
        back = min(_CUT_BACK * self.radii[node], 0.4 * branch.length)
        part = shapely.ops.substring(shapely.LineString(points), back, branch.length)
        return _way_out(shapely.get_coordinates(part), self.radii[node])

    @staticmethod
    def _tip_is_near(branch: _Branch, point: FloatArray, reach: float) -> bool:
        tip = branch.points[0] if branch.nodes[0] is None else branch.points[-1]
        return float(np.hypot(*(tip - point))) < reach

    def joints(self) -> FloatArray:
        """Where three or more meet, once they are drawn."""
        found = [self.middles[node] for node in self.middles if len(self.at(node)) > 2]
        return np.array(found).reshape(-1, 2)

    def drawn(self) -> list[CentreLine]:
        """Every branch cut back around its joints and led straight to where the strokes meet."""
        cut = {id(b): b.points for b in self.branches}
        back_of: dict[int, list[tuple[float, float]]] = {}
        ways: dict[int, list[tuple[FloatArray, FloatArray]]] = defaultdict(list)
        for branch in self.branches:
            back = [self._back(branch, side) for side in (0, 1)]
            back_of[id(branch)] = back
            line = shapely.LineString(branch.points)
            part = shapely.get_coordinates(
                shapely.ops.substring(line, back[0][0], max(line.length - back[1][0], back[0][0] + 1e-9))
            )
            cut[id(branch)] = part
            for side, node in enumerate(branch.nodes):
                if node is not None:
                    ways[node].append(_way_out(part if side == 0 else part[::-1], self.radii[node]))
        for node, several in ways.items():
            if len(self.at(node)) > 1:
                meeting = _meeting(several, self.middles[node], self.radii[node])
                self.middles[node] = self._cut_off(meeting, self.middles[node], self.radii[node])
        lines = []
        for branch in self.branches:
            if branch.is_closed:
                lines.append(CentreLine(points=branch.points))
                continue
            points = [cut[id(branch)]]
            one, other = branch.nodes
            for at_end, node in ((False, one), (True, other)):
                part = cut[id(branch)][::-1] if at_end else cut[id(branch)]
                _, onward = back_of[id(branch)][at_end]
                start, way = _way_out(part, onward)
                end = self.middles[node] if node is not None else start - way * onward
                points.insert(len(points) if at_end else 0, end[None])
            lines.append(
                CentreLine(
                    points=np.concatenate(points),
                    ends=("end" if one is None else "joint", "end" if other is None else "joint"),
                )
            )
        return self._one_after_the_other(lines)

    def _cut_off(self, meeting: FloatArray, node: FloatArray, radius: float) -> FloatArray:
        """Where strokes meet; a point beyond the letter is cut off, below an accent with room."""
        bodies = self.shape.geoms
        at = shapely.Point(node)
        body = min(bodies, key=lambda b: float(b.distance(at)))
        inset = _BELOW_ACCENT * radius if len(bodies) > 1 else 0.0
        _, low, _, high = body.bounds
        return np.array([meeting[0], np.clip(meeting[1], low + inset, high - inset)])

    def _back(self, branch: _Branch, side: int) -> tuple[float, float]:
        """How far a branch is cut back at an end, and how far it then goes straight on where it is free."""
        node = branch.nodes[side]
        if branch.is_closed:
            return 0.0, 0.0
        if node is not None:
            cut = _CUT_BACK if len(self.at(node)) > 2 else _CORNER_BACK
            return min(cut * self.radii[node], 0.4 * branch.length), 0.0
        line = shapely.LineString(branch.points if side == 0 else branch.points[::-1])
        most = float(shapely.distance(line.interpolate(0.5, normalized=True), self.edge))
        at = np.linspace(0.0, min(0.5 * branch.length, 3.0 * most), _LOOKS)
        radii = shapely.distance(shapely.line_interpolate_point(line, at), self.edge)
        # Towards the sharper corner of an oblique end the axis leaves the middle, and its discs grow small.
        whole = np.flatnonzero(radii >= _WHOLE * radii.max())
        free = float(at[whole[0]]) if len(whole) else 0.0
        onward = min(_END_BACK * float(radii.max()), 0.3 * branch.length)
        return free + onward, onward

    def _one_after_the_other(self, lines: list[CentreLine]) -> list[CentreLine]:
        """Lines that meet in twos as one, so that a pen turns there."""
        multi = shapely.line_merge(shapely.MultiLineString([line.points for line in lines]))
        free = {
            (round(float(p[0]), 9), round(float(p[1]), 9))
            for line in lines
            for p, end in ((line.points[0], line.ends[0]), (line.points[-1], line.ends[1]))
            if end == "end"
        }
        out = []
        for part in shapely.get_parts(multi):
            points = shapely.get_coordinates(part)
            first, last = (
                "end" if (round(float(p[0]), 9), round(float(p[1]), 9)) in free else "joint"
                for p in (points[0], points[-1])
            )
            out.append(CentreLine(points=points, ends=(first, last)))
        return out


#: A direction is that of so many radii of a line.
_AHEAD = 1.2


def _way_out(points: FloatArray, radius: float) -> tuple[FloatArray, FloatArray]:
    """Where a branch begins beyond its joint, and its direction there."""
    line = shapely.LineString(points)
    ahead = shapely.get_coordinates(line.interpolate(min(_AHEAD * radius, line.length)))[0]
    way = ahead - points[0]
    return points[0], way / max(float(np.hypot(*way)), 1e-12)


def _pointed(ways: list[tuple[FloatArray, FloatArray]]) -> float:
    """How far the point between two strokes may lie from where their middles meet, in halves of a stroke."""
    (_, one), (_, other) = ways
    half = math.acos(max(-1.0, min(1.0, float(one @ other)))) / 2.0
    return max(_TIP_NEAR, 1.05 / max(math.sin(half), 0.1))


def _meeting(ways: list[tuple[FloatArray, FloatArray]], node: FloatArray, radius: float) -> FloatArray:
    """The point that lies nearest to all of several lines; the node itself where that is somewhere else."""
    matrix, right = np.zeros((2, 2)), np.zeros(2)
    for point, way in ways:
        across = np.eye(2) - np.outer(way, way)
        matrix += across
        right += across @ point
    if np.linalg.cond(matrix) > _PARALLEL:
        # One line that goes on: halfway between its ends.
        return (ways[0][0] + ways[1][0]) / 2.0 if len(ways) == 2 else node.copy()
    found = np.linalg.solve(matrix, right).astype(np.float64)
    return found if float(np.hypot(*(found - node))) < _NEAR * radius else node.copy()


#: The middle of a stroke keeps so far within a body that has others beside it, in radii of the disc at a
#: joint.
_BELOW_ACCENT = 0.7
#: Places along the end of a branch that are looked at, and how large a disc is that still fills its stroke.
_LOOKS, _WHOLE = 24, 0.85
#: Lines within about 12 degrees of each other meet nowhere in particular.
_PARALLEL = 80.0


def _with_ends(line: CentreLine, shape: shapely.MultiPolygon, edge: shapely.Geometry) -> CentreLine:
    """A line that knows whether its stroke ends flat or round."""
    ends = []
    for end, points in ((line.ends[0], line.points), (line.ends[1], line.points[::-1])):
        if end == "joint":
            ends.append(end)
            continue
        radius = float(shapely.distance(shapely.Point(points[0]), edge))
        _, way = _way_out(points, radius)
        aside = np.array([-way[1], way[0]])
        # A disc leaves the corners of a flat end free. The line ends 0.9 radii from a flat end, and 0.33 of
        # them before the middle of a round one, by the share of outline to width that is still a stroke's.
        corners = [points[0] + radius * (side * 0.95 * aside - 0.85 * way) for side in (-1.0, 1.0)]
        flat = any(bool(shapely.contains_xy(shape, *corner)) for corner in corners)
        ends.append("flat" if flat else "round")
    return CentreLine(points=line.points, ends=(ends[0], ends[1]))
