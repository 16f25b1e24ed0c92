"""Changing a run from its page; every answer is the run as it stands then."""

from __future__ import annotations

import math
from collections.abc import Callable

from django.contrib import messages
from django.contrib.auth.models import User
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from kizami.errors import KizamiError
from workshop.runs import changing, locking
from workshop.runs.held import RunChangeError, changed_run
from workshop.runs.models import Run
from workshop.runs.views import looks_in, run_context

_MOST_CHOSEN = 2000


def _edition(request: HttpRequest) -> int:
    text = request.POST.get("edition", "")
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else 0


def _chosen(request: HttpRequest, name: str) -> list[int]:
    found = [
        t for t in request.POST.getlist(name)[:_MOST_CHOSEN] if t.isascii() and t.isdigit() and len(t) < 18
    ]
    return [int(text) for text in found]


@require_POST
def move_pieces(request: HttpRequest, code: str) -> HttpResponse:
    """Put one or several pieces elsewhere; the same amount for all."""
    chosen = _chosen(request, "piece")
    numbers = [_number(request.POST.get(name, "0")) for name in ("right", "up", "turn")]

    def act(run: Run, user: User) -> str:
        if None in numbers or not chosen:
            raise RunChangeError("Nothing was moved: choose pieces and say how far, in mm.")
        right, up, turn = (float(n or 0.0) for n in numbers)
        rows = run.placements.live().filter(pk__in=chosen)
        places = {
            row.pk: _turned(row.x_mm + right, row.y_mm + up, row.turn_deg, turn, row.shape.outline)
            for row in rows.select_related("shape")
        }
        changing.move(run, places, user=user)
        return ""

    return _changed(request, code, act)


def _turned(
    x: float, y: float, turn: float, by: float, outline: list[list[float]]
) -> tuple[float, float, float]:
    """A piece turned about the middle of its outline."""
    if not by:
        return x, y, turn
    middle_x = (min(p[0] for p in outline) + max(p[0] for p in outline)) / 2.0
    middle_y = (min(p[1] for p in outline) + max(p[1] for p in outline)) / 2.0

    def at(degrees: float) -> tuple[float, float]:
        a = math.radians(degrees)
        return (
            middle_x * math.cos(a) - middle_y * math.sin(a),
            middle_x * math.sin(a) + middle_y * math.cos(a),
        )

    (old_x, old_y), (new_x, new_y) = at(turn), at(turn + by)
    return x + old_x - new_x, y + old_y - new_y, turn + by


def _number(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) and abs(value) < 10_000 else None


@require_POST
def change(request: HttpRequest, code: str) -> HttpResponse:
    """Take, put in, take out, split, merge, take back, lock, open again, give up."""
    what = request.POST.get("do", "")
    pieces, waiting = _chosen(request, "piece"), _chosen(request, "waiting")

    def take(run: Run, user: User) -> str:
        changing.take(run, user=user)
        return f"{run.code} is yours: new proposals leave it alone."

    def put_in(run: Run, user: User) -> str:
        came, stayed = changing.add(run, waiting, user=user)
        return f"{came} put in" + (f"; {stayed} found no room and wait." if stayed else ".")

    def out(run: Run, user: User) -> str:
        changing.take_out(run, pieces, user=user)
        return ""

    def split(run: Run, user: User) -> str:
        return f"Split off as {changing.split(run, pieces, user=user).code}."

    def merge(run: Run, user: User) -> str:
        other = Run.objects.select_for_update(of=("self",)).filter(code=request.POST.get("with", "")).first()
        if other is None or not other.can_be_changed:
            raise RunChangeError("The other run is gone or locked.")
        came, stayed = changing.merge(run, other, user=user)
        return f"{came} came over" + (
            f"; {stayed} found no room and stay in {other.code}." if stayed else "."
        )

    def back(run: Run, user: User) -> str:
        return f"Taken back: {changing.take_back(run, user=user)}."

    def lock(run: Run, user: User) -> str:
        locking.lock(run, user=user)
        return ""

    acts: dict[str, Callable[[Run, User], str]] = {
        "take": take, "put-in": put_in, "out": out, "split": split, "merge": merge, "back": back,
        "lock": lock,
    }  # fmt: skip
    if what == "unlock":

        def unlock(run: Run, user: User) -> str:
            locking.unlock(run, user=user)
            return ""

        return _changed(request, code, unlock, also_locked=True)
    if what == "give-up":
        return _give_up(request, code)
    if what not in acts:
        return _changed(request, code, _nothing)
    return _changed(request, code, acts[what])


def _nothing(run: Run, user: User) -> str:
    raise RunChangeError("That can't be done to a run.")


def _give_up(request: HttpRequest, code: str) -> HttpResponse:
    try:
        with transaction.atomic():
            run = changed_run(code, _edition(request))
            changing.withdraw(run, user=request.user)  # type: ignore[arg-type]
    except RunChangeError as error:
        messages.error(request, str(error))
        return redirect("runs:run", code=code)
    messages.success(request, f"{code} was given up; its pieces are ready for other runs.")
    return redirect("runs:runs")


@require_POST
def made(request: HttpRequest, code: str) -> HttpResponse:
    """Mark off what was made and what failed."""
    why = request.POST.get("why", "").strip()[:200]
    failed = dict.fromkeys(_chosen(request, "piece"), why)

    def act(run: Run, user: User) -> str:
        good, bad = locking.mark_off(run, failed, user=user)
        return f"{good} made" + (f", {bad} failed and ready again." if bad else ".")

    return _changed(request, code, act, also_locked=True)


def _changed(
    request: HttpRequest, code: str, act: Callable[[Run, User], str], *, also_locked: bool = False
) -> HttpResponse:
    """Do something to a run, all of it or nothing, and show the run."""
    trouble = said = ""
    try:
        with transaction.atomic():
            run = changed_run(code, _edition(request), also_locked=also_locked)
            said = act(run, request.user)  # type: ignore[arg-type]
    except (RunChangeError, KizamiError) as error:
        trouble = str(error)
    row = get_object_or_404(Run.objects.select_related("station", "made_by", "file", "remnant"), code=code)
    if request.headers.get("HX-Request") == "true":
        looks = looks_in(request.POST)
        return render(request, "runs/_run.html", run_context(row, trouble=trouble, said=said, looks=looks))
    if trouble:
        messages.error(request, trouble)
    elif said:
        messages.success(request, said)
    address = reverse("runs:run", args=[code])
    return redirect(f"{address}?look=1" if looks_in(request.POST) else address)
