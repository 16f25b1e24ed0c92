"""Looking for cures, taking them for many lines, and taking that back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Case, When
from django.utils import timezone

from kizami.checks.finding import finding_from_table
from kizami.drawing.strip import strip_drawing, strips_drawing
from kizami.errors import KizamiError
from kizami.lettering.layout import FitStep
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.make import make_until_held
from kizami.remedies.as_found import AsFound, found_before
from kizami.remedies.remedy import Remedy
from kizami.remedies.search import search_remedies
from kizami.setting.setting import Setting
from workshop.catalogue.models import Product, retired_typefaces
from workshop.curing.models import Cure, Taken, Taking, cures_to_look_for_longer, lines_to_look_at
from workshop.curing.tasks import defer_taking
from workshop.making.keeping import KeepingError, change_wording, step, take_version
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage

__all__ = ["look_at_next", "take_back", "take_for", "take_next", "take_versions_for"]

#: A search for one line ends after this, s; one that found nothing is gone on with once all were looked at.
_SECONDS, _LONGER_S = 0.5, 4.0


def look_at_next(after: str = "") -> str:
    """Find out what would cure one more held line; returns its product's code, "" when none is left.

    All are looked at shortly before any is looked at longer.

    Parameters
    ----------
    after : code of the product that this worker looked at last: its letters and bodies are at hand, so the
        next line of it goes before worse ones of others
    """
    return _look_at_one(after) or _look_longer_at_one(after)


def _look_at_one(after: str) -> str:
    with transaction.atomic():
        due = lines_to_look_at().select_for_update(skip_locked=True, no_key=True, of=("self",))
        at_hand = Case(When(product__code=after, then=0), default=1)
        line = due.select_related("product", "revision").order_by(at_hand, "-badness", "pk").first()
        if line is None or line.revision is None:
            return ""
        found = _found(line, seconds=_SECONDS)
        Cure.objects.update_or_create(
            line=line, defaults={"edition": line.edition, "revision": line.revision, **found}
        )
    return line.product.code


def _look_longer_at_one(after: str) -> str:
    with transaction.atomic():
        # What is found is held, not the line: nobody who changes that waits so long.
        due = cures_to_look_for_longer().select_for_update(skip_locked=True, of=("self",))
        at_hand = Case(When(line__product__code=after, then=0), default=1)
        cure = (
            due.select_related("line__product", "line__revision").order_by(at_hand, "-line__badness").first()
        )
        if cure is None:
            return ""
        found = _found(cure.line, seconds=_LONGER_S)
        Cure.objects.filter(pk=cure.pk).update(**{**found, "may_go_on": False})
    return cure.line.product.code


def _found(line: OrderLine, *, seconds: float) -> dict[str, Any]:
    inputs = line.to_inputs()
    found = _on_record(line, inputs) or make_until_held(inputs)
    offered = search_remedies(
        inputs, found, seconds=seconds, most=1, passed_over=retired_typefaces(), with_nearest=False
    )
    if offered.cures:
        return {**_row(offered.cures[0]), "may_go_on": False}
    # What nothing cures is known as well, so that it is not looked at again.
    nothing = {"setting": None, "said": "", "strip": "", "asks": [], "outside": []}
    return {**nothing, "may_go_on": not offered.is_over}


def _on_record(line: OrderLine, inputs: Inputs) -> AsFound | None:
    """What a line was held for when it was made; None where it would be made otherwise by now."""
    revision = line.revision
    if revision is None or revision.fingerprint != fingerprint(inputs):
        return None
    findings = [finding_from_table(table) for table in revision.facts["findings"]]
    steps = [FitStep(**step) for step in revision.facts["steps"]]
    return found_before(inputs, findings, steps, height_mm=revision.height_mm)


def _row(remedy: Remedy) -> dict[str, Any]:
    laid_out = remedy.made.laid_out
    strip = strips_drawing([strip_drawing(part.area, part.layout) for part in laid_out.every_area])
    return {
        "setting": remedy.setting.to_table(),
        "said": "; ".join(remedy.said)[:300],
        "cost": remedy.cost,
        "asks": list(remedy.asks),
        "outside": list(remedy.outside),
        "height_mm": laid_out.layout.height_mm,
        "strip": strip.content,
        "strip_view_box": strip.view_box_text,
        "strip_width_mm": strip.view_box[2],
        "strip_height_mm": strip.view_box[3],
    }


def take_for(asked: Iterable[tuple[int, int]], *, user: User, said: str) -> Taking | None:
    """Take the cures of lines in one step, in the background; None where none of them has one any more.

    Parameters
    ----------
    asked : lines with the editions that were looked at; what was changed since is left as it is
    """
    editions = dict(asked)
    cures = Cure.objects.filter(line__in=editions, setting__isnull=False, line__stage=Stage.HELD)
    rows = [cure for cure in cures.select_related("line") if cure.edition == editions[cure.line_id]]
    if not rows:
        return None
    with transaction.atomic():
        taking = Taking.objects.create(who=user, said=said[:200])
        Taken.objects.bulk_create(
            Taken(taking=taking, line_id=cure.line_id, setting=cure.setting, edition=cure.edition)
            for cure in rows
        )
        defer_taking(taking.pk)
    return taking


def take_versions_for(
    asked: Iterable[tuple[int, int]], products: Sequence[Product], *, user: User, said: str
) -> Taking | None:
    """Let lines have versions of their products in one step, in the background; None where none is left to.

    Parameters
    ----------
    asked : lines with the editions that were looked at; what was changed since is left as it is
    products : one version of each product; lines of others are passed over
    """
    editions, versions = dict(asked), {product.code: product for product in products}
    of_codes = OrderLine.objects.filter(pk__in=editions, product__code__in=versions)
    rows = list(of_codes.exclude(product__in=products).values_list("pk", "product__code"))
    if not rows:
        return None
    with transaction.atomic():
        taking = Taking.objects.create(who=user, said=said[:200])
        Taken.objects.bulk_create(
            Taken(taking=taking, line_id=pk, product=versions[code], edition=editions[pk])
            for pk, code in rows
        )
        defer_taking(taking.pk)
    return taking


def take_back(taking: Taking) -> None:
    """Take a whole taking back, in the background; what was changed since stays as somebody left it."""
    with transaction.atomic():
        going = taking.lines.filter(state=Taken.State.TAKEN)
        going.update(state=Taken.State.GOING_BACK)
        taking.lines.filter(state=Taken.State.WAITING).update(state=Taken.State.LEFT, why="taken back before")
        Taking.objects.filter(pk=taking.pk).update(taken_back_at=timezone.now())
        defer_taking(taking.pk)


_WORK = (Taken.State.WAITING, Taken.State.GOING_BACK)


def take_next(taking_pk: int) -> bool:
    """Take, or take back, one line more; False when none waits."""
    with transaction.atomic():
        waiting = Taken.objects.select_for_update(skip_locked=True, of=("self",))
        row = (
            waiting.filter(taking=taking_pk, state__in=_WORK)
            .select_related("taking__who", "line", "product")
            .first()
        )
        if row is None:
            return False
        back = row.state == Taken.State.GOING_BACK
        try:
            with transaction.atomic():
                row.edition = _gone_back(row) if back else _set(row)
            row.state, row.why = (Taken.State.BACK if back else Taken.State.TAKEN), ""
        except (KeepingError, KizamiError, OrderLine.DoesNotExist) as error:
            row.state, row.why = Taken.State.LEFT, str(error)[:300]
        row.save(update_fields=["edition", "state", "why"])
    return True


def _set(row: Taken) -> int:
    line = row.line
    if row.product is not None:
        take_version(line.pk, row.product, user=row.taking.who, edition=row.edition)  # type: ignore[arg-type]
        return _edition_of(line)
    kept = {name: value for name, value in line.choices.items() if name not in Setting.names()}
    change_wording(
        line.pk, line.wording, user=row.taking.who, choices={**kept, **row.setting}, edition=row.edition
    )  # type: ignore[arg-type]
    return _edition_of(line)


def _gone_back(row: Taken) -> int:
    step(row.line_id, back=True, user=row.taking.who, edition=row.edition)  # type: ignore[arg-type]
    return _edition_of(row.line)


def _edition_of(line: OrderLine) -> int:
    edition: int = OrderLine.objects.values_list("edition", flat=True).get(pk=line.pk)
    return edition
