"""The search for what cures a held piece: single changes first, then two and three together, best first, each
made and measured before it is offered."""

from __future__ import annotations

import heapq
import itertools
import time
from dataclasses import dataclass, field

from kizami.checks.finding import Finding, Level
from kizami.pieces.laying_out import LaidOut, lay_out, reached_mm
from kizami.pieces.make import Made, make_piece
from kizami.remedies.moves import Move, moves_for
from kizami.remedies.remedy import Patient, Remedy, departure, moved_between
from kizami.setting.setting import Setting

__all__ = ["Offered", "search_remedies"]

#: So many changes together at most.
_MOST_TOGETHER = 3
#: So many of the better trials are tried with others.
_WIDE = 6


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
class _Trial:
    """A setting that was tried; ordered by how much is wrong with its drawing, then by what it costs.

    Attributes
    ----------
    wrong : how many checks fail and how far the gravest; nothing where the drawing passes
    """

    wrong: tuple[float, float]
    cost: float
    number: int
    setting: Setting = field(compare=False)
    moves: tuple[Move, ...] = field(compare=False)

    @property
    def is_sound(self) -> bool:
        """Whether its drawing passes."""
        return self.wrong == _SOUND


_SOUND = (0.0, 0.0)


def search_remedies(patient: Patient, made: Made, *, seconds: float = 1.0, most: int = 3) -> Offered:
    """Find the changes that cure a piece at the least cost.

    Flat checks are asked first; what passes them is made as a whole, and only what passes every check then
    is a cure. None makes another finding worse unseen: what passes has no failing one.

    Parameters
    ----------
    made : the piece as it is set now
    seconds : after which nothing new is begun
    most : so many cures are enough
    """
    if made.stage == "ready":
        return Offered(cures=(), nearest=None, tried=0)
    ends = time.monotonic() + seconds
    singles = moves_for(patient, made)
    numbers = itertools.count()
    seen: set[Setting] = {patient.setting}
    cures: list[Remedy] = []
    near: list[_Trial] = []
    waiting: list[tuple[Move, ...]] = [(move,) for move in singles]
    tried, is_over = 0, True
    for together in range(1, _MOST_TOGETHER + 1):
        sound: list[_Trial] = []
        for moves in waiting:
            if time.monotonic() > ends:
                is_over = False
                break
            trial = _tried(patient, moves, seen, next(numbers))
            if trial is None:
                continue
            tried += 1
            if trial.is_sound:
                heapq.heappush(sound, trial)
            else:
                near.append(trial)
        while sound and len(cures) < most and (not cures or time.monotonic() < ends):
            trial = heapq.heappop(sound)
            remedy = _remedy(patient, trial, made)
            if remedy.cures:
                cures.append(remedy)
            else:
                near.append(trial)
        if cures or not is_over or together == _MOST_TOGETHER:
            break
        waiting = _combined(near, singles)
    cures.sort(key=lambda remedy: remedy.cost)
    nearest = None if cures else _nearest(patient, near, made)
    return Offered(cures=tuple(cures), nearest=nearest, tried=tried, is_over=is_over)


def _tried(patient: Patient, moves: tuple[Move, ...], seen: set[Setting], number: int) -> _Trial | None:
    setting = patient.setting
    for move in moves:
        setting = move.change(setting)
    if setting in seen:
        return None
    seen.add(setting)
    inputs = patient.inputs(setting)
    lowest = inputs.product.plan.lowest_height_mm
    reached = reached_mm(inputs)
    if 0.0 < reached < lowest - 1e-6:
        # Too low whatever is done to its strokes: it need not be laid out to know that.
        wrong, cost = (1.0, lowest / reached - 1.0), 0.0
    else:
        laid = lay_out(inputs)
        wrong, cost = _wrongness(laid), departure(setting, laid, patient.base)
    return _Trial(wrong=wrong, cost=cost, number=number, setting=setting, moves=moves)


def _wrongness(laid: LaidOut) -> tuple[float, float]:
    failing = laid.failing
    return (float(len(failing)), max(f.weight for f in failing)) if failing else _SOUND


def _combined(near: list[_Trial], singles: list[Move]) -> list[tuple[Move, ...]]:
    """The better of what was tried, each with one change more of another kind."""
    found = []
    for trial in sorted(near)[:_WIDE]:
        kinds = {move.kind for move in trial.moves}
        found += [(*trial.moves, move) for move in singles if move.kind not in kinds]
    return found


def _remedy(patient: Patient, trial: _Trial, before: Made) -> Remedy:
    made = make_piece(patient.inputs(trial.setting))
    return Remedy(
        setting=trial.setting,
        said=tuple(move.said for move in trial.moves),
        cost=departure(trial.setting, made.laid_out, patient.base),
        made=made,
        moved=moved_between(before.findings, made.findings),
    )


def _nearest(patient: Patient, near: list[_Trial], before: Made) -> Remedy | None:
    """The trial with the fewest and least failing checks, where it is better than the piece is now."""
    if not near:
        return None
    now = [f for f in before.findings if f.level is Level.FAILS]
    remedy = _remedy(patient, min(near), before)
    then = [f for f in remedy.made.findings if f.level is Level.FAILS]
    return remedy if then and _grave(then) < _grave(now) else None


def _grave(findings: list[Finding]) -> tuple[float, float]:
    return (float(len(findings)), max(f.weight for f in findings))
