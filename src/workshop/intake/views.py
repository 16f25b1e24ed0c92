"""The desk's pages: lists on trial, rows set aside, aliases and questions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from kizami.errors import OrderListError, RowError
from kizami.formats.tables import csv_bytes
from kizami.pieces.lines import codes_for
from kizami.products.product import Catalogue, Word
from kizami.wording.columns import ASK_BELOW, FIELDS
from kizami.wording.headings import SURE
from kizami.wording.letters import ENCODINGS
from kizami.wording.order_list import LARGEST_CELL_CHARACTERS, SetAside
from workshop.cage.readers import examples_of
from workshop.catalogue.models import Product
from workshop.intake.models import Intake, Question, SetAsideRow
from workshop.intake.putting_right import decide, retry_row, set_alias
from workshop.intake.taking import Trial, set_reading, take, trial_of
from workshop.orders.list_choice import ListChoice
from workshop.orders.models import OrderList

_SHOWN = 40
_PAGE_ROWS = 60
#: Cells of a row beside those that matter; the others stay as they came.
_MOST_CELLS = 100
_SAMPLE_ROWS = 4


@require_GET
def trial(request: HttpRequest, pk: int) -> HttpResponse:
    """A list on trial: how it is read, and what taking it would do."""
    intake = get_object_or_404(Intake.objects.select_related("source"), pk=pk)
    return render(request, "intake/trial.html", _trial_context(intake))


@require_POST
def reading(request: HttpRequest, pk: int) -> HttpResponse:
    """Change how a list on trial is read, and show what that does."""
    intake = get_object_or_404(Intake.objects.select_related("source"), pk=pk)
    encoding = request.POST.get("encoding", "")
    # While the list can't be read there are no columns on the page: those chosen before stay.
    posted = {f.code: request.POST[f"field-{f.code}"] for f in FIELDS if f"field-{f.code}" in request.POST}
    columns = _set_by_hand(intake, posted, confirms="confirm" in request.POST)
    set_reading(
        intake,
        encoding=encoding if encoding in ENCODINGS else "",
        columns={code: name[:500] for code, name in columns.items()},
        use_rule=request.POST.get("rule") == "apart" if posted else intake.rule is not None,
    )
    if request.htmx:  # type: ignore[attr-defined]
        return render(request, "intake/_trial.html", _trial_context(intake))
    return redirect(intake)


def _set_by_hand(intake: Intake, posted: dict[str, str], *, confirms: bool) -> dict[str, str]:
    """Columns that a person has chosen: what only was shown as a guess stays one until it is confirmed."""
    if not posted:
        return {}
    try:
        found = trial_of(intake)
    except OrderListError:
        return posted
    header, places = found.table.header, found.columns.places
    shown = {code: header[places[code]] if code in places else "" for code in posted}
    asked = set(found.columns.asked) if confirms else set()
    return {code: name for code, name in posted.items() if name != shown[code] or code in asked}


def _trial_context(intake: Intake) -> dict[str, Any]:
    context: dict[str, Any] = {
        "intake": intake,
        "place": "book",
        "encodings": [(name, "") for name in ENCODINGS],
        "shown": _SHOWN,
        "refused": "",
    }
    try:
        found = trial_of(intake)
    except OrderListError as error:
        return {**context, "refused": str(error)}
    return {
        **context,
        "trial": found,
        "columns": _column_rows(found),
        "missing": [field.title for field in FIELDS if field.code in found.columns.missing],
        "asked": [field.title for field in FIELDS if field.code in found.columns.asked],
        "doubt": found.table.doubt,
        "told": [*found.columns.told(found.table.header), *found.notes],
        "aside": [_aside(found, row) for row in found.set_aside[:_SHOWN]],
        "encodings": _encodings(intake),
    }


def _encodings(intake: Intake) -> list[tuple[str, str]]:
    """The encodings that the file could be in, each with some of its words as they would read."""
    examples = examples_of(intake.file.read())
    return [
        (name, examples.get(name, "")) for name in ENCODINGS if name in examples or name == intake.encoding
    ]


def _aside(found: Trial, row: SetAside) -> dict[str, Any]:
    header = found.table.header
    fields = {header[place]: code for code, place in found.columns.places.items()}
    shown = _cells(header, row.cells, fields, row.columns)
    return {
        "row": row,
        "mattering": [cell for cell in shown if cell["matters"]],
        "others": [cell for cell in shown if not cell["matters"] and cell["value"]],
    }


def _column_rows(found: Trial) -> list[dict[str, Any]]:
    """For each field its column and what stands there in the first rows."""
    header = found.table.header
    sample = found.table.rows[:_SAMPLE_ROWS]
    rows = []
    for field in FIELDS:
        place = found.columns.places.get(field.code)
        rows.append(
            {
                "field": field,
                "chosen": header[place] if place is not None else "",
                "sure": _sureness(found.columns.sure.get(field.code)) if place is not None else "",
                "samples": [found.columns.cell(row.cells, field.code) for row in sample],
            }
        )
    return rows


def _sureness(sure: float | None) -> str:
    if sure is None:
        return "set by hand"
    return "sure" if sure >= SURE - 0.1 else "likely" if sure >= ASK_BELOW else "say which"


@require_POST
def take_in(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a list on trial in, or drop it."""
    intake = Intake.objects.select_related("source").filter(pk=pk).first()
    if intake is None:
        return _gone(request)
    if request.POST.get("do") == "drop":
        intake.delete()
        messages.success(request, f"{intake.name} was dropped; the order book is as it was.")
        return redirect("intake:take")
    try:
        order_list = take(intake, user=request.user)  # type: ignore[arg-type]
    except OrderListError as error:
        if not Intake.objects.filter(pk=pk).exists():
            return _gone(request)
        context = {**_trial_context(intake), "refused": str(error)}
        return render(request, "intake/trial.html", context, status=422)
    event = order_list.events.first()
    # What waits for a person is no success yet.
    waits = order_list.set_aside.exists() or order_list.questions.exists()
    say = messages.warning if waits else messages.success
    say(request, f"{event.what}." if event else "Taken in.")
    return redirect(f"{reverse('book:book')}?list={order_list.pk}")


def _gone(request: HttpRequest) -> HttpResponse:
    """Two had the same list on trial, and the other one was quicker."""
    messages.warning(request, "This list was taken in or dropped already. Nothing was taken in twice.")
    return redirect("book:book")


@require_GET
def set_aside(request: HttpRequest) -> HttpResponse:
    """Rows that could not be read, with their reasons, newest list first; and questions to decide."""
    rows = SetAsideRow.objects.select_related("order_list")
    rows = rows.order_by("-order_list_id", "row")
    chosen = ListChoice.of(request.GET.get("list", ""))
    lists = list(rows.order_by("order_list").values_list("order_list", flat=True).distinct()[:2])
    if not chosen and len(lists) == 1:
        chosen = ListChoice(order_list=lists[0])
    rows = rows.filter(chosen.condition)
    page = Paginator(rows, _PAGE_ROWS).get_page(request.GET.get("page"))
    catalogue, _ = Product.objects.catalogue()
    questions = Question.objects.filter(decided_at=None).select_related("line__product", "order_list")
    context = {
        "page": page,
        "chosen": chosen,
        "place": "book",
        "rows": [_row_context(row, catalogue) for row in page.object_list],
        "questions": questions[:_PAGE_ROWS],
        "longest": LARGEST_CELL_CHARACTERS,
    }
    return render(request, "intake/set_aside.html", context)


def _row_context(row: SetAsideRow, catalogue: Catalogue) -> dict[str, Any]:
    fields = {name: code for code, name in row.order_list.columns.items()}
    shown = _cells(row.order_list.header, row.cells, fields, row.columns)
    column = next((column for column in row.columns if column in _ALIASED), "")
    stands_for = _ALIASED.get(column)
    word = row.word(column) if column else ""
    return {
        "row": row,
        "mattering": [cell for cell in shown if cell["matters"]],
        "others": [cell for cell in shown if not cell["matters"]][:_MOST_CELLS],
        "kind": column,
        "word": word[:200],
        "codes": codes_for(word, stands_for, catalogue) if word and stands_for is not None else [],
    }


def _cells(
    header: Sequence[str], cells: Sequence[str], fields: Mapping[str, str], faulty: Sequence[str]
) -> list[dict[str, Any]]:
    """The cells of a row with their headings; those that matter tell which row it is and what is wrong."""
    names = [*header, *(f"column {place + 1}" for place in range(len(header), len(cells)))]
    values = [*cells, *[""] * (len(names) - len(cells))]
    found = []
    for place, (name, value) in enumerate(zip(names, values, strict=True)):
        code = fields.get(name, "")
        found.append(
            {
                "place": place,
                "name": name,
                "value": value[:LARGEST_CELL_CHARACTERS],
                "wrong": code in faulty,
                "matters": not faulty or code in faulty or code in _KNOWN_BY,
            }
        )
    return found


#: Fields that a row is known by.
_KNOWN_BY = ("order", "product", "wording")
#: Columns whose words may be given another meaning.
_ALIASED = {word.value: word for word in Word}


@require_POST
def retry(request: HttpRequest, pk: int) -> HttpResponse:
    """Try a set-aside row again with the cells as corrected."""
    try:
        row = SetAsideRow.objects.select_related("order_list").get(pk=pk)
        kept = dict(enumerate(row.cells))
        places = range(max(len(row.cells), len(row.order_list.header)))
        # A cell that the form did not bring stays as it came.
        cells = [request.POST.get(f"cell-{n}", kept.get(n, "")) for n in places]
        line = retry_row(row, cells, user=request.user)  # type: ignore[arg-type]
    except SetAsideRow.DoesNotExist:
        messages.warning(request, "That row was put right by somebody else already.")
        return redirect("intake:set-aside")
    if line is not None:
        messages.success(request, f"Row {row.row} is line {line} now.")
    return redirect(f"{reverse('intake:set-aside')}?list={row.order_list_id}#row-{pk}")


@require_POST
def alias(request: HttpRequest) -> HttpResponse:
    """Let a word stand for one of the shop's own, for all rows that wait for it and all lists to come."""
    stands_for = _ALIASED.get(request.POST.get("kind", ""))
    code = request.POST.get("code", "")
    word = request.POST.get("word", "").strip()[:200]
    catalogue, _ = Product.objects.catalogue()
    if stands_for is None or code not in codes_for("", stands_for, catalogue):
        messages.error(request, "Choose what the word stands for.")
    elif word:
        cured = set_alias(word, stands_for, code, user=request.user)  # type: ignore[arg-type]
        messages.success(request, f"“{word}” now stands for {code}; {cured} rows were put right.")
    return redirect(
        f"{reverse('intake:words')}" if request.POST.get("back") == "words" else "intake:set-aside"
    )


@require_POST
def answer(request: HttpRequest, pk: int) -> HttpResponse:
    """Decide a question: take what the list says, or leave the line."""
    question = get_object_or_404(Question, pk=pk)
    try:
        decide(question, take_it=request.POST.get("do") == "take", user=request.user)  # type: ignore[arg-type]
    except RowError as error:
        messages.error(request, str(error))
    return redirect("intake:set-aside")


@require_GET
def set_aside_file(request: HttpRequest, pk: int) -> HttpResponse:
    """The set-aside rows of a list as CSV with the reason in an extra column."""
    order_list = get_object_or_404(OrderList, pk=pk)
    header = order_list.header
    rows = [
        [*row.cells, *[""] * (len(header) - len(row.cells)), row.reason] for row in order_list.set_aside.all()
    ]
    content = csv_bytes([*header, "set aside because"], rows)
    response = HttpResponse(content, content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="set-aside-{pk}.csv"'
    return response
