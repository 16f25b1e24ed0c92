"""Words of the shop's own, from its book: what products and typefaces are tried with."""

from __future__ import annotations

import re

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from workshop.orders.models import OrderLine

__all__ = ["words_lately"]

#: So many of the newest lines are looked at; the latest words of them are offered, then the longest.
_LOOKED_AT, _LATEST, _LONGEST = 400, 3, 2
_MOST_CHARACTERS = 60


def words_lately(longest: int) -> list[str]:
    """Different wordings of the book up to a length, the latest first and then the longest of many."""
    rows = OrderLine.objects.exclude(wording="").order_by("-pk").values_list("wording", flat=True)
    found = list(
        dict.fromkeys(word for word in rows[:_LOOKED_AT] if len(word) <= longest and "\n" not in word)
    )
    latest, others = found[:_LATEST], found[_LATEST:]
    return latest + sorted(others, key=len, reverse=True)[:_LONGEST]


@require_GET
def lately(request: HttpRequest) -> HttpResponse:
    """Them as buttons that fill in a field."""
    given = request.GET.get("longest", "")
    longest = min(int(given), _MOST_CHARACTERS) if re.fullmatch(r"[0-9]{1,3}", given) else _MOST_CHARACTERS
    into = request.GET.get("into", "")
    if not re.fullmatch(r"[a-z-]{1,20}", into):
        into = "words"
    return render(request, "book/_lately.html", {"words": words_lately(longest), "into": into})
