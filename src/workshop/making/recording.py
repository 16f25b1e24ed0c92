"""Making a line's piece and recording it as a revision."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from kizami.checks.cases import finding
from kizami.checks.finding import Level, finding_table
from kizami.drawing.strip import strip_drawing, strips_drawing
from kizami.pieces.make import Made, make_piece
from kizami.pieces.run_facts import run_facts
from kizami.pieces.sets import set_height_mm
from kizami.remedies.by_itself import made_with_remedy
from kizami.setting.setting import Setting
from workshop.artwork.models import Logo
from workshop.jobs.queue import defer_making
from workshop.making.made_files import keep_files
from workshop.making.models import Finding, Revision
from workshop.orders.models import OrderLine, Piece
from workshop.orders.stages import Stage
from workshop.orders.state import LineState

__all__ = ["MOST_ATTEMPTS", "give_up_on", "make_line", "share_height", "stand_on"]

#: A line whose making ended its worker this often is held for a person instead of tried for ever.
MOST_ATTEMPTS = 3


def make_line(
    line: OrderLine,
    *,
    why: str,
    user: User | None = None,
    again: Revision | None = None,
    reason: str = "",
) -> Revision:
    """Make a line's piece and record it as a revision. Call inside a transaction that locks the line.

    A line of a set takes the height that the set shares now. When that has changed, its fellows that
    are still on paper are made again too.

    Parameters
    ----------
    again : a revision of the very state that the line has, when it is not the one that it stands on
    reason : why it is made although checks fail
    """
    share_height(line)
    logo, shelf = line.logo_of(line.state)
    inputs = line.state.to_inputs(logos=shelf, height_cap_mm=line.set_height_mm)
    made, remedy = (make_piece(inputs), None) if reason else made_with_remedy(inputs)
    if remedy is not None:
        # It is a setting like any other from then on: seen at the bench, and taken back there.
        line.choices = {**_not_of_a_setting(line.choices), **remedy.setting.to_table()}
        why = f"{why}; by itself: {'; '.join(remedy.said)}"
    if again is None and line.revision is not None and line.revision.state == line.state and not reason:
        again = line.revision
    overridden = _overridden(made, reason, user) if reason else None
    revision = _record(line, made, logo=logo, again=again, why=why, user=user, overridden=overridden)
    stand_on(line, revision)
    return revision


def _not_of_a_setting(choices: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in choices.items() if name not in Setting.names()}


def _overridden(made: Made, reason: str, user: User | None) -> dict[str, Any] | None:
    """What is kept of a reason; None where nothing fails after all."""
    failing = list(dict.fromkeys(f.title for f in made.findings if f.level is Level.FAILS))
    if not failing:
        return None
    who = user.get_username() if user is not None else ""
    return {"reason": reason, "who": who, "checks": failing}


def share_height(line: OrderLine) -> None:
    """Give a line the height that its set shares now; fellows that have another one are made again."""
    fellows = line.fellows()
    if len(fellows) > 1:
        members = [line if fellow.pk == line.pk else fellow for fellow in fellows]
        shared = set_height_mm([member.to_inputs() for member in members])
        others = [f.pk for f in fellows if f.pk != line.pk and f.changeable and f.set_height_mm != shared]
        if others:
            OrderLine.objects.filter(pk__in=others).update(set_height_mm=shared, attempts=0, badness=0.0)
            Piece.objects.filter(line__in=others).to_be_made()
            defer_making(line.order_list_id)
        line.set_height_mm = shared
    elif line.set_height_mm is not None:
        line.set_height_mm = None


def _record(
    line: OrderLine,
    made: Made,
    *,
    logo: Logo | None,
    again: Revision | None,
    why: str,
    user: User | None,
    overridden: dict[str, Any] | None,
) -> Revision:
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
        **run_facts(made, all_the_same=overridden is not None),
        "all_the_same": None
        if overridden is None
        else f"{', '.join(overridden['checks'])}; {overridden['reason']} ({overridden['who']})",
    }
    revision = _new_revision(
        line,
        again=again,
        set_height_mm=line.set_height_mm,
        logo_file=logo.file if logo is not None else None,
        logo_threshold=logo.threshold if logo is not None else None,
        fingerprint=made.fingerprint,
        stage=made.stage if overridden is None else Stage.READY,
        badness=max((f.weight for f in made.findings if f.level is Level.FAILS), default=0.0),
        overridden=overridden,
        height_mm=laid_out.layout.height_mm,
        strip=strip.content,
        strip_view_box=strip.view_box_text,
        strip_width_mm=strip.view_box[2],
        strip_height_mm=strip.view_box[3],
        worst=findings[0] if findings and findings[0]["level"] != "passes" else None,
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
    return revision


def _new_revision(line: OrderLine, *, again: Revision | None, **result: object) -> Revision:
    revision = Revision(
        line=line,
        number=line.revisions.count() + 1,
        follows=line.revision,
        again_id=again.root_pk if again is not None else None,
        **result,
    )
    line.state.put_on(revision)
    revision.save(force_insert=True)
    return revision


def stand_on(line: OrderLine, revision: Revision) -> None:
    """The one place where a line comes to stand on a revision, and its pieces on paper with it."""
    line.revision, line.badness = revision, revision.badness
    kept = ["edition", "revision", "badness", "set_height_mm", *LineState.names()]
    line.save(update_fields=kept)
    line.pieces.on_paper().update(stage=revision.stage, revision=revision)
    line.refresh_from_db(fields=["stage", "under_way"])


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
    revision = _new_revision(
        line, again=None, fingerprint="", stage=Stage.HELD, badness=given_up.weight,
        height_mm=0.0, strip="", strip_view_box="0 0 1 1", strip_width_mm=1.0, strip_height_mm=1.0,
        worst=table, facts={"findings": [table], "steps": [], "files": {}}, why="could not be made",
    )  # fmt: skip
    stand_on(line, revision)
