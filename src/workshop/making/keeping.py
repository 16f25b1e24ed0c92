"""Keeping other words or another setting for a line, taking that back, and putting it back again."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from kizami.checks.finding import Severity
from kizami.pieces.inputs import fingerprint
from workshop.catalogue.models import Product
from workshop.making.models import Revision
from workshop.making.recording import make_line, share_height, stand_on
from workshop.orders.models import Event, OrderLine
from workshop.orders.stages import Stage

__all__ = [
    "LONGEST_REASON",
    "MOST_TOLD",
    "KeepingError",
    "NothingToChangeError",
    "StaleEditionError",
    "Step",
    "change_wording",
    "make_all_the_same",
    "step",
    "step_of",
    "take_version",
]


class KeepingError(Exception):
    """A line was not changed; the message says why."""


class NothingToChangeError(KeepingError):
    """All pieces are on their way, or there is nothing to go back or forth to."""


class StaleEditionError(KeepingError):
    """Somebody changed a line after the form for it was drawn; nothing was kept.

    Attributes
    ----------
    line : as it stands now
    since : what happened to it since, the newest first
    """

    def __init__(self, line: OrderLine, *, edition: int) -> None:
        super().__init__(f"{line} was changed by somebody else meanwhile. Nothing was kept.")
        self.line = line
        newer = max(1, min(line.edition - edition, MOST_TOLD))
        self.since = list(line.events.select_related("who")[:newer])


#: Changes that are told of a line that somebody else changed.
MOST_TOLD = 5


def _locked(line_pk: int, edition: int | None) -> OrderLine:
    """A line that may be changed, locked, with its edition counted on."""
    line = OrderLine.objects.lock_with_fellows(line_pk)
    if line is None:
        raise OrderLine.DoesNotExist(f"there is no line {line_pk}")
    if edition is not None and edition != line.edition:
        raise StaleEditionError(line, edition=edition)
    if not line.changeable:
        raise NothingToChangeError(
            f"Every piece of {line} is in a run, made or sent already and stays as it is. "
            "Order what is to be different as a new line."
        )
    line.edition += 1
    return line


def change_wording(
    line_pk: int,
    text: str,
    *,
    user: User,
    choices: dict[str, Any] | None = None,
    edition: int | None = None,
) -> Revision:
    """Give a line other words, or another setting, and make it again at once.

    The words as received stay with the line, and every earlier revision too. Pieces that are on their way
    stay as they are.

    Parameters
    ----------
    edition : of the line when the form was drawn; None for whoever has not looked

    Raises
    ------
    KeepingError : somebody changed the line since, or no piece can be changed; nothing is kept then
    """
    with transaction.atomic():
        line = _locked(line_pk, edition)
        before, state = line.state, line.state.typed(text, choices)
        state.put_on(line)
        told = state.told_from(before)
        what = "; ".join(told) or "kept as it was"
        revision = make_line(line, why=what, user=user)
        Event.objects.create(who=user, what=what[:300], line=line, order_list_id=line.order_list_id)
    return revision


def take_version(line_pk: int, product: Product, *, user: User, edition: int | None = None) -> Revision:
    """Let a line have another version of its product, and make it again at once; a step like every other.

    Raises
    ------
    KeepingError : somebody changed the line since, no piece can be changed, or it is of another product
    kizami.errors.KizamiError : that version can't have the line's size
    """
    with transaction.atomic():
        line = _locked(line_pk, edition)
        if product.code != line.product.code:
            raise KeepingError(f"{line} is of another product. Nothing was changed.")
        line.state.of_version(product).put_on(line)
        what = f"version {product.version} of {product.code} taken"
        revision = make_line(line, why=what, user=user)
        Event.objects.create(who=user, what=what[:300], line=line, order_list_id=line.order_list_id)
    return revision


#: A reason is a sentence: more than a sign, and short enough to be printed.
SHORTEST_REASON, LONGEST_REASON = 8, 160


def make_all_the_same(line_pk: int, *, reason: str, user: User, edition: int | None = None) -> Revision:
    """Let a held line be made although checks fail, for a reason that is printed on everything that leaves.

    It is a step like every other: it can be taken back, and whatever is changed of the line ends it.

    Raises
    ------
    KeepingError : no reason, nothing held, or what fails can't be made at all
    """
    reason = " ".join(reason.split())
    if not SHORTEST_REASON <= len(reason) <= LONGEST_REASON:
        raise KeepingError(
            f"Say in {SHORTEST_REASON} to {LONGEST_REASON} characters why it is made all the same; it is "
            "printed on everything that leaves. Nothing was changed."
        )
    with transaction.atomic():
        line = _locked(line_pk, edition)
        held = line.revision
        if held is None or line.stage != Stage.HELD:
            raise KeepingError(f"{line} is not held. Nothing was changed.")
        failing = [f for f in held.facts["findings"] if f["level"] == "fails"]
        cannot = [f["title"] for f in failing if f.get("severity") == Severity.CANNOT_BE_MADE.value]
        if cannot or not held.facts["files"]:
            named = f" ({', '.join(dict.fromkeys(cannot)).lower()})" if cannot else ""
            raise KeepingError(f"{line} can't be made at all{named}; no reason helps. Nothing was changed.")
        what = f"made all the same: {reason}"
        revision = make_line(line, why=what, user=user, reason=reason)
        Event.objects.create(who=user, what=what[:300], line=line, order_list_id=line.order_list_id)
    return revision


@dataclass(frozen=True, kw_only=True, slots=True)
class Step:
    """Where going back or forth would lead.

    Attributes
    ----------
    to : the revision
    said : what would be different then
    """

    to: Revision
    said: str


def step_of(line: OrderLine, *, back: bool) -> Step | None:
    """Where a step would lead, or None where there is nothing before or after."""
    revision = line.revision
    if revision is None:
        return None
    if back and revision.state != line.state:
        # What was decided last is not made yet: going back leads to what was.
        target: Revision | None = revision
    elif back:
        root = Revision.objects.get(pk=revision.root_pk) if revision.again_id else revision
        target = root.follows
    else:
        target = Revision.objects.newest_after(revision)
    if target is None:
        return None
    said = "; ".join(target.state.told_from(line.state)) or "as it is, from an earlier making"
    return Step(to=target, said=said)


def step(line_pk: int, *, back: bool, user: User, edition: int | None = None) -> Revision:
    """Go back to what a line was before somebody decided otherwise, or forth again.

    The steps have no end but the first making, and stand in the database: they survive every sign-out.
    What was made then is stood on again; where it would be made otherwise now, as the height of its set or
    a logo has changed, it is made again.

    Raises
    ------
    KeepingError : somebody changed the line since, no piece can be changed, or there is nothing there
    """
    with transaction.atomic():
        line = _locked(line_pk, edition)
        if line.revision is not None and line.revision.state != line.state:
            make_line(line, why="made before it was taken back", user=user)
        found = step_of(line, back=back)
        if found is None:
            raise NothingToChangeError(
                f"There is nothing {'before' if back else 'after'} what {line} is now. Nothing was changed."
            )
        found.to.state.put_on(line)
        share_height(line)
        what = f"{'Took back' if back else 'Put back'}: {found.said}"
        if fingerprint(line.to_inputs()) == found.to.fingerprint:
            revision = found.to
            stand_on(line, revision)
        else:
            revision = make_line(line, why=what, user=user, again=found.to)
        Event.objects.create(who=user, what=what[:300], line=line, order_list_id=line.order_list_id)
    return revision
