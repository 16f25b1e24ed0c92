"""The Bench: one piece, its wording, its drawing, its solid and its gauges."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.db.models import Count, Q
from django.http import (
    Http404,
    HttpRequest,
    HttpResponse,
    HttpResponseNotModified,
    JsonResponse,
    QueryDict,
)
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.checks.finding import Severity, finding_table
from kizami.checks.kinds import kind_of
from kizami.drawing.looking import look_at
from kizami.drawing.picture import Ground, picture_png
from kizami.errors import AdjustmentError
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.looser import looser_said
from kizami.products.product import Carries, Product, Word
from kizami.remedies.departing import outside_of
from kizami.setting.setting import Setting
from kizami.wording.order_list import LARGEST_CELL_CHARACTERS
from workshop.bench.by_hand import areas_at_hand, drawn_by_hand
from workshop.bench.gathered import gathered
from workshop.bench.models import Presence
from workshop.bench.offered import Looks, offered_remedies
from workshop.bench.setting_form import known_typeface, lines_field, setting_groups
from workshop.bench.side_by_side import choices_of, compared, piece_named, side_of
from workshop.bench.solids import cut_areas, cut_of, shown_of, shown_of_kept
from workshop.bench.trials import trial
from workshop.drawing.turning import colours_of, stand_of
from workshop.making.keeping import (
    LONGEST_REASON,
    MOST_TOLD,
    KeepingError,
    StaleEditionError,
    change_wording,
    make_all_the_same,
    step,
    step_of,
)
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage
from workshop.orders.state import LineState, choices_in_words
from workshop.runs.models import Placement

#: What the unrolled view has on a screen of 1280 x 800, to choose a readable size of figures.
_VIEW_WIDTH_PX, _VIEW_HEIGHT_PX = 960.0, 300.0


def _line(pk: int) -> OrderLine:
    lines = OrderLine.objects.select_related("product", "revision", "order_list")
    return get_object_or_404(lines, pk=pk)


#: What a list may ask for beside the words: it is no departure from the product.
_ASKED = (Word.TYPEFACE, Word.MATERIAL, Word.FINISH)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Trial:
    """What a request is about: the line as it is kept, or with words and a setting on trial.

    Attributes
    ----------
    query : words and setting as an address, so that drawing, solid and checks are of one trial
    """

    line: OrderLine
    state: LineState

    @property
    def wording(self) -> str:
        return self.state.wording

    @property
    def choices(self) -> dict[str, Any]:
        return self.state.choices

    @property
    def unsaved(self) -> bool:
        return self.wording != self.line.wording or self.choices != self.line.choices

    @property
    def query(self) -> str:
        return urlencode({"wording": self.wording, "chosen": "1", **self.state.setting.to_fields()})

    def inputs(self) -> Inputs:
        return self.line.to_inputs(self.state)

    def patient(self) -> Inputs:
        """For what would cure it: what its list asks for is as if the product had it."""
        inputs = self.inputs()
        asked = {
            word: self.choices[word.value]
            for word in _ASKED
            if getattr(self.state, word.value) and word.value in self.choices
        }
        return replace(inputs, product=inputs.product.chosen(asked))


def _trial_of(given: QueryDict, line: OrderLine) -> _Trial:
    """The trial of a form's fields.

    Raises
    ------
    AdjustmentError : a value that may not be set
    """
    state = line.state
    choices = state.choices
    if given.get("chosen"):
        # Everything that the form shows stands in it; words that it does not show stay.
        shown = {key: value for key, value in choices.items() if key not in _FORM_FIELDS}
        known_typeface(given.get("typeface", ""))
        own = line.product.to_spec()
        areas = [further.area for further in own.also]
        setting = Setting.read({key: given.get(key, "") for key in given if Setting.is_field(key, areas)})
        setting.on(own)
        setting.size_of(own, None)
        read = setting.to_table()
        usual = {
            "typeface": own.typeface, "material": own.material, "finish": own.finish, "second": line.second,
        }  # fmt: skip
        choices = {**shown, **{key: value for key, value in read.items() if usual.get(key) != value}}
    text = given.get("wording")
    if text is not None and text != line.wording:
        state = state.typed(text[:LARGEST_CELL_CHARACTERS], choices)
        if state.wording == line.wording:
            state = line.state
    return _Trial(line=line, state=replace(state, choices=choices))


_FORM_FIELDS = Setting.names()


def _result_context(on_trial: _Trial) -> dict[str, Any]:
    """Everything that is redrawn when the wording or the setting changes."""
    line, wording, unsaved = on_trial.line, on_trial.wording, on_trial.unsaved
    laid_out = lay_out(on_trial.inputs())
    saved = line.revision
    # A kept piece has its solid's findings too; a trial asks for them once the page shows the rest. Of a line
    # that waits to be made nothing is known but what its drawing says.
    not_made = line.stage == Stage.NEW and not unsaved
    if saved is not None and not unsaved and not not_made:
        findings = saved.facts["findings"]
    else:
        findings = [finding_table(f) for f in laid_out.findings]
    rows = gathered(findings)
    areas = areas_at_hand(
        laid_out, heights=_heights_beside(line), width_px=_VIEW_WIDTH_PX, height_px=_VIEW_HEIGHT_PX
    )
    failing = [f for f in rows if f["level"] == "fails"]
    return {
        "line": line,
        "wording": wording,
        "unsaved": unsaved,
        "not_made": not_made,
        "overridden": saved.overridden if saved is not None and not unsaved else None,
        "looser": looser_said(laid_out.inputs.product),
        "may_be_overridden": not unsaved
        and line.stage == Stage.HELD
        and all(f.get("severity") != Severity.CANNOT_BE_MADE.value for f in failing),
        "longest_reason": LONGEST_REASON,
        "drawings": areas,
        "findings": rows,
        "failing": failing,
        "passing": [f for f in rows if f["level"] != "fails"],
        "layout": laid_out.layout,
        "material": laid_out.inputs.product.made_of,
        **colours_of(laid_out.inputs.product),
        "facts": saved.facts if saved and not unsaved and not not_made else None,
        "size": laid_out.inputs.size,
        "allowance": laid_out.inputs.product.allowance_percent,
        **stand_of(laid_out.area, laid_out.inputs.product.treatment),
        "place": "bench",
        "several": bool(laid_out.others),
        "cut_areas": "|".join(cut_areas(laid_out)),
        "has_solid": not laid_out.layout.is_empty,
        "change": _change_in_words(on_trial, laid_out) if unsaved else "",
        "query": on_trial.query if unsaved else "",
        "asked": on_trial.query,
        "outside": outside_of(on_trial.patient(), laid_out),
        "has_hand": any(hand for _, hand in areas),
    }


def _heights_beside(line: OrderLine) -> list[float]:
    """Heights of the others of its set: what lettering that is sized by hand settles on."""
    if not line.set_name:
        return []
    heights = OrderLine.objects.heights_of_set(line)
    return sorted({round(height, 2) for height in heights})


def _second_title(product: Product) -> str:
    """Where a second wording goes, as the label of its field."""
    area = next((f.area for f in product.also if f.carries is Carries.SECOND), "")
    return f"On the {area}" if area else "Second wording"


def _change_in_words(on_trial: _Trial, laid_out: LaidOut) -> str:
    line = on_trial.line
    said = choices_in_words(line.choices, on_trial.choices)
    if on_trial.wording != line.wording:
        said.insert(0, f"“{line.wording}” would become “{on_trial.wording}”")
    if line.revision is not None and line.revision.height_mm and laid_out.layout.height_mm:
        before, now = line.revision.height_mm, laid_out.layout.height_mm
        if abs(now - before) > 0.001:
            said.append(f"{abs(now - before):.2f} mm {'higher' if now > before else 'lower'}")
        else:
            said.append("at the same height")
    return ", ".join(said) + ". Not kept yet."


@require_GET
def first(request: HttpRequest) -> HttpResponse:
    """The worst held piece, or a page that says there is none."""
    worst = OrderLine.objects.worst_held().first()
    if worst is None:
        counts = OrderLine.objects.aggregate(
            lines=Count("pk"), waiting=Count("pk", filter=Q(stage=Stage.NEW))
        )
        return render(request, "bench/nothing_held.html", {"place": "bench", **counts})
    return redirect(worst)


@require_GET
def piece(request: HttpRequest, pk: int) -> HttpResponse:
    """One line's piece."""
    line = _line(pk)
    kept = _Trial(line=line, state=line.state)
    return render(request, "bench/piece.html", _piece_context(kept))


#: Of what a line was before so much is drawn on its page; going back leads further.
_MOST_REVISIONS = 12


def _piece_context(on_trial: _Trial) -> dict[str, Any]:
    """The whole page, with words and setting as they are kept or as somebody has them in the fields."""
    line = on_trial.line
    context = _result_context(on_trial)
    product = line.product.to_spec()
    context |= {
        "back": step_of(line, back=True),
        "forth": step_of(line, back=False),
        "held": OrderLine.objects.place_among_held(line),
        "revisions": line.revisions.select_related("made_by").defer("facts")[:_MOST_REVISIONS],
        "beside": OrderLine.objects.beside(line),
        "runs": Placement.objects.runs_of(line) if line.stage in (Stage.READY, Stage.IN_RUN) else (),
        "longest": LARGEST_CELL_CHARACTERS,
        "product": product,
        "second_title": _second_title(product),
        "setting": setting_groups(
            product,
            on_trial.choices,
            wording=on_trial.wording,
            has_second=bool(line.second or product.second_plan),
            size=product.read_size(line.size),
        ),
        "typed": on_trial.wording,
        "second_set": on_trial.choices.get("second", ""),
    }
    return context


@require_GET
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """The redrawn result for words and a setting on trial; nothing is stored."""
    line = _line(pk)
    try:
        on_trial = _trial_of(request.GET, line)
    except AdjustmentError as error:
        return render(request, "bench/_refused.html", {"refused": str(error)})
    # What lines there may be follows the words.
    lines = {"one": lines_field(on_trial.wording, on_trial.choices), "lines_again": True}
    return render(request, "bench/_result.html", _result_context(on_trial) | lines)


def _asked_for(request: HttpRequest, pk: int) -> _Trial:
    """The trial that a part of the page is asked for.

    Raises
    ------
    Http404 : a value in its address may not be set
    """
    try:
        return _trial_of(request.GET, _line(pk))
    except AdjustmentError as error:
        raise Http404(str(error)) from error


_LONGEST_CODE = 80


@require_GET
def beside(request: HttpRequest, pk: int) -> HttpResponse:
    """Two ways of the piece, or it and another one, at one scale."""
    line = _line(pk)
    one, other = request.GET.get("one", "product"), request.GET.get("other", "now")
    written = request.GET.get("piece", "")[:_LONGEST_CODE]
    named = piece_named(written) if written.strip() else None
    if named is not None:
        other = f"line{named.pk}"
    context = {
        "line": line,
        "place": "bench",
        "unknown": written if written.strip() and named is None else "",
        "choices": choices_of(line, (one, other)),
        "pickers": [("one", one, "First"), ("other", other, "Second")],
        "compared": compared(side_of(one, line), side_of(other, line)),
    }
    return render(request, "bench/beside.html", context)


@require_GET
def hand(request: HttpRequest, pk: int) -> HttpResponse:
    """Lettering where a hand has it, as it would be drawn there: quick enough to follow the hand."""
    return JsonResponse(drawn_by_hand(_asked_for(request, pk).inputs(), request.GET.get("area", "")))


@require_GET
def solid_checks(request: HttpRequest, pk: int) -> HttpResponse:
    """The findings on the solid of a wording on trial, and with them the verdict on the whole."""
    on_trial = _asked_for(request, pk)
    made = trial(on_trial.inputs())
    findings = gathered(finding_table(f) for f in made.findings)
    context = {
        "solid_findings": [f for f in findings if kind_of(f["code"]).on_solid],
        "failing": [f for f in findings if f["level"] == "fails"],
        "unsaved": True,
        "several": bool(made.laid_out.others),
        "line": on_trial.line,
        # Where the drawing alone fails already, the page has asked for a cure.
        "asked": "" if made.laid_out.failing or made.stage == "ready" else on_trial.query,
    }
    return render(request, "bench/_solid_checks.html", context)


@require_GET
def here(request: HttpRequest, pk: int) -> HttpResponse:
    """Who else has the piece open, and what was kept since. A page that asks is heard of."""
    line = _line(pk)
    edition = _edition(request.GET)
    newer = max(0, line.edition - edition) if edition else 0
    context = {
        "line": line,
        "others": Presence.objects.heard_of(line, request.user),  # type: ignore[arg-type]
        "since": line.events.select_related("who")[: min(newer, MOST_TOLD)],
        "edition": edition,
    }
    return render(request, "bench/_here.html", context)


@require_GET
def remedies(request: HttpRequest, pk: int) -> HttpResponse:
    """What would cure the piece, made and measured; asked for once the page shows the rest.

    The first cure is shown as soon as there is one, and asks for the others.
    """
    on_trial = _asked_for(request, pk)
    looks = Looks.named(request.GET.get("looks", ""))
    context = {
        "line": on_trial.line,
        "wording": on_trial.wording,
        "asked": on_trial.query,
        "longer": looks is Looks.LONGER,
        **offered_remedies(on_trial.patient(), trial(on_trial.inputs()), looks),
    }
    return render(request, "bench/_remedies.html", context)


_LONGEST_NUMBER = 10


def _edition(given: QueryDict) -> int:
    """Of the line when the form was drawn; without one it was drawn from nothing that stands here."""
    edition = given.get("edition", "")
    return int(edition) if edition.isdecimal() and len(edition) < _LONGEST_NUMBER else 0


@require_POST
def keep(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep words and setting: the piece is made again and recorded as a revision."""
    line = _line(pk)
    try:
        choices = _trial_of(request.POST, line).choices
    except AdjustmentError as error:
        messages.error(request, f"{error} Nothing was kept.")
        return redirect("bench:piece", pk=pk)
    text = request.POST.get("wording", "")[:LARGEST_CELL_CHARACTERS]
    try:
        change_wording(pk, text, user=request.user, choices=choices, edition=_edition(request.POST))  # type: ignore[arg-type]
    except StaleEditionError as stale:
        # What was typed is kept in the fields, beside what the other person did.
        context = _piece_context(_trial_of(request.POST, _line(pk)))
        return render(request, "bench/piece.html", {**context, "stale": stale}, status=409)
    except KeepingError as error:
        messages.error(request, str(error))
    return redirect("bench:piece", pk=pk)


def _decided(request: HttpRequest, pk: int, decide: Callable[[int], object]) -> HttpResponse:
    """The page after a decision about the line, or why nothing was decided.

    Parameters
    ----------
    decide : is given the edition that the form was drawn from
    """
    line = _line(pk)
    try:
        decide(_edition(request.POST))
    except StaleEditionError as stale:
        context = _piece_context(_Trial(line=line, state=line.state))
        return render(request, "bench/piece.html", {**context, "stale": stale}, status=409)
    except KeepingError as error:
        messages.error(request, str(error))
    return redirect("bench:piece", pk=pk)


@require_POST
def all_the_same(request: HttpRequest, pk: int) -> HttpResponse:
    """Have the piece made although checks fail, for a reason."""
    reason, user = request.POST.get("reason", ""), request.user
    return _decided(
        request,
        pk,
        lambda edition: make_all_the_same(pk, reason=reason, user=user, edition=edition),  # type: ignore[arg-type]
    )


@require_POST
def go(request: HttpRequest, pk: int, back: bool) -> HttpResponse:
    """Take back what was decided last for a line, or put it back again."""
    user = request.user
    return _decided(request, pk, lambda edition: step(pk, back=back, user=user, edition=edition))  # type: ignore[arg-type]


@require_GET
def picture(request: HttpRequest, pk: int) -> HttpResponse:
    """The piece as a picture, of the kept wording or of one on trial."""
    inputs = _asked_for(request, pk).inputs()
    mark = f'"{fingerprint(inputs)} picture"'
    if request.headers.get("If-None-Match") == mark:
        return HttpResponseNotModified()
    made = trial(inputs)
    if made.solid is None:
        raise Http404("There is nothing to build for this wording.")
    product = inputs.as_set.product
    content = picture_png(
        made.solid,
        look=look_at(made.laid_out.area),
        colour=product.made_of.colour,
        size_px=_PICTURE_PX,
        ground=Ground.of(product.treatment),
    )
    response = HttpResponse(content, content_type="image/png")
    response["ETag"] = mark
    response["Cache-Control"] = "private, no-cache"
    return response


_PICTURE_PX = (640, 480)


@require_GET
def solid(request: HttpRequest, pk: int) -> HttpResponse:
    """The solid for the turning view, of the kept wording or of one on trial."""
    on_trial = _asked_for(request, pk)
    line = on_trial.line
    inputs = on_trial.inputs()
    mark = f'"{fingerprint(inputs)}"'
    if request.headers.get("If-None-Match") == mark:
        return HttpResponseNotModified()
    content: bytes | None
    if line.revision is not None and line.revision.fingerprint == mark.strip('"'):
        content = shown_of_kept(inputs, line.revision.facts["files"])
    else:
        content = shown_of(trial(inputs))
    if content is None:
        raise Http404("There is nothing to build for this wording.")
    response = HttpResponse(content, content_type="application/octet-stream")
    response["ETag"] = mark
    response["Cache-Control"] = "private, no-cache"
    return response


@require_GET
def cut(request: HttpRequest, pk: int) -> JsonResponse:
    """The piece cut open across its deepest letter, with depth and wall as they are measured there."""
    made = trial(_asked_for(request, pk).inputs())
    return JsonResponse(cut_of(made, request.GET.get("area", "")))
