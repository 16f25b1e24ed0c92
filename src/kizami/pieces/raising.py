"""What would raise the share of names that fit a product: single changes of its table, each tried.

A change that loosens one bound is tried on the names that do not fit as it is, and on some of those that do,
as a change may also spoil what was well. Shares are of all names, told with how many were tried.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

__all__ = ["Change", "changes_of", "raised_share", "with_change"]

#: Shares by which a bound is moved (common practice, no source): a little, and as far as a buyer would hardly
#: see.
_LOWER, _CLEARER, _LARGER = (0.94, 0.88, 0.8), (0.85, 0.7), (1.08, 1.2)
#: Measures of a blank along which lettering runs, and how much room that is worth.
_ALONG = ("length_mm", "diameter_mm", "head_length_mm")
#: Sturdy typefaces that set narrower or wider than each other.
_TYPEFACES = ("noto-sans-bold", "m-plus-rounded-bold", "roboto-slab-bold", "comfortaa-bold", "vollkorn-bold")


@dataclass(frozen=True, kw_only=True, slots=True)
class Change:
    """One change.

    Attributes
    ----------
    name : where the value stands in the table, its keys joined by dots
    old, new : values; lists for fit steps
    with_it : what is changed along with it, by name
    """

    name: str
    old: Any
    new: Any
    with_it: tuple[tuple[str, Any], ...] = ()


def changes_of(table: Mapping[str, Any]) -> tuple[Change, ...]:
    """Changes worth trying on a product, those that alter least of it first.

    >>> table = {"blank": {"kind": "bead"}, "typeface": "vollkorn-bold", "treatment": {"kind": "pierced"},
    ...          "fit": {"greatest_height_mm": 6, "lowest_height_mm": 4, "clearance_mm": 1}}
    >>> [(c.name, c.new) for c in changes_of(table)][2:4]
    [('fit.lowest_height_mm', 3.2), ('fit.clearance_mm', 0.85)]
    """
    return tuple(_changes(table))


def _changes(table: Mapping[str, Any]) -> Iterator[Change]:
    fit, blank = table["fit"], table["blank"]
    steps = list(fit.get("steps", ["lower", "leave out"]))
    lowest, clearance = fit["lowest_height_mm"], fit["clearance_mm"]
    yield from _moved("fit.lowest_height_mm", lowest, [round(lowest * share, 1) for share in _LOWER])
    yield from _moved("fit.clearance_mm", clearance, [round(clearance * share, 2) for share in _CLEARER])
    if "tighten" not in steps:
        tracking = fit.get("tracking", 0.0)
        tightest = round(max(-0.02, tracking - 0.06), 2)
        yield Change(
            name="fit.steps", old=steps, new=[*_before("lower", "tighten", steps)],
            with_it=(("fit.tightest", tightest),),
        )  # fmt: skip
    if "condense" not in steps:
        yield Change(
            name="fit.steps", old=steps, new=[*_before("leave out", "condense", steps)],
            with_it=(("fit.narrowest", 0.88),),
        )  # fmt: skip
    elif fit.get("narrowest", 1.0) > 0.82:
        narrowest = fit.get("narrowest", 1.0)
        yield from _moved("fit.narrowest", narrowest, [round(narrowest - 0.08, 2)])
    if "break" not in steps:
        yield Change(
            name="fit.steps", old=steps, new=[*_before("leave out", "break", steps)],
            with_it=(("fit.most_lines", 2),),
        )  # fmt: skip
    soundness = table.get("soundness", {})
    if soundness.get("thicken", "never") == "never":
        yield Change(name="soundness.thicken", old="never", new="where needed")
    if table["treatment"]["kind"] == "pierced" and not soundness.get("middle_bridges"):
        yield Change(name="soundness.middle_bridges", old=False, new=True)
    for key in _ALONG:
        if key in blank:
            yield from _moved(f"blank.{key}", blank[key], [round(blank[key] * share, 1) for share in _LARGER])
    for typeface in _TYPEFACES:
        if typeface != table["typeface"]:
            yield Change(name="typeface", old=table["typeface"], new=typeface)


def _moved(name: str, old: float, values: Sequence[float]) -> Iterator[Change]:
    for new in dict.fromkeys(values):
        if new > 0 and not math.isclose(new, old):
            yield Change(name=name, old=old, new=new)


def _before(step: str, new: str, steps: Sequence[str]) -> list[str]:
    """A step put before another, at the end where that one is not taken."""
    at = steps.index(step) if step in steps else len(steps)
    return [*steps[:at], new, *steps[at:]]


def with_change(table: Mapping[str, Any], change: Change) -> dict[str, Any]:
    """A table with a change made."""
    changed: dict[str, Any] = deepcopy(dict(table))
    for name, value in ((change.name, change.new), *change.with_it):
        *path, key = name.split(".")
        target = changed
        for step in path:
            target = target.setdefault(step, {})
        target[key] = value
    return changed


def raised_share(*, count: int, misfits: int, cured: int, spoilt: int, tried_fitting: int) -> float:
    """The share from 0 to 1 that a change is worth, told from the names that were tried with it.

    Parameters
    ----------
    count, misfits : all names, and those of them that do not fit as it is
    cured : of the misfits, with the change
    spoilt, tried_fitting : of those that fit as it is, which were tried

    >>> raised_share(count=100, misfits=16, cured=7, spoilt=0, tried_fitting=12)
    0.91
    >>> raised_share(count=100, misfits=20, cured=10, spoilt=1, tried_fitting=10)
    0.82
    >>> raised_share(count=0, misfits=0, cured=0, spoilt=0, tried_fitting=0)
    0.0
    """
    if not count:
        return 0.0
    fitting = count - misfits
    lost = fitting * spoilt / tried_fitting if tried_fitting else 0.0
    return (fitting - lost + cured) / count
