"""The share of real names that fits a product with values on trial, and what would raise it most."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping, Sequence
from functools import cache
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from kizami.errors import KizamiError
from kizami.pieces.forecast import Misfit, misfit_of, shipped_names, usual_size
from kizami.pieces.letters_held import NeverHeld, common_letters, letter_held
from kizami.pieces.raising import Change, changes_of, raised_share, with_change
from kizami.products.product import Product as ProductSpec
from kizami.remedies.by_itself import cured_by_itself
from workshop.catalogue.models import current_product, retired_typefaces
from workshop.catalogue.portions import Portion, counted, next_portion
from workshop.catalogue.product_fields import typeface_names
from workshop.catalogue.samples import own_typeface
from workshop.catalogue.telling import change_told
from workshop.catalogue.trial import SHARE_OF, refused_for, spec_of, table_mark, trial_table, without

__all__ = ["NAMES_TRIED", "worth_offering"]

#: Names that the share is told from at each change, and those that it goes on to while nothing changes.
NAMES_TRIED, MANY_TRIED = 100, 1000
#: Between portions that nobody waits for: others have the machine for longer than they do.
_PAUSE_MS = 700
#: So many names that do not fit are shown.
_MOST_SHOWN = 60
#: What a page carries along beside the values on trial.
_CARRIED = ("start", "missed", "found", "many", "names", "rest", SHARE_OF)
#: Of those that fit, so many are tried with a change, lest it spoil them.
_FITTING_TRIED = 6
#: So many misfits tell what a change is worth.
_MISFITS_TRIED = 20
#: Changes are offered from this much of a gain on, and so many of them.
_LEAST_GAIN, _MOST_OFFERED = 0.01, 4


@cache
def _names(count: int) -> tuple[str, ...]:
    """Names spread over those that ship; of many the first ones are the few."""
    few = _spread(NAMES_TRIED)
    return (*few, *(name for name in _spread(count) if name not in few))[:count]


def _spread(count: int) -> tuple[str, ...]:
    return shipped_names()[:: max(1, len(shipped_names()) // count)][:count]


@require_GET
def share(request: HttpRequest, code: str) -> HttpResponse:
    """The share of real names that fits with values on trial, then the letters that never can: a portion.

    After the few names it goes on to many by itself, in portions with a pause between them.
    """
    row = current_product(code)
    table: Mapping[str, Any] = row.table
    is_many, is_at_rest = "many" in request.GET, "rest" in request.GET
    start, count = counted(request, "start"), MANY_TRIED if is_many else NAMES_TRIED
    missed = _places(request, min(start, count))
    try:
        table = trial_table(request, row, *_CARRIED)
        spec = spec_of(table)
        found = Portion.none(start, count) if is_at_rest else _tried_from(spec, start, count)
    except KizamiError as error:
        return refused_for(request, error, table)
    names = min(found.done, count)
    before = len(missed)
    missed = sorted(
        {*missed, *(start + n for n, result in enumerate(found.results) if isinstance(result, Misfit))}
    )
    misfits = [result for result in found.results if isinstance(result, Misfit)]
    few_told = not is_many and not found.goes_on
    has_more = found.goes_on if is_many else few_told and names < MANY_TRIED
    further = f"start={names}&missed={_as_mask(missed)}&many=1" if has_more else ""
    portion = f"start={found.done}&missed={_as_mask(missed)}" if found.goes_on and not is_many else ""
    context = {
        "product": row,
        "portion": found,
        "misfits": misfits[: max(0, _MOST_SHOWN - before)],
        "never": [result for result in found.results if isinstance(result, NeverHeld)],
        "names": names,
        "names_tried": NAMES_TRIED,
        "many_tried": MANY_TRIED,
        "few_told": few_told,
        "further": further,
        "next": portion or ("" if is_at_rest else further),
        "is_unasked": bool(further) and not is_at_rest,
        "pause": _PAUSE_MS,
        "not_shown": max(0, len(missed) - _MOST_SHOWN),
        "missed": _as_mask(missed),
        "percent": _percent((names - len(missed)) / max(1, names), names),
        "query": without(request, *_CARRIED),
        "share_of": table_mark(table),
    }
    return render(request, "catalogue/_share.html", context)


def _percent(share: float, names: int) -> str:
    """A share in words as exact as so many names make it; all of them only where it is all of them."""
    decimals = 0 if names <= NAMES_TRIED else 1
    return f"{math.floor(share * 100 * 10**decimals + 1e-6) / 10**decimals:.{decimals}f}"


def _as_mask(places: Sequence[int]) -> str:
    """Places of names in their row, short enough for an address whatever there are: bits, in base sixteen."""
    return f"{sum(1 << place for place in places):x}"


def _places(request: HttpRequest, count: int) -> list[int]:
    """Places of names in their row as a page carries them; none where it carries anything else."""
    try:
        mask = int(request.GET.get("missed", "")[: MANY_TRIED // 4 + 1], 16)
    except ValueError:
        return []
    return [place for place in range(count) if mask > 0 and mask >> place & 1]


def _tried_from(spec: ProductSpec, start: int, count: int) -> Portion[Misfit | NeverHeld | None]:
    """What is wrong with real names, and after the few with letters that stand alone."""
    typeface, size = own_typeface(spec), usual_size(spec)

    def work(trial: tuple[bool, str]) -> Misfit | NeverHeld | None:
        is_name, text = trial
        if is_name:
            return misfit_of(spec, text, size=size, typeface=typeface, cured=cured_by_itself)
        return letter_held(spec, text, size=size, typeface=typeface)

    trials = [(True, name) for name in _names(MANY_TRIED)[:count]]
    if count == NAMES_TRIED:
        trials += [(False, letter) for letter in common_letters(spec)]
    return next_portion(trials, work, start=start)


@require_GET
def raised(request: HttpRequest, code: str) -> HttpResponse:
    """What would raise the share most: a portion of the changes, and those that were best up to here."""
    row = current_product(code)
    table: Mapping[str, Any] = row.table
    count = min(max(1, counted(request, "names") or NAMES_TRIED), MANY_TRIED)
    missed = _places(request, count)
    try:
        table = trial_table(request, row, *_CARRIED)
        gone = retired_typefaces()
        changes = [one for one in changes_of(table) if one.name != "typeface" or one.new not in gone]

        def worth(place: int) -> float:
            return _worth(with_change(table, changes[place]), missed, count)

        start = counted(request, "start")
        done = next_portion(range(len(changes) if missed else 0), worth, start=start)
    except KizamiError as error:
        return refused_for(request, error, table)
    shares = _found(request, len(changes)) | {start + n: share for n, share in enumerate(done.results)}
    before = (count - len(missed)) / count
    named = typeface_names()
    offered = [
        {
            "said": change_told(changes[place], table, named),
            "percent": _percent(shares[place], count),
            "sets": json.dumps(dict(((changes[place].name, changes[place].new), *changes[place].with_it))),
        }
        for place in worth_offering(changes, shares, before=before)
    ]
    context = {
        "product": row,
        "portion": done,
        "offered": offered,
        "percent": _percent(before, count),
        "missed": _as_mask(missed),
        "has_missed": bool(missed),
        "names": count,
        "found": "-".join(f"{place}.{share:.3f}" for place, share in shares.items()),
        "query": without(request, *_CARRIED),
    }
    return render(request, "catalogue/_raised.html", context)


def worth_offering(changes: Sequence[Change], shares: Mapping[int, float], *, before: float) -> list[int]:
    """Places of the changes that raise a share most.

    Of several values for one thing that raise it as far only the gentlest is among them.

    Parameters
    ----------
    shares : of the changes that were tried, by their places; the gentler ones of one thing stand first
    before : the share without any of them
    """
    best = sorted(
        (place for place, share in shares.items() if share >= before + _LEAST_GAIN),
        key=lambda place: (-shares[place], place),
    )

    def is_enough(place: int) -> bool:
        one = changes[place]
        return isinstance(one.new, str) or not any(
            changes[other].name == one.name and other < place and shares[other] >= shares[place]
            for other in best
        )

    return [place for place in best if is_enough(place)][:_MOST_OFFERED]


def _found(request: HttpRequest, count: int) -> dict[int, float]:
    """Shares by the places of their changes, as the page carries them."""
    found = {}
    for word in request.GET.get("found", "").split("-")[:count]:
        place, _, share = word.partition(".")
        try:
            number, value = int(place), float(share)
        except ValueError:
            continue
        if 0 <= number < count and 0.0 <= value <= 1.0:
            found[number] = value
    return found


def _worth(table: Mapping[str, Any], missed: list[int], count: int) -> float:
    """The share of all names with a change, told from those that missed and a few that did not.

    It is 0 for a product that can't be.
    """
    try:
        spec = spec_of(table)
    except KizamiError:
        return 0.0
    typeface, size = own_typeface(spec), usual_size(spec)
    names = _names(MANY_TRIED)[:count]

    def holds(place: int) -> bool:
        return misfit_of(spec, names[place], size=size, typeface=typeface, cured=cured_by_itself) is None

    fitting = [place for place in range(len(names)) if place not in missed]
    some = fitting[:: max(1, len(fitting) // _FITTING_TRIED)][:_FITTING_TRIED]
    few = missed[:: max(1, len(missed) // _MISFITS_TRIED)][:_MISFITS_TRIED]
    cured = sum(map(holds, few)) * len(missed) / max(1, len(few))
    spoilt = sum(not holds(place) for place in some)
    return raised_share(
        count=len(names), misfits=len(missed), cured=round(cured), spoilt=spoilt, tried_fitting=len(some)
    )
