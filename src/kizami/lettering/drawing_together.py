"""Letters of one line brought together until they hold each other, for lettering that must be one piece."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from kizami.lettering.block import CENTRING_SAGITTA, Block, Mark, draw
from kizami.lettering.gathering import is_dotted, letters_at, width_of
from kizami.lettering.signs import hosts_of
from kizami.lettering.typeface import Typeface, join_shapes
from kizami.outlines.curves import bodies_of
from kizami.outlines.touching import moved, neck, travel_until_held, travel_until_touching
from kizami.remembering import remembered

__all__ = ["Together", "drawn_together"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Pair:
    """Two letters beside each other, in cap heights.

    Attributes
    ----------
    left, right : their bodies without loose marks, as they stand
    left_marks, right_marks : their dots and accents, or None
    of_a_hand : in a hand whose letters join, where they lie over each other now and then by nature
    """

    left: shapely.Geometry
    right: shapely.Geometry
    of_a_hand: bool
    left_marks: shapely.Geometry | None = None
    right_marks: shapely.Geometry | None = None

    def marks_clear(self, move: float, gap: float) -> bool:
        """Whether no dot or accent runs into the other letter when the right one is moved."""
        there = moved(self.right, np.array([move, 0.0]))
        if self.left_marks is not None and shapely.dwithin(self.left_marks, there, gap):
            return False
        if self.right_marks is None:
            return True
        marks = moved(self.right_marks, np.array([move, 0.0]))
        beside = [self.left] if self.left_marks is None else [self.left, self.left_marks]
        return not any(shapely.dwithin(marks, one, gap) for one in beside)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Letter:
    """One letter's marks, whether what stands apart of it is a dot or an accent, and its signs' marks."""

    marks: tuple[Mark, ...]
    is_dotted: bool
    signs: tuple[Mark, ...] = ()


@dataclass(frozen=True, eq=False, kw_only=True)
class Together:
    """The letters of a line and how they are brought together.

    Attributes
    ----------
    block : the letters as they are set
    before : by the cluster of each letter that has a neighbour before it in its word, the two about the first
        one's origin
    """

    block: Block
    before: dict[int, tuple[_Letter, _Letter]]

    def joined(self, *, wanted: float, depth: float, gap: float) -> Block:
        """Every letter brought so near to the one before it that this holds it.

        Letters that the typeface joins by themselves stay where it sets them. Others go by the smallest step
        that gives a neck as wide as wanted, and stay where they are when that is too far.

        Parameters
        ----------
        wanted : width of the neck, cap heights
        depth : how far letters may go into each other beyond touching, cap heights
        gap : narrowest slit that may be left beside where they meet, cap heights
        """
        # In steps, so that the heights of a search ask for the same.
        asked = tuple(_STEP ** math.ceil(math.log(max(v, 1e-6), _STEP)) for v in (wanted, depth, gap))
        shift, moves = 0.0, dict.fromkeys((m.cluster for m in self.block.marks), 0.0)
        for cluster in sorted(moves, key=self._left_of):
            if cluster in self.before:
                shift += _pair_moved(*self.before[cluster], *asked)
            moves[cluster] = shift
        marks = tuple(replace(m, x=m.x + moves[m.cluster]) for m in self.block.marks)
        return replace(self.block, marks=marks)

    def _left_of(self, cluster: int) -> float:
        return min(m.x for m in self.block.marks if m.cluster == cluster)


@remembered
def _pair_moved(left: _Letter, right: _Letter, wanted: float, depth: float, gap: float) -> float:
    """How far the right letter of a pair moves; negative is to the left.

    The same two letters stand beside each other in many names.
    """
    pair = _pair(left, right)
    move = _joining_move(pair, wanted, depth, gap)
    if pair.marks_clear(move, gap):
        return move
    # A dot that ran into a neighbour would be lost: the letters are joined by a stroke instead.
    apart = (move + step * _ASIDE for step in range(1, 1 + round((_APART - move) / _ASIDE)))
    return next((further for further in apart if pair.marks_clear(further, gap)), move)


@remembered
def _pair(left: _Letter, right: _Letter) -> Pair:
    (one, its_marks), (other, others_marks) = (_letter_and_marks(letter) for letter in (left, right))
    source = left.marks[0].source
    return Pair(
        left=one,
        right=other,
        of_a_hand=isinstance(source, Typeface) and source.hand_joins,
        left_marks=its_marks,
        right_marks=others_marks,
    )


#: Of the widths that letters are joined by: near enough to what is asked for, and few of them.
_STEP = 1.05
#: A letter goes so far away from its neighbour, in cap heights and in such steps, that its dot is clear.
_APART, _ASIDE = 0.16, 0.02
#: A letter goes so far to its neighbour, in cap heights: far enough to come under the bowl or the arm of a
#: capital, where a stroke would be a leg that makes another letter of it. One that stands further off is
#: joined by a stroke.
_MOST_GAP = 0.48
#: Letters that meet along more than this, in cap heights, would melt into one: parallel stems are joined by a
#: stroke instead.
_MELTS = 0.28
#: So do letters that lie nearer to each other than the first along more than the second, in cap heights: two
#: bowls that meet do for less.
_BESIDE, _ALONG = 0.03, 0.4
#: Such letters stay so many gaps apart, and at least so many cap heights.
_NEAR_GAPS, _NEAR = 1.5, 0.13
#: Letters that all but meet in a second place go on by as much as they may go into each other, in so many
#: steps; what is smaller than this share of a gap's square is a corner and no slit.
_DEEPER_STEPS, _NOTCH = 6, 0.1
#: A neck of the typeface's own is left as it is when it is this share of what is wanted for a new one.
_OWN_NECK_SHARE = 0.5


def _joining_move(pair: Pair, wanted: float, depth: float, gap: float) -> float:
    left, right = pair.left, pair.right
    own = neck(left, right)
    if own >= _OWN_NECK_SHARE * wanted:
        return 0.0
    way = np.array([-1.0, 0.0])
    went, width = travel_until_held(right, left, way, wanted=wanted, most=_MOST_GAP, most_depth=depth)
    there = moved(right, way * went)
    melts = width > _MELTS or (not pair.of_a_hand and _runs_along(left, there))
    if width <= own or melts or _leaves_slit(left, there, gap):
        # They stay apart, but hardly further than their neighbours are: those stand close by now, and the
        # stroke that joins these is short.
        near = max(_NEAR_GAPS * gap, _NEAR)
        came = None if own else travel_until_touching(right, left, way, most=_MOST_GAP, near=near)
        return 0.0 if came is None else -came
    if not _all_but_meet_again(left, there, gap):
        return -went
    # A little further on, the second place is closed as well.
    for further in np.linspace(went, went + depth, _DEEPER_STEPS)[1:].tolist():
        there = moved(right, way * further)
        if _across(shapely.intersection(left, there)) > max(depth, wanted):
            # Letters that lie over each other by more than a neck is wide would melt.
            break
        if not _all_but_meet_again(left, there, gap):
            return -float(further)
    return -went


def _across(overlap: shapely.Geometry) -> float:
    """How wide the widest place is where shapes lie over each other."""
    return max((width_of(part) for part in shapely.get_parts(overlap) if part.area > 0.0), default=0.0)


def _runs_along(left: shapely.Geometry, right: shapely.Geometry) -> bool:
    """Whether much of an outline lies in the other or hard beside it, as of a stem and a bowl that read as
    one letter."""
    beside = shapely.intersection(shapely.boundary(right), left.buffer(_BESIDE, quad_segs=4))
    return bool(beside.length > _ALONG)


def _all_but_meet_again(left: shapely.Geometry, right: shapely.Geometry, gap: float) -> bool:
    """Whether two letters that meet come nearer to each other than a gap in another place as well."""
    left, right = _about_each_other(left, right, gap)
    fresh = _closed(bodies_of(left, right), gap).difference(
        shapely.union_all([_closed(left, gap), _closed(right, gap)])
    )
    meeting = left.intersection(right)
    return any(
        part.area > _NOTCH * gap**2 and shapely.distance(part, meeting) > gap / 4.0
        for part in shapely.get_parts(fresh)
    )


def _leaves_slit(left: shapely.Geometry, right: shapely.Geometry, gap: float) -> bool:
    """Whether more between two letters is narrower than a gap than the notches where they meet."""
    near = bodies_of(*_about_each_other(left, right, gap))
    return bool(_closed(near, gap).difference(near).area > _SLIT_LONG * gap)


def _about_each_other(
    left: shapely.Geometry, right: shapely.Geometry, gap: float
) -> tuple[shapely.Geometry, shapely.Geometry]:
    """What of two letters lies where one may be beside the other."""
    window = shapely.box(right.bounds[0] - gap, -_HIGH, left.bounds[2] + gap, _HIGH)
    return left.intersection(window), right.intersection(window)


def _closed(shape: shapely.Geometry, gap: float) -> shapely.Geometry:
    """With what is narrower than a gap filled."""
    return shape.buffer(gap / 2.0, quad_segs=4).buffer(-gap / 2.0, quad_segs=4)


#: Higher than any letter; a slit that is longer is no notch beside a round letter. Cap heights.
_HIGH, _SLIT_LONG = 10.0, 0.5


@remembered
def drawn_together(block: Block) -> Together:
    """The letters of one line as neighbours that can be brought together; spaces part them."""
    shapes = draw(block, sagitta=CENTRING_SAGITTA)
    inked: dict[int, list[Mark]] = {}
    for mark, shape in zip(block.marks, shapes, strict=True):
        if not shape.is_empty:
            inked.setdefault(mark.cluster, []).append(mark)
    # By where the pen stood: the tail of a j reaches under the letter before it.
    pen = {mark.cluster: mark.x for mark in reversed(block.marks)}
    clusters = sorted(inked, key=lambda c: pen[c])
    spaces = {m.cluster for m, s in zip(block.marks, shapes, strict=True) if s.is_empty}
    letters = {cluster: letters_at(block.text, cluster, pen) for cluster in clusters}
    before: dict[int, tuple[_Letter, _Letter]] = {}
    for word in _words(clusters, spaces):
        groups: dict[int, list[int]] = {}
        for cluster, host in zip(word, hosts_of([letters[cluster] for cluster in word]), strict=True):
            groups.setdefault(word[host], []).append(cluster)
        for first, after in itertools.pairwise(groups):
            origin = inked[first][0]
            one, other = (
                _about(inked, groups[cluster], origin, letters=letters[cluster]) for cluster in (first, after)
            )
            before[after] = one, other
    return Together(block=block, before=before)


def _words(clusters: Sequence[int], spaces: set[int]) -> Iterator[list[int]]:
    """Clusters as they stand, parted where a space lies between two of them."""
    word: list[int] = []
    for cluster in clusters:
        if word and any(min(word[-1], cluster) < space < max(word[-1], cluster) for space in spaces):
            yield word
            word = []
        word.append(cluster)
    if word:
        yield word


def _about(
    inked: Mapping[int, Sequence[Mark]], clusters: Sequence[int], origin: Mark, *, letters: str
) -> _Letter:
    """A letter and the signs that go with it about the origin of one, wherever in a wording they stand."""
    own, *signs = (
        tuple(
            replace(m, cluster=0, x=round(m.x - origin.x, _PLACES), y=round(m.y - origin.y, _PLACES))
            for m in inked[cluster]
        )
        for cluster in clusters
    )
    # Of a logo nobody knows which of its parts are small ones that must stay apart.
    return _Letter(
        marks=own, is_dotted=not letters or is_dotted(letters), signs=tuple(itertools.chain(*signs))
    )


#: Decimals of a cap height: finer than anything that is drawn.
_PLACES = 7


def _letter_and_marks(letter: _Letter) -> tuple[shapely.Geometry, shapely.Geometry | None]:
    """The largest body with all that touches it, and what stands apart from it: its dots. A stroke of its own
    that stands apart, as the leg of a K in some hands, is none."""
    shape = _drawn(letter.marks)
    marks: list[shapely.Geometry] = [_drawn(letter.signs)] if letter.signs else []
    if len(shape.geoms) > 1 and letter.is_dotted:
        shape, *loose = sorted(bodies_of(shape).geoms, key=lambda body: -float(body.area))
        marks.extend(loose)
    return shape, shapely.union_all(marks) if marks else None


def _drawn(marks: tuple[Mark, ...]) -> shapely.MultiPolygon:
    drawn = draw(Block(text="", marks=marks), sagitta=CENTRING_SAGITTA)
    return join_shapes([s for s in drawn if not s.is_empty])
