"""Casting trees: pieces around a sprue, level upon level, each on a feed that is one body with both."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely

from kizami.errors import RunError
from kizami.outlines.curves import polygons_from_contours
from kizami.outlines.moving import shifted
from kizami.processes import Limits
from kizami.runs.body import Body
from kizami.runs.coding import extruded, flag_letters, flag_size_mm
from kizami.runs.machine import Machine
from kizami.runs.telling import Told, tell_nobody
from kizami.solids.feeding import Feed
from kizami.surfaces.protocol import FloatArray

__all__ = [
    "Branch",
    "Hung",
    "OnTree",
    "Tree",
    "build_tree",
    "flagged",
    "lay_on_trees",
    "place_on_tree",
    "seen_from_outside",
    "sprue_and_feeds",
    "stem_mm3",
]

#: The sprue stands in the button, a cone whose cup is so wide and so high, in diameters of the sprue.
_BUTTON_WIDE, _BUTTON_HIGH = 2.6, 0.9
#: A feed goes so far into the piece, as a share of the section there, and not further than this.
_SUNK_SHARE, _SUNK_MM = 0.5, 1.0
#: What is too long for the flask hangs as steeply as one of these.
_STEEPER_DEG = (45.0, 60.0, 70.0, 78.0)
#: A piece is turned about its feed by steps of so much.
_ABOUT_DEG = 5
#: What each place down the list of a piece's feeds costs, as a share of the room on the tree.
_LESSER_FEED = 0.2
_FACETS = 32
#: Flags on feeds: digits that they have room for, how far they stay from sprue and piece, how thick they are.
_FLAG_DIGITS, _FLAG_AWAY_MM, _FLAG_THICK_MM = 2, 0.6, 0.9
_SHORTEST_EDGE_MM = 5e-4
#: Of the volume, what rounding may lose, mm3.
_LOST_MM3 = 0.5
#: Profiles are seen within this, mm.
_TOLERANCE_MM = 0.05


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class OnTree:
    """A piece that is to hang on a tree.

    Attributes
    ----------
    key : its ticket code
    shape_key : equal for equal pieces
    hull : (n, 3) corners of the hull of its pattern, mm
    volume_mm3 : of its pattern
    feeds : where it may be fed, the best first
    load : reads its skin, which is not kept: a list may be longer than memory
    flagged : its feed carries a flag with its place in the run
    limits : of its process, for the flag
    """

    key: str
    shape_key: str
    hull: FloatArray
    volume_mm3: float
    feeds: tuple[Feed, ...]
    load: Callable[[], Body]
    flagged: bool = False
    limits: Limits | None = None


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Branch:
    """A piece on its feed as it hangs towards +x, seen from the sprue's axis at z = 0.

    Attributes
    ----------
    piece : which
    turn, shift : put the piece there
    feed : taken; rise_deg : of it above the level
    half_rad : half of the wedge about the axis that it needs, with half the gap on either side
    profile : how far out and how high it reaches with its feed, over all of the wedge (r, z)
    """

    piece: OnTree
    turn: FloatArray
    shift: FloatArray
    feed: Feed
    rise_deg: float
    half_rad: float
    profile: shapely.Polygon


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Hung:
    """A branch at its place: its level from 0 below, the height of its feed's root, and its angle."""

    branch: Branch
    level: int
    z_mm: float
    angle_rad: float

    @property
    def taken(self) -> float:
        """Share of the circle that its wedge needs."""
        return self.branch.half_rad / math.pi


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Tree:
    """A tree as laid out.

    Attributes
    ----------
    hung : the pieces, level by level, anticlockwise from the notch of the button
    height_mm : of the sprue
    levels : how many
    """

    hung: tuple[Hung, ...]
    height_mm: float
    levels: int


def lay_on_trees(
    pieces: Sequence[OnTree],
    machine: Machine,
    *,
    told: Told = tell_nobody,
) -> tuple[list[Tree], list[str]]:
    """Hang pieces on as many trees as they need, the first ones first.

    On a level each piece has a wedge about the axis for itself; levels stand so far above each other that
    nothing of one comes nearer to the other than the gap, however they are turned.

    Returns
    -------
    trees, and the keys of pieces that do not fit into the flask
    """
    branches: dict[str, Branch | None] = {}
    waiting: list[Branch] = []
    too_large: list[str] = []
    for number, piece in enumerate(pieces):
        told(number, len(pieces), "choosing feeds")
        if piece.shape_key not in branches:
            branches[piece.shape_key] = _branch(piece, machine)
        like = branches[piece.shape_key]
        if like is None:
            too_large.append(piece.key)
        else:
            waiting.append(_same(like, piece))
    trees: list[Tree] = []
    while waiting:
        told(len(pieces) - len(waiting), len(pieces), f"hanging tree {len(trees) + 1}")
        tree, waiting = _hang(waiting, machine)
        if not tree.hung:
            raise RunError("A piece fits into the flask by its measure but on no level. Take a larger flask.")
        trees.append(tree)
    return trees, too_large


def _same(branch: Branch, piece: OnTree) -> Branch:
    return Branch(
        piece=piece,
        turn=branch.turn,
        shift=branch.shift,
        feed=branch.feed,
        rise_deg=branch.rise_deg,
        half_rad=branch.half_rad,
        profile=branch.profile,
    )


def _branch(piece: OnTree, machine: Machine) -> Branch | None:
    """The first of a piece's feeds, and the turn about it, with which it fits into the flask; among the
    turns the one that needs the smallest wedge."""
    room = machine.bed_mm[0] / 2.0 - machine.margin_mm
    tall = machine.bed_mm[2] - machine.margin_mm - _button_height(machine)
    for rise in (machine.angle_deg, *(steeper for steeper in _STEEPER_DEG if steeper > machine.angle_deg)):
        best: tuple[float, _Hanging] | None = None
        for rank, feed in enumerate(piece.feeds):
            for found in _hanging(piece.hull, feed, machine, rise):
                if found.reach > room or found.high - found.low > tall:
                    continue
                # The share of a tree that it takes; a lesser feed is taken where it saves a good part of it.
                share = found.half_rad * (found.high - found.low) * (1.0 + _LESSER_FEED * rank)
                if best is None or share < best[0] - 1e-9:
                    best = (share, found)
        # A piece too long for the flask at the station's own angle hangs more steeply.
        if best is not None:
            found = best[1]
            return Branch(
                piece=piece,
                turn=found.turn,
                shift=found.shift,
                feed=found.feed,
                rise_deg=rise,
                half_rad=found.half_rad,
                profile=_profile(found.points, machine, rise, _flag_mm(piece, machine)),
            )
    return None


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Hanging:
    """One way to hang, in numbers."""

    turn: FloatArray
    shift: FloatArray
    feed: Feed
    points: FloatArray
    half_rad: float
    reach: float
    low: float
    high: float


def _hanging(corners: FloatArray, feed: Feed, machine: Machine, rise_deg: float) -> Iterator[_Hanging]:
    """Every way to hang on a feed that keeps clear of the sprue.

    Wedge and profile are those of the hull: both are bounded by straight lines or bend outward.
    """
    rise = math.radians(rise_deg)
    out = np.array([math.cos(rise), 0.0, math.sin(rise)])
    # The piece's outward direction at its feed looks back along the feed.
    base = _from_to(np.array(feed.outward), -out)
    turns = np.stack([_about(out, math.radians(a)) @ base for a in range(0, 360, _ABOUT_DEG)])
    length = machine.sprue_mm / 2.0 / math.cos(rise) + machine.feed_length_mm
    shifts = out * length - turns @ np.array(feed.at_mm)
    points = np.einsum("nd,ked->kne", corners, turns) + shifts[:, None, :]
    reach = np.hypot(points[:, :, 0], points[:, :, 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        wedge = np.arctan2(np.abs(points[:, :, 1]), points[:, :, 0]) + np.arcsin(
            np.minimum(machine.spacing_mm / 2.0 / reach, 1.0)
        )
    root = machine.sprue_mm / 2.0 * math.tan(rise) - machine.feed_mm / 2.0
    # A piece that reaches across the axis, or into the sprue, hangs on no tree.
    clear = points[:, :, 0].min(axis=1) >= machine.sprue_mm / 2.0 + machine.spacing_mm / 2.0
    for n in np.flatnonzero(clear).tolist():
        yield _Hanging(
            turn=turns[n],
            shift=shifts[n],
            feed=feed,
            points=points[n],
            half_rad=float(wedge[n].max()),
            reach=float(reach[n].max()),
            low=min(float(points[n, :, 2].min()), root),
            high=float(points[n, :, 2].max()),
        )


def _flag_mm(piece: OnTree, machine: Machine) -> tuple[float, float] | None:
    """Length and width of the flag on a piece's feed; None where there is none, or no room for it."""
    if not piece.flagged or piece.limits is None:
        return None
    length, width = flag_size_mm(_FLAG_DIGITS, piece.limits)
    return (length, width) if length <= machine.feed_length_mm - 2.0 * _FLAG_AWAY_MM else None


def _profile(
    points: FloatArray, machine: Machine, rise_deg: float, flag_mm: tuple[float, float] | None
) -> shapely.Polygon:
    """How far out and how high a piece reaches with its feed, whatever way it is turned about the axis."""
    rise, half, start = math.radians(rise_deg), machine.feed_mm / 2.0, machine.sprue_mm / 2.0
    reach = np.hypot(points[:, 0], points[:, 1])
    seen = np.vstack(
        [
            np.column_stack((points[:, 0], points[:, 2])),
            np.column_stack((reach, points[:, 2])),
            [[start, start * math.tan(rise) - half], [start, start * math.tan(rise) + half]],
        ]
    )
    if flag_mm is not None:
        # Its corners away from the feed, along and across it.
        start, high = start / math.cos(rise) + _FLAG_AWAY_MM, half + flag_mm[1]
        along = np.array([start, start + flag_mm[0]])
        corners = np.column_stack(
            (along * math.cos(rise) - high * math.sin(rise), along * math.sin(rise) + high * math.cos(rise))
        )
        seen = np.vstack([seen, corners])
    return shapely.MultiPoint(seen).convex_hull.simplify(_TOLERANCE_MM).buffer(_TOLERANCE_MM)


def _hang(waiting: Sequence[Branch], machine: Machine) -> tuple[Tree, list[Branch]]:
    """One tree from the first pieces, and what is left."""
    top = machine.bed_mm[2] - machine.margin_mm
    button = _button_height(machine)
    hung: list[Hung] = []
    left = list(waiting)
    below: shapely.Geometry | None = None
    level = 0
    while left:
        chosen, rest = _level(left)
        outline = shapely.union_all([branch.profile for branch in chosen])
        z = button + machine.spacing_mm - outline.bounds[1]
        if below is not None:
            z = _clear_above(outline, below, machine.spacing_mm, z)
        if z + outline.bounds[3] > top:
            break
        share = 2.0 * math.pi / sum(2.0 * branch.half_rad for branch in chosen)
        angle = 0.0
        for branch in chosen:
            # What the wedges leave of the circle is shared out, so that the level is even.
            half = branch.half_rad * share
            hung.append(Hung(branch=branch, level=level, z_mm=z, angle_rad=angle + half))
            angle += 2.0 * half
        moved = shifted(outline, 0.0, z)
        below = moved if below is None else shapely.union_all([below, moved])
        left = rest
        level += 1
    high = max((h.z_mm + h.branch.profile.bounds[3] for h in hung), default=button)
    root = max((h.z_mm for h in hung), default=button)
    # The sprue ends above its last feeds, not above the last piece.
    height = min(
        max(root + machine.sprue_mm * 0.5 + machine.feed_mm, button + machine.sprue_mm), max(high, root)
    )
    return Tree(hung=tuple(hung), height_mm=height + machine.sprue_mm * 0.25, levels=level), left


def _level(waiting: Sequence[Branch]) -> tuple[list[Branch], list[Branch]]:
    """As many of the first pieces as find a wedge around the axis; a smaller one may step in for one that
    finds none."""
    chosen, rest = list[Branch](), list[Branch]()
    used = 0.0
    for branch in waiting:
        if used + 2.0 * branch.half_rad <= 2.0 * math.pi + 1e-9:
            chosen.append(branch)
            used += 2.0 * branch.half_rad
        else:
            rest.append(branch)
    return chosen, rest


def _clear_above(outline: shapely.Geometry, below: shapely.Geometry, gap: float, least: float) -> float:
    """The lowest height at which a level's profile keeps its gap from all below, within a tenth of a mm."""
    low, high = least, below.bounds[3] + gap - outline.bounds[1]
    while high - low > 0.1:
        middle = (low + high) / 2.0
        # Profiles that lie above each other only are searched: further up a gap stays kept.
        if shifted(outline, 0.0, middle).distance(below) >= gap and _is_above(outline, below, middle):
            high = middle
        else:
            low = middle
    return float(high)


def _is_above(outline: shapely.Geometry, below: shapely.Geometry, z: float) -> bool:
    return bool(outline.bounds[1] + z >= below.bounds[1] and outline.bounds[3] + z >= below.bounds[3])


def _button_height(machine: Machine) -> float:
    return _BUTTON_HIGH * machine.sprue_mm


def build_tree(tree: Tree, machine: Machine) -> m3.Manifold:
    """Sprue, button, feeds and pieces as one body, from the middle of the button at z = 0.

    Flags bear the place of their piece in the tree, from 1.

    Raises
    ------
    RunError : a piece did not become one with the tree; names it
    """
    sprue = _sprue(tree, machine)
    parts, expected = [sprue], float(sprue.volume())
    flags = flagged(tree, machine)
    for number, hung in enumerate(tree.hung, start=1):
        joined = _solid(hung) + _feed(hung, machine)
        if number in flags:
            joined += _flag(hung, str(number), machine)
        # The joint is proven by itself: in the whole tree a loose piece would be harder to name.
        if len(joined.decompose()) != 1:
            raise RunError(f"The feed of {hung.branch.piece.key} does not meet it. Make its section heavier.")
        parts.append(joined)
        expected += float(joined.volume()) - float((joined ^ sprue).volume())
    # Facets that single precision can't tell from nothing are gone before they are written.
    whole = m3.Manifold.batch_boolean(parts, m3.OpType.Add).simplify(_SHORTEST_EDGE_MM)
    if whole.status() != m3.Error.NoError or len(whole.decompose()) != 1:
        raise RunError("The tree did not become one body. Take thicker feeds.")
    # If two pieces shared any room, the whole would be smaller than its parts.
    if abs(float(whole.volume()) - expected) > _LOST_MM3 + 1e-5 * expected:
        raise RunError("Two pieces of the tree touch each other. Take a larger spacing.")
    return whole


def sprue_and_feeds(tree: Tree, machine: Machine) -> Iterator[m3.Manifold]:
    """What a tree has beside its pieces, each by itself; a feed goes on into its piece."""
    yield _sprue(tree, machine)
    for hung in tree.hung:
        yield _feed(hung, machine)


def stem_mm3(tree: Tree, machine: Machine) -> float:
    """Volume of sprue, its cup and the feeds outside of it, by their measures."""
    radius = machine.sprue_mm / 2.0
    high, wide = _button_height(machine), _BUTTON_WIDE * radius
    cup = math.pi * high / 3.0 * (wide**2 + wide * radius + radius**2) - math.pi * radius**2 * high
    feed = math.pi * (machine.feed_mm / 2.0) ** 2 * machine.feed_length_mm
    return math.pi * radius**2 * tree.height_mm + cup + feed * len(tree.hung)


def _sprue(tree: Tree, machine: Machine) -> m3.Manifold:
    radius = machine.sprue_mm / 2.0
    wide, high = _BUTTON_WIDE * radius, _button_height(machine)
    sprue = m3.Manifold.cylinder(tree.height_mm, radius, radius, 2 * _FACETS)
    button = m3.Manifold.cylinder(high, wide, radius, 2 * _FACETS)
    # A notch in the button's rim shows where the count of the pieces begins.
    notch = m3.Manifold.cube((0.3 * radius, 0.6 * radius, high), True).translate((wide, 0.0, high / 2.0))
    return sprue + (button - notch)


def _feed(hung: Hung, machine: Machine) -> m3.Manifold:
    """From within the sprue to within the piece."""
    feed = hung.branch.feed
    rise = math.radians(hung.branch.rise_deg)
    sunk = min(_SUNK_MM, _SUNK_SHARE * feed.section_mm)
    start = machine.feed_mm / 2.0 * math.tan(rise)
    length = machine.sprue_mm / 2.0 / math.cos(rise) + machine.feed_length_mm + sunk - start
    radius = machine.feed_mm / 2.0
    bar = m3.Manifold.cylinder(length, radius, radius, _FACETS).translate((0.0, 0.0, start))
    return _tipped(bar, hung)


def flagged(tree: Tree, machine: Machine) -> set[int]:
    """Places, from 1, of the pieces whose feeds carry a flag."""
    return {
        number
        for number, hung in enumerate(tree.hung, start=1)
        if number < 10**_FLAG_DIGITS and _flag_mm(hung.branch.piece, machine) is not None
    }


def _flag(hung: Hung, text: str, machine: Machine) -> m3.Manifold:
    """A plate upright on the feed, with raised figures on its side that read away from the sprue."""
    limits, size = hung.branch.piece.limits, _flag_mm(hung.branch.piece, machine)
    if limits is None or size is None:
        return m3.Manifold()
    length, width = size
    half = _FLAG_THICK_MM / 2.0
    plate = m3.Manifold.cube((length, width + machine.feed_mm / 2.0, _FLAG_THICK_MM)).translate(
        (0.0, -machine.feed_mm / 2.0, -half)
    )
    letters = extruded(
        shifted(flag_letters(text, limits), length / 2.0, width / 2.0),
        half - 0.1,
        half + limits.of("lettering-depth", sunk=False),
    )
    # As a drawing it has x along the feed, y away from it, and looks up; then it stands along the bar, whose
    # axis is z and whose upper side looks to -x.
    stands = np.array([[0.0, -1.0, 0.0], [0.0, 0.0, -1.0], [1.0, 0.0, 0.0]])
    rise = math.radians(hung.branch.rise_deg)
    at = np.array([-machine.feed_mm / 2.0, 0.0, machine.sprue_mm / 2.0 / math.cos(rise) + _FLAG_AWAY_MM])
    return _tipped((plate + letters).transform(np.column_stack((stands, at))), hung)


def _tipped(bar: m3.Manifold, hung: Hung) -> m3.Manifold:
    """What stands along z, laid along the feed of a piece."""
    tipped = bar.rotate((0.0, 90.0 - hung.branch.rise_deg, 0.0))
    return tipped.translate((0.0, 0.0, hung.z_mm)).rotate((0.0, 0.0, math.degrees(hung.angle_rad)))


def place_on_tree(hung: Hung) -> tuple[FloatArray, FloatArray]:
    """Matrix and shift that put a piece onto its tree."""
    a = hung.angle_rad
    around = np.array([[math.cos(a), -math.sin(a), 0], [math.sin(a), math.cos(a), 0], [0, 0, 1.0]])
    return around @ hung.branch.turn, around @ hung.branch.shift + np.array([0.0, 0.0, hung.z_mm])


def seen_from_outside(tree: Tree, machine: Machine) -> tuple[list[shapely.Geometry], tuple[float, float]]:
    """The tree unrolled: each piece as it is seen by whoever looks at the sprue, beside its neighbours.

    Returns
    -------
    outlines in the order of the pieces, and the width (right round the flask's room) and height, mm
    """
    radius = machine.bed_mm[0] / 2.0 - machine.margin_mm
    width = 2.0 * math.pi * radius
    outlines: list[shapely.Geometry] = []
    seen: dict[str, shapely.Geometry] = {}
    for hung in tree.hung:
        key = hung.branch.piece.shape_key
        if key not in seen:
            seen[key] = _silhouette(hung.branch)
        outlines.append(shifted(seen[key], hung.angle_rad * radius, hung.z_mm))
    return outlines, (width, machine.bed_mm[2])


def _silhouette(branch: Branch) -> shapely.Geometry:
    """A piece as seen along -x, right of it at the right."""
    skin = branch.piece.load()
    points = skin.points @ branch.turn.T + branch.shift
    turned = np.column_stack((points[:, 1], points[:, 2], points[:, 0]))
    body = m3.Manifold(m3.Mesh(turned.astype(np.float32), skin.faces.astype(np.uint32)))
    outline = polygons_from_contours([np.asarray(c) for c in body.project().to_polygons()])
    return outline.simplify(_TOLERANCE_MM)


def _solid(hung: Hung) -> m3.Manifold:
    turn, shift = place_on_tree(hung)
    body = hung.branch.piece.load()
    points = body.points @ turn.T + shift
    piece = m3.Manifold(m3.Mesh(points.astype(np.float32), body.faces.astype(np.uint32)))
    if piece.status() != m3.Error.NoError:
        raise RunError(f"{hung.branch.piece.key} is no closed body. Make the piece again.")
    return piece


def _from_to(one: FloatArray, other: FloatArray) -> FloatArray:
    """The least turn from one direction to another (Rodrigues' formula)."""
    cosine = float(one @ other)
    if cosine < -1.0 + 1e-9:
        aside = np.cross(one, [1.0, 0.0, 0.0] if abs(one[0]) < 0.8 else [0.0, 1.0, 0.0])
        return _about(aside / np.linalg.norm(aside), math.pi)
    axis = np.cross(one, other)
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + cross + cross @ cross / (1.0 + cosine))


def _about(axis: FloatArray, angle_rad: float) -> FloatArray:
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + math.sin(angle_rad) * cross + (1 - math.cos(angle_rad)) * cross @ cross)
