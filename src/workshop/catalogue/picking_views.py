"""A side of the piece picked by pointing at it: lettered instead of another one, or as well."""

from __future__ import annotations

import json
import math
import re
from typing import Any

import numpy as np
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from kizami.blanks.picking import area_at
from kizami.errors import KizamiError
from kizami.surfaces.protocol import FloatArray
from workshop.catalogue.models import current_product
from workshop.catalogue.product_fields import fields_of
from workshop.catalogue.samples import sample_laid_out, shown_of
from workshop.catalogue.trial import spec_of, trial_table

__all__ = ["picked"]

#: Whoever points at letters points at their floor or top.
_WITHIN_MM = 4.0


@require_GET
def picked(request: HttpRequest, code: str) -> HttpResponse:
    """What may be done with the side at a point of the piece; a sentence where there is none."""
    row = current_product(code)
    point, out = _three(request.GET.get("at", "")), _three(request.GET.get("out", ""))
    if point is None:
        return render(request, "catalogue/_picked.html", {"said": "Point at the piece itself."})
    try:
        table = trial_table(request, row, "at", "out")
        laid_out = sample_laid_out(spec := spec_of(table), shown_of(spec))
    except KizamiError as error:
        return render(request, "catalogue/_picked.html", {"said": str(error)})
    area = area_at(laid_out.blank.areas, point, out=out, within_mm=_WITHIN_MM)
    if area is None:
        return render(request, "catalogue/_picked.html", {"said": "No lettering can stand there."})
    return render(request, "catalogue/_picked.html", {"area": area.name, **_ways(table, area.name)})


def _ways(table: dict[str, Any], area: str) -> dict[str, Any]:
    """What its fields let somebody do with an area."""
    fields = {field.name: field for field in fields_of(table)}
    also = [number for number, row in enumerate(table.get("also", ())) if row["area"] == area]
    own = fields.get("area")
    if also:
        return {"leads": f"f-also.{also[0]}.carries"}
    if own is None or own.value == area:
        return {"is_own": True}
    free = fields.get("also.new")
    ways = [("Letter it instead", json.dumps({"area": area}))]
    if free is not None and area in dict(free.choices):
        ways.append(("Letter it as well", json.dumps({"also.new": area})))
    return {"ways": ways}


def _three(text: str) -> FloatArray | None:
    if not re.fullmatch(r"(-?[0-9]{1,6}(\.[0-9]{1,6})? ?){3}", text):
        return None
    numbers = [float(word) for word in text.split()]
    return np.array(numbers) if len(numbers) == 3 and all(map(math.isfinite, numbers)) else None
