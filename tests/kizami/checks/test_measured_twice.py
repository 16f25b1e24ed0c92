"""The same thing measured on the drawing and on the solid: what differs holds the piece, what is hidden does not."""

from __future__ import annotations

from dataclasses import replace

import pytest

from kizami.checks.finding import Level
from kizami.checks.proven import measured_twice
from kizami.pieces.building import make_solid
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.measuring import solid_case
from kizami.products.product_file import product_from_table
from kizami.setting.setting import Setting
from tests.kizami.samples import TAG_TABLE, inputs

HUNG = {
    "one_piece": "bridges", "bridge_mm": 1.2, "loop": "ends", "loop_hole_mm": 3.0, "loop_wall_mm": 2.0
}  # fmt: skip


def laid_out(words: str, code: str, thicken_by_mm: float = 0.0, *, soundness: dict[str, object]) -> LaidOut:
    table = {
        **TAG_TABLE, "blank": {"kind": "name piece", "length_mm": 110.0, "height_mm": 60.0}, "process": "resin",
        "material": "printed-resin", "treatment": {"kind": "cut-out", "thickness_mm": 3.0}, "typeface": code,
        "fit": {"greatest_height_mm": 26.0, "lowest_height_mm": 14.0, "clearance_mm": 1.0},
        "soundness": soundness,
    }  # fmt: skip
    asked = inputs(product_from_table(table), words)
    return lay_out(replace(asked, setting=Setting(thicken_by_mm=thicken_by_mm)) if thicken_by_mm else asked)


@pytest.mark.parametrize("words", ["Mia", "Finn", "José"])
@pytest.mark.parametrize("code", ["sacramento", "dancing-script-bold"])
def test_what_lies_over_a_stroke_is_no_second_measure_of_it(words: str, code: str) -> None:
    """A dot on its stem and a stroke that carries a loop make what they lie over wider than its letter is."""
    laid = laid_out(words, code, soundness=HUNG)
    solid = make_solid(laid)
    assert solid is not None
    for found in measured_twice(solid_case(laid, solid)):
        assert found.level is not Level.FAILS


def test_strokes_far_above_their_limit_that_come_out_thinner_are_told() -> None:
    """Drawn 26 mm high and made with strokes 0.6 mm finer: still six times what the process holds."""
    laid, thinner = (laid_out("l", "noto-sans-bold", by, soundness={}) for by in (0.0, -0.3))
    solid = make_solid(thinner)
    assert solid is not None
    (found,) = measured_twice(solid_case(laid, solid))
    assert found.level is Level.FAILS
    assert found.measured == pytest.approx(0.6, abs=0.05)
