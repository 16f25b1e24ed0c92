"""What a report says of a piece beside its checks."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
import shapely

from kizami.pieces.batch import make_list
from kizami.pieces.laying_out import lay_out
from kizami.products.product import Catalogue
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG_TABLE, inputs

LIST = b"order,line,product,wording\nA1,1,TAG,Halloran\n"


@pytest.mark.parametrize("by_mm", [0.08, -0.05])
def test_how_far_letters_depart_is_told_as_length_and_as_area(by_mm: float, tmp_path: Path) -> None:
    """Each letter against its own drawing on its own origin, by another library's distances and areas."""
    # So low that both have room.
    table = {**TAG_TABLE, "fit": {**TAG_TABLE["fit"], "greatest_height_mm": 5.0}}
    plain = product_from_table(table)
    heavy = product_from_table(
        {**table, "soundness": {"thicken": "all over", "thicken_by_mm": by_mm, "most_departure_mm": 0.2}}
    )
    make_list(LIST, Catalogue(products={"tag": heavy}), tmp_path)
    (piece,) = json.loads((tmp_path / "report.json").read_bytes())["pieces"]
    was, now = lay_out(inputs(plain, "Halloran")).layout, lay_out(inputs(heavy, "Halloran")).layout
    assert was.height_mm == now.height_mm == piece["height_mm"]
    area = sum(one.area for one in now.shapes) / sum(one.area for one in was.shapes) - 1.0
    assert piece["departure"]["area_percent"] == pytest.approx(100.0 * area, abs=0.1)
    least = min(shapely.distance(a.boundary, b.boundary) for a, b in zip(was.shapes, now.shapes, strict=True))
    # A side moves by what was asked; at corners, which are rounded by chords, it is a little less, or more.
    assert least == pytest.approx(abs(by_mm), abs=8e-3)
    assert abs(by_mm) - 1e-3 <= piece["departure"]["largest_mm"] < 2.0 * abs(by_mm)


def test_letters_as_drawn_depart_by_nothing(tmp_path: Path) -> None:
    make_list(LIST, Catalogue(products={"tag": product_from_table(TAG_TABLE)}), tmp_path)
    (piece,) = json.loads((tmp_path / "report.json").read_bytes())["pieces"]
    assert piece["departure"] == {"largest_mm": 0.0, "area_percent": 0.0}
