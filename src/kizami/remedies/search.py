"""The search for what cures a held piece: ways that its findings ask for and what they lead to, the nearest
to the product first, each made and measured before it is offered."""

from __future__ import annotations

import heapq
import itertools
import time
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace

from kizami.checks.cases import finding as finding_of
from kizami.checks.finding import Finding, Level
from kizami.lettering.layout import Layout
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut, drawn_layouts, lay_out
from kizami.pieces.make import Made, make_laid_out
from kizami.products.product import Word
from kizami.remedies.as_found import AsFound
from kizami.remedies.departing import asked_of_customer, departure, outside_of
from kizami.remedies.foreseeing import foreseen
from kizami.remedies.remedy import Remedy, moved_between
from kizami.remedies.ways import Way, ways_for
from kizami.setting.setting import Setting
from kizami.setting.telling import told

__all__ = ["Offered", "search_remedies"]

#: So many changes after one another at most; each may be of several values at once.
_MOST_ROUNDS = 3
#: Of what a trial leads to so many settings are tried, and of each check so many ways are put together.
_MOST_NEXT, _MOST_WAYS = 24, 12
#: What is like something that changed nothing is tried so much later.
_PUT_OFF = 1.0
#: A change that comes after another one is tried a little later than one that costs as much by itself.
_A_ROUND = 0.1
#: What no setting cures: it is for a person or the customer to say.
_NOT_BY_SETTING = frozenset({"wording-settled", "wording-present", "logo-as-sent", "made"})


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Offered:
    """What came of a search.

    Attributes
    ----------
    cures : remedies with which every check passes, the cheapest first
    nearest : what comes nearest where none cures; None where nothing makes it better
    tried : how many settings were tried
    is_over : whether all that is worth a trial was tried; else time ended the search, and more may be found
    """

    cures: tuple[Remedy, ...]
    nearest: Remedy | None
    tried: int
    is_over: bool = True


@dataclass(order=True, slots=True)
class _Next:
    """A setting that is to be tried, by what it will cost as far as that is known.

    Attributes
    ----------
    after : what it comes from
    is_late : whether it was put off already
    """

    cost: float
    number: int
    round: int = field(compare=False)
    setting: Setting = field(compare=False)
    after: _Tried = field(compare=False)
    is_late: bool = field(compare=False, default=False)

    @property
    def changed(self) -> tuple[Setting, frozenset[str]]:
        """What it comes from, and the values that it changes of that."""
        before, now = self.after.setting.to_fields(), self.setting.to_fields()
        names = frozenset(name for name in (*before, *now) if before.get(name) != now.get(name))
        return self.after.setting, names


@dataclass(frozen=True, eq=False, slots=True)
class _Tried:
    """What came of a setting: as far as it was laid out, and made where its drawing passes."""

    setting: Setting
    layout: Layout
    failing: tuple[Finding, ...]
    others: tuple[LaidOut, ...] = ()
    made: Made | None = None
    laid: LaidOut | None = None


def search_remedies(
    inputs: Inputs,
    found: AsFound | Made,
    *,
    seconds: float = 1.0,
    most: int = 3,
    trials: int | None = None,
    may_change: frozenset[str] | None = None,
    passed_over: Collection[str] = (),
    with_nearest: bool = True,
) -> Offered:
    """Find the changes of its setting that cure a piece at the least cost.

    Flat checks are asked first; what passes them is made as a whole, and only what passes every check then
    is a cure. None makes another finding worse unseen: what passes has no failing one.

    Parameters
    ----------
    inputs : of the piece, with its setting
    found : the piece as it is set now, made or on record
    seconds : after which nothing new is begun but the first trial, nor what would last much longer by what
        the others took
    most : so many cures are enough
    trials : after which nothing new is begun, for whoever needs the same outcome on every machine
    may_change : fields of a setting that may be changed; None for all
    passed_over : typefaces that are not proposed, as they are out of use; the product's own are all the same
    with_nearest : whether what comes nearest is wanted where nothing cures
    """
    gone = frozenset(passed_over) - frozenset(inputs.product.choices(Word.TYPEFACE))
    before = found if isinstance(found, AsFound) else AsFound.of(found)
    failing = _failing(before.findings)
    if not failing or any(f.code in _NOT_BY_SETTING for f in failing):
        return Offered(cures=(), nearest=None, tried=0)
    # What comes nearest has to be made as well, where nothing cures.
    takes = _Takes(seconds, spare_s=min(_FOR_NEAREST * seconds, 1.0) if with_nearest else 0.0)
    numbers = itertools.count()
    seen = {inputs.setting}
    start = _Tried(inputs.setting, before.layout, failing, others=before.others)
    waiting: list[_Next] = []
    for cost, setting in _led_to(inputs, start, may_change, gone):
        _push(waiting, seen, _Next(cost, next(numbers), 1, setting, start))
    cures: list[Remedy] = []
    near: list[_Tried] = []
    tried = 0
    idle: set[tuple[Setting, frozenset[str]]] = set()
    # One trial is always made: the best that is known is not kept back for want of time.
    while waiting and len(cures) < most and (not tried or takes.has_time) and tried != trials:
        one = heapq.heappop(waiting)
        if cures and one.cost > 1.5 * cures[0].cost + 0.6:
            # What is left departs by so much more than what is found that nobody would take it.
            waiting.clear()
            break
        if any(_holds_more(one.setting, cure.setting, inputs.setting) for cure in cures):
            # It changes all that a cure changes, and more: the cure does.
            continue
        if one.changed in idle and not one.is_late:
            heapq.heappush(waiting, replace(one, cost=one.cost + _PUT_OFF, is_late=True))
            continue
        with takes:
            result = _try(inputs, one.setting)
        tried += 1
        if not result.failing and result.made is not None:
            cures.append(_remedy(inputs, one.setting, result.made, before=before.findings))
            takes.spare_s = 0.0
            continue
        near.append(result)
        if not _led_on(result, one.after):
            idle.add(one.changed)
        elif one.round < _MOST_ROUNDS:
            for cost, setting in _led_to(inputs, result, may_change, gone):
                after = one.cost + cost + _A_ROUND
                _push(waiting, seen, _Next(after, next(numbers), one.round + 1, setting, result))
    cures.sort(key=lambda remedy: remedy.cost)
    nearest = None if cures or not with_nearest else _nearest(inputs, near, before.findings)
    return Offered(
        cures=tuple(cures), nearest=nearest, tried=tried, is_over=not waiting or len(cures) >= most
    )


class _Takes:
    """The time of a search: what trials took, so that none is begun that would end far too late.

    Attributes
    ----------
    spare_s : kept for what comes after the last trial
    """

    def __init__(self, seconds: float, *, spare_s: float) -> None:
        self._ends = time.monotonic() + seconds
        self._late_s = _LATE * seconds
        self.spare_s = spare_s
        self._began = self._longest_s = 0.0

    @property
    def has_time(self) -> bool:
        """Whether a trial that takes as long as the longest one would end in time, or a little later."""
        now = time.monotonic() + self.spare_s
        return now < self._ends and now + self._longest_s <= self._ends + self._late_s

    def __enter__(self) -> None:
        self._began = time.monotonic()

    def __exit__(self, *_: object) -> None:
        # What grows shorter is forgotten again: letters that are set for the first time take longer.
        took = time.monotonic() - self._began
        self._longest_s = max(took, 0.7 * self._longest_s)


#: The last trial may end later than the search by this share of its time.
_LATE = 0.2
#: Kept for what comes nearest, as a share of a search's time.
_FOR_NEAREST = 0.15


def _short_mm(tried: _Tried) -> float:
    """How high something came that found too little room; 0 where it found enough."""
    further = {other.area.name for other in tried.others}
    short = any(f.code == "lowest-height" and f.area not in further for f in tried.failing)
    return tried.layout.height_mm if short else 0.0


def _led_on(tried: _Tried, after: _Tried) -> bool:
    """Whether a change did anything: what was to give room and gave none, and what left every failing measure
    as it was, is in the way of what comes after it."""
    above_mm = _short_mm(after)
    if above_mm and 0.0 < _short_mm(tried) <= above_mm + 1e-9:
        return False
    return not _alike(tried, after)


def _alike(tried: _Tried, after: _Tried) -> bool:
    """Whether all that fails measures the same, or only shrank with letters whose room is a little less."""
    measures = [[(f.area, f.code, f.measured) for f in one.failing] for one in (tried, after)]
    if [one[:2] for one in measures[0]] != [one[:2] for one in measures[1]]:
        return False
    share = tried.layout.height_mm / after.layout.height_mm if after.layout.height_mm else 1.0
    shares = (1.0, share) if abs(share - 1.0) < _A_LITTLE else (1.0,)
    pairs = [(now[2], was[2]) for now, was in zip(*measures, strict=True)]
    return any(all(abs(now - was * by) <= _SAME * abs(was) for now, was in pairs) for by in shares)


#: Letters that come lower by less than this share are the same letters; measures are, within this share.
_A_LITTLE, _SAME = 0.05, 2e-3


def _holds_more(setting: Setting, cure: Setting, now: Setting) -> bool:
    """Whether a setting changes all that another one does, each area by itself."""
    kept, cured, others = (one.to_fields() for one in (now, cure, setting))
    changed = {name for name in (*cured, *kept) if cured.get(name) != kept.get(name)}
    return all(others.get(name) != kept.get(name) for name in changed)


def _push(waiting: list[_Next], seen: set[Setting], one: _Next) -> None:
    if one.setting not in seen:
        seen.add(one.setting)
        heapq.heappush(waiting, one)


def _failing(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    return tuple(f for f in findings if f.level is Level.FAILS)


def _try(inputs: Inputs, setting: Setting) -> _Tried:
    """Lay a setting out, where that is worth it, and make it where its drawing passes."""
    as_set = replace(inputs, setting=setting).as_set
    drawn = _Looked(drawn_layouts(as_set))
    known = _known_to_fail(as_set, setting, drawn)
    if known is not None:
        return known
    laid = lay_out(as_set, drawn=None if drawn.broke else drawn)
    if laid.failing:
        return _Tried(setting, laid.layout, laid.failing, laid.others, laid=laid)
    made = make_laid_out(laid)
    return _Tried(setting, laid.layout, _failing(made.findings), laid.others, made=made)


class _Looked(Iterable[Layout]):
    """Layouts that are drawn one by one as they are asked for, and once only.

    Attributes
    ----------
    broke : whether drawing ended in an error: whoever lays it out meets it again, and tells it
    """

    def __init__(self, layouts: Iterator[Layout]) -> None:
        self._seen: list[Layout] = []
        self._layouts = layouts
        self.broke = False

    def __iter__(self) -> Iterator[Layout]:
        place = 0
        while True:
            if place == len(self._seen):
                try:
                    self._seen.append(next(self._layouts))
                except StopIteration:
                    return
                except Exception:
                    self.broke = True
                    raise
            yield self._seen[place]
            place += 1


def _known_to_fail(as_set: Inputs, setting: Setting, drawn: Iterable[Layout]) -> _Tried | None:
    """What every way of setting the wording fails by before anything is measured; None where one may hold."""
    best: _Tried | None = None
    try:
        for layout in drawn:
            lowest = layout.lowest_height_mm
            if layout.missing or not layout.fits or layout.is_empty:
                return None
            if layout.height_mm < lowest - 1e-6:
                failing: tuple[Finding, ...] = (finding_of("lowest-height", layout.height_mm, lowest),)
            else:
                failing = foreseen(as_set, layout)
            if not failing:
                return None
            tried = _Tried(setting, layout, failing)
            if best is None or _grave(failing) < _grave(best.failing):
                best = tried
    except Exception:  # noqa: BLE001 - laying it out holds the piece for it, and tells it
        return None
    return best


#: Checks that only ask for room: while one of them fails, what else fails is not what will fail then.
_OF_ROOM = frozenset({"lowest-height", "fits-area"})


def _led_to(
    inputs: Inputs, tried: _Tried, may_change: frozenset[str] | None, gone: frozenset[str]
) -> Iterator[tuple[float, Setting]]:
    """Settings that may cure all that fails at once, the nearest to the product first."""
    room = [f for f in tried.failing if f.code in _OF_ROOM]
    groups = ways_for(inputs, tried.setting, tried.layout, room or tried.failing, tried.others)
    if may_change is not None:
        groups = [tuple(way for way in ways if may_change.issuperset(way.changes)) for ways in groups]
    if gone:
        groups = [tuple(way for way in ways if gone.isdisjoint(_typefaces(way))) for ways in groups]
    # What has no way at all may be cured by what cures the others.
    groups = [ways[:_MOST_WAYS] for ways in groups if ways]
    combined: list[tuple[float, dict[str, object]]] = [(0.0, {})]
    for ways in groups:
        combined = _cheapest(_together(combined, ways))
    found: dict[Setting, float] = {}
    for cost, changes in combined:
        if changes:
            found.setdefault(tried.setting.changed(changes), cost)
    # Each by itself as well: what is cured first may cure the rest.
    for ways in groups if len(groups) > 1 else ():
        for way in ways[:4]:
            found.setdefault(way.on(tried.setting), way.cost + _A_ROUND)
    yield from ((cost, setting) for setting, cost in found.items())


def _typefaces(way: Way) -> Iterator[str]:
    return (value for name, value in way.changes.items() if name.rpartition(".")[2] == "typeface")


def _together(
    combined: list[tuple[float, dict[str, object]]], ways: Sequence[Way]
) -> Iterator[tuple[float, dict[str, object]]]:
    for cost, changes in combined:
        for way in ways:
            merged = _merged(changes, way)
            if merged is not None:
                # What cures two checks at once costs once.
                yield cost + (0.0 if merged == changes else way.cost), merged


def _merged(changes: dict[str, object], way: Way) -> dict[str, object] | None:
    """Both changes; None where they can't go together."""
    merged = dict(changes)
    for name, value in way.changes.items():
        have = merged.get(name)
        if have is None or have == value:
            merged[name] = value
        elif name.rpartition(".")[2] in ("lowest_mm", "height_mm", "most_lines"):
            merged[name] = max(have, value)
        elif name in ("narrowest", "tightest"):
            merged[name] = min(have, value)
        elif name in ("thicken_by_mm", "tracking") and isinstance(have, float) and have * value > 0.0:
            merged[name] = max(have, value, key=abs)
        else:
            return None
    return merged


def _cheapest(
    combined: Iterator[tuple[float, dict[str, object]]],
) -> list[tuple[float, dict[str, object]]]:
    best: dict[tuple[tuple[str, object], ...], tuple[float, dict[str, object]]] = {}
    for cost, changes in combined:
        key = tuple(sorted(changes.items()))
        if key not in best or cost < best[key][0]:
            best[key] = (cost, changes)
    return sorted(best.values(), key=lambda one: one[0])[:_MOST_NEXT]


def _remedy(inputs: Inputs, setting: Setting, made: Made, *, before: Sequence[Finding]) -> Remedy:
    return Remedy(
        setting=setting,
        said=_said(inputs, setting, made),
        cost=departure(inputs, made.laid_out),
        made=made,
        moved=moved_between(before, made.findings),
        outside=outside_of(inputs, made.laid_out),
        asks=asked_of_customer(inputs, setting),
    )


def _said(inputs: Inputs, setting: Setting, made: Made) -> tuple[str, ...]:
    """What it does: of what the fit plan finds between bounds, what it came to."""
    layout = made.laid_out.layout
    plan = made.laid_out.inputs.product.plan
    before = inputs.setting
    if setting.narrowest is not None and setting.narrowest != before.narrowest:
        came_to = layout.width if layout.width < 1.0 - 1e-9 else before.narrowest
        setting = replace(setting, narrowest=came_to)
    if setting.tightest is not None and setting.tightest != before.tightest:
        came_to = layout.tracking if layout.tracking < plan.tracking - 1e-9 else before.tightest
        setting = replace(setting, tightest=came_to)
    return tuple(told(before, setting)) or ("set as its fit plan allows",)


def _nearest(inputs: Inputs, near: list[_Tried], before: Sequence[Finding]) -> Remedy | None:
    """The trial with the fewest and least failing checks, where it is better than the piece is now."""
    if not near:
        return None
    # Of what was only foreseen to fail less is known: it counts where nothing was laid out.
    known = [one for one in near if one.made is not None or one.laid is not None]
    best = min(known or near, key=lambda one: _grave(one.failing))
    made = best.made
    if made is None:
        made = make_laid_out(best.laid or lay_out(replace(inputs, setting=best.setting)))
    then = _failing(made.findings)
    if not then or _grave(then) >= _grave(_failing(before)):
        return None
    return _remedy(inputs, best.setting, made, before=before)


def _grave(findings: Sequence[Finding]) -> tuple[float, float]:
    return (float(len({f.code for f in findings})), max((f.weight for f in findings), default=0.0))
