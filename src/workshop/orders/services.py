"""What can be done with lines and their making. Each is one transaction; views and jobs call these."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from kizami.checks.cases import finding
from kizami.checks.finding import Finding as CoreFinding
from kizami.checks.finding import Level, finding_table
from kizami.drawing.strip import strip_drawing, strips_drawing
from kizami.pieces.adjustments import SHAPES
from kizami.pieces.make import Made, make_piece
from kizami.pieces.sets import set_height_mm
from kizami.wording.settling import settle
from workshop.jobs.queue import defer_making
from workshop.orders.made_files import keep_files
from workshop.orders.models import (
    MOST_CANDIDATES,
    Event,
    Finding,
    OrderLine,
    OrderList,
    Piece,
    Revision,
    Stage,
)

__all__ = [
    "MOST_ATTEMPTS",
    "StaleEditionError",
    "act_on_many",
    "change_wording",
    "choices_in_words",
    "give_up_on",
    "make_line",
    "stop_list",
]

#: A line whose making ended its worker this often is held for a person instead of tried for ever.
MOST_ATTEMPTS = 3


class StaleEditionError(Exception):
    """Somebody changed a line after the form for it was drawn; nothing was kept.

    Attributes
    ----------
    line : as it stands now
    since : what happened to it since, the newest first
    """

    def __init__(self, line: OrderLine, *, edition: int) -> None:
        super().__init__(f"{line} was changed by somebody else meanwhile. Nothing was kept.")
        self.line = line
        newer = max(1, min(line.edition - edition, _MOST_TOLD))
        self.since = list(line.events.select_related("who")[:newer])


#: Changes that are told of a line that somebody else changed.
_MOST_TOLD = 5


def make_line(line: OrderLine, *, why: str, user: User | None = None) -> Revision:
    """Make a line's piece and record it as a revision. Call inside a transaction that locks the line.

    A line of a set takes the height that the set shares now. When that has changed, its fellows that
    are still on paper are made again too.
    """
    fellows = line.fellows()
    if len(fellows) > 1:
        members = [line if fellow.pk == line.pk else fellow for fellow in fellows]
        shared = set_height_mm([member.to_inputs() for member in members])
        others = [f.pk for f in fellows if f.pk != line.pk and f.on_paper and f.set_height_mm != shared]
        if others:
            OrderLine.objects.filter(pk__in=others).update(
                set_height_mm=shared, stage=Stage.NEW, attempts=0, badness=0.0
            )
            Piece.objects.filter(line__in=others).update(stage=Stage.NEW)
            defer_making(line.order_list_id)
        line.set_height_mm = shared
    elif line.set_height_mm is not None:
        line.set_height_mm = None
    made = make_piece(line.to_inputs())
    return _record(line, made, why=why, user=user)


def _record(line: OrderLine, made: Made, *, why: str, user: User | None) -> Revision:
    laid_out, solid = made.laid_out, made.solid
    strip = strips_drawing([strip_drawing(part.area, part.layout) for part in laid_out.every_area])
    findings = [finding_table(f) for f in made.findings]
    facts = {
        "findings": findings,
        "steps": [{"name": s.name, "said": s.said, "height_mm": s.height_mm} for s in laid_out.layout.steps],
        "files": keep_files(made),
        "volume_mm3": round(solid.volume_mm3, 3) if solid else None,
        "weight_g": round(made.weight_g, 3) if made.weight_g is not None else None,
        "size_mm": [round(x, 3) for x in solid.size_mm] if solid else None,
        "triangles": len(solid.triangles) if solid else 0,
    }
    worst = findings[0] if findings and findings[0]["level"] != "passes" else None
    number = line.revisions.count() + 1
    revision = Revision.objects.create(
        line=line,
        number=number,
        wording=line.wording,
        fingerprint=made.fingerprint,
        stage=made.stage,
        height_mm=laid_out.layout.height_mm,
        strip=strip.content,
        strip_view_box=strip.view_box_text,
        strip_width_mm=strip.view_box[2],
        strip_height_mm=strip.view_box[3],
        worst=worst,
        facts=facts,
        why=why[:200],
        made_by=user,
    )
    Finding.objects.bulk_create(
        [
            Finding(
                revision=revision, place=place, code=f.code, title=f.title, level=f.level.value,
                measured=f.measured, limit=f.limit, unit=f.unit, message=f.message, hint=f.hint, area=f.area,
            )
            for place, f in enumerate(made.findings)
        ]
    )  # fmt: skip
    _stand(line, revision, made.findings)
    return revision


def _stand(line: OrderLine, revision: Revision, findings: tuple[CoreFinding, ...]) -> None:
    """The one place where a line and its pieces change their stage."""
    line.revision = revision
    line.stage = revision.stage
    line.badness = max((f.weight for f in findings if f.level is Level.FAILS), default=0.0)
    kept = [
        "edition",
        "revision",
        "stage",
        "badness",
        "wording",
        "changes",
        "proposal",
        "open_question",
        "candidates",
        "choices",
        "set_height_mm",
    ]
    line.save(update_fields=kept)
    line.pieces.update(stage=revision.stage)


def change_wording(
    line_pk: int,
    text: str,
    *,
    user: User,
    choices: dict[str, Any] | None = None,
    edition: int | None = None,
) -> Revision:
    """Give a line other words, or another setting, and make it again at once.

    The words as received stay with the line, and every earlier revision too.

    Parameters
    ----------
    edition : of the line when the form was drawn; None for whoever has not looked

    Raises
    ------
    StaleEditionError : somebody changed the line since; nothing is kept then
    """
    with transaction.atomic():
        line = OrderLine.objects.lock_with_fellows(line_pk)
        if line is None:
            raise OrderLine.DoesNotExist(f"there is no line {line_pk}")
        if edition is not None and edition != line.edition:
            raise StaleEditionError(line, edition=edition)
        line.edition += 1
        settled = settle(text, line.product.to_spec().wording, typed=True)
        before = line.wording
        line.wording = settled.wording.text
        said = [f"Wording “{before}” became “{line.wording}”"] if before != line.wording else []
        if choices is not None and choices != line.choices:
            said.extend(choices_in_words(line.choices, choices))
            line.choices = choices
        line.changes = [change.said for change in settled.wording.changes]
        # What a person typed is what they mean: nothing better is proposed for it.
        line.proposal, line.open_question = "", settled.open_question
        line.candidates = list(settled.candidates[:MOST_CANDIDATES])
        what = "; ".join(said) or "Kept as it was"
        revision = make_line(line, why=what, user=user)
        Event.objects.create(who=user, what=what[:300], line=line, order_list_id=line.order_list_id)
    return revision


_CHOICES = {
    "typeface": ("typeface", ""),
    "second": ("second wording", ""),
    "material": ("material", ""),
    "finish": ("finish", ""),
    "height_mm": ("height at most", " mm"),
    "tracking": ("spacing", " of the height"),
    "thicken_by_mm": ("strokes thicker by", " mm"),
}


def choices_in_words(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """What the bench chose otherwise, a sentence each."""
    said = []
    for key, (name, unit) in _CHOICES.items():
        if before.get(key) != after.get(key):
            usual = "as received" if key == "second" else "the product’s own"
            now = f"{after[key]}{unit}" if key in after else usual
            said.append(f"{name}: {now}")
    bent = [(given.get("shape"), given.get("shape_amount")) for given in (before, after)]
    if bent[0] != bent[1]:
        shape, amount = bent[1]
        measure, _, unit = (SHAPES[shape][0] if shape in SHAPES else "").partition(", ")
        how = f", {measure} {amount:g} {unit}" if measure else ""
        said.append(f"shape: {shape or 'the product’s own'}{how}")
    return said


def give_up_on(line: OrderLine) -> None:
    """Hold a line whose making ended its worker again and again, so that the rest can go on."""
    given_up = finding(
        "made",
        0.0,
        1.0,
        message=f"Making this line ended the program {line.attempts} times.",
        hint="Change the wording a little and keep it, which tries again.",
    )
    table = finding_table(given_up)
    revision = Revision.objects.create(
        line=line, number=line.revisions.count() + 1, wording=line.wording, fingerprint="", stage=Stage.HELD,
        height_mm=0.0, strip="", strip_view_box="0 0 1 1", strip_width_mm=1.0, strip_height_mm=1.0,
        worst=table, facts={"findings": [table], "steps": [], "files": {}}, why="could not be made",
    )  # fmt: skip
    _stand(line, revision, (given_up,))


def stop_list(order_list: OrderList, *, user: User, stop: bool) -> None:
    """Stop making a list, or go on with it."""
    with transaction.atomic():
        order_list.stopped_at = timezone.now() if stop else None
        order_list.save(update_fields=["stopped_at"])
        Event.objects.create(
            who=user,
            what="Stopped making the list" if stop else "Went on making the list",
            order_list=order_list,
        )
        if not stop:
            defer_making(order_list.pk)


def act_on_many(chosen: Mapping[int, int | None], *, do: str, user: User) -> str:
    """Do one thing to many lines, all or none.

    Lines that are on their way already are left alone, and those that somebody changed meanwhile.

    Parameters
    ----------
    chosen : key of each line -> the edition that was looked at, None for whatever stands now

    Returns
    -------
    what was done, in words
    """
    with transaction.atomic():
        rows = OrderLine.objects.select_for_update(of=("self",)).select_related("product")
        found = rows.filter(pk__in=chosen).order_by("pk")
        free = [line for line in found if line.on_paper]
        lines = [line for line in free if chosen[line.pk] in (None, line.edition)]
        left, changed = len(chosen) - len(free), len(free) - len(lines)
        if do in ("rush", "no rush"):
            for line in lines:
                line.rush = do == "rush"
                line.edition += 1
            OrderLine.objects.bulk_update(lines, ["rush", "edition"], batch_size=1000)
            said = f"{len(lines)} lines are {'' if do == 'rush' else 'no longer '}to be made before others"
        elif do == "take proposals":
            proposed = [line for line in lines if line.proposal]
            for line in proposed:
                _take_proposal(line)
            said = f"{len(proposed)} proposals were taken"
            _make_again(proposed, ["wording", "proposal", "changes", "open_question", "candidates"])
        elif do == "make again":
            said = f"{len(lines)} lines are made again"
            _make_again(list(lines), [])
        else:
            return "Nothing was done: choose what to do."
        if left:
            said += f"; {left} were left alone, as they are on their way or gone"
        if changed:
            said += f"; {changed} were left alone, as somebody changed them meanwhile"
        Event.objects.create(who=user, what=said[:300])
    return f"{said}."


def _take_proposal(line: OrderLine) -> None:
    """With the proposal the question about its capitals is answered; any other question stays."""
    asked = settle(line.wording_received, line.product.to_spec().wording)
    if list(asked.candidates) == [line.proposal]:
        line.open_question = line.open_question.removeprefix(asked.open_question).strip()
        line.candidates = []
    line.wording, line.proposal = line.proposal, ""
    line.changes = [*line.changes, "Took the proposed capitals"]


def _make_again(lines: list[OrderLine], changed: list[str]) -> None:
    for line in lines:
        line.stage, line.attempts, line.badness = Stage.NEW, 0, 0.0
        line.edition += 1
    kept = [*changed, "stage", "attempts", "badness", "edition"]
    OrderLine.objects.bulk_update(lines, kept, batch_size=1000)
    Piece.objects.filter(line__in=[line.pk for line in lines]).update(stage=Stage.NEW)
    for order_list in {line.order_list_id for line in lines}:
        defer_making(order_list)
