"""A search that begins from what is on record finds what one finds that begins from the piece itself."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace

import pytest

from kizami.checks.finding import Level, finding_from_table, finding_table
from kizami.checks.kinds import KINDS
from kizami.lettering.layout import Layout
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import Made, make_piece
from kizami.remedies.as_found import AsFound, found_before
from kizami.remedies.search import search_remedies
from kizami.setting.setting import Setting
from tests.kizami.remedies.test_search import of_the_demo
from tests.kizami.samples import TAG, inputs

HELD = [
    ("GUEST-PLATE", "Oystercatcher"),
    ("HIVE-PLATE", "Leon Morgan"),
    ("NAME-PLATE", "Roskoth"),
    ("LANTERN-STENCIL", "Lawrence"),
    ("GATE-TAG", "KWN"),
    ("TILLER-GRIP", "Yaşattin Çetin"),
    ("BUOY-FRAME", "Cristian Prieto"),
]


def on_record(made: Made) -> AsFound | None:
    """As the workshop keeps it: plain data, written and read."""
    findings = json.loads(json.dumps([finding_table(f) for f in made.findings]))
    layout = made.laid_out.layout
    return found_before(
        made.laid_out.inputs,
        [finding_from_table(table) for table in findings],
        layout.steps,
        height_mm=layout.height_mm,
    )


@pytest.mark.parametrize(("code", "wording"), HELD, ids=[row[0] for row in HELD])
def test_what_is_on_record_leads_to_the_same_cures(code: str, wording: str) -> None:
    base = of_the_demo(code, wording)
    made = make_piece(base)
    found = on_record(made)
    assert found is not None and found.layout.height_mm == made.laid_out.layout.height_mm
    assert [m.cluster for m in found.layout.marks] == [m.cluster for m in made.laid_out.layout.marks]
    ways = {"seconds": 1e9, "most": 1, "trials": 8, "with_nearest": False}
    one, other = (search_remedies(base, start, **ways) for start in (found, made))  # type: ignore[arg-type]
    assert [cure.made.stage for cure in one.cures] == ["ready"] * len(one.cures)
    assert bool(one.cures) == bool(other.cures)
    if one.cures:
        assert one.cures[0].cost == pytest.approx(other.cures[0].cost, rel=0.05)


def test_a_finding_is_read_back_as_it_was_written() -> None:
    for code, wording in HELD[:4]:
        for finding in make_piece(of_the_demo(code, wording)).findings:
            table = finding_table(finding)
            assert finding_table(finding_from_table(json.loads(json.dumps(table)))) == table


def test_what_a_drawing_is_held_for_is_cured_before_what_was_measured_on_the_solid() -> None:
    made = make_piece(of_the_demo("GATE-TAG", "KWN"))
    solid = next(f for f in made.findings if KINDS[f.code].on_solid)
    worse = replace(made, findings=(*made.findings, replace(solid, level=Level.FAILS)))
    found = on_record(worse)
    assert found is not None
    assert any(f.level is Level.FAILS for f in found.findings)
    assert not any(KINDS[f.code].on_solid for f in found.findings)


def pieces_that_must_be_made() -> list[tuple[str, Inputs, Made]]:
    plain = inputs(TAG, "Owen")
    made = make_piece(plain)
    lower = inputs(TAG, "Owen", setting=Setting(height_mm=2.0))
    return [("set otherwise by now", lower, made), ("nothing was set", plain, make_piece(inputs(TAG, "")))]


@pytest.mark.parametrize(
    ("now", "made"), [row[1:] for row in pieces_that_must_be_made()], ids=["set otherwise", "nothing set"]
)
def test_what_the_record_does_not_tell_has_to_be_made(now: Inputs, made: Made) -> None:
    layout = made.laid_out.layout
    assert fingerprint(now) != fingerprint(made.laid_out.inputs)
    assert found_before(now, made.findings, layout.steps, height_mm=layout.height_mm) is None


def test_a_piece_whose_drawing_ends_in_an_error_has_to_be_made(monkeypatch) -> None:
    base = of_the_demo("HIVE-PLATE", "Leon Morgan")
    made = make_piece(base)

    def broken(_: Inputs) -> Iterator[Layout]:
        raise ZeroDivisionError

    monkeypatch.setattr("kizami.remedies.as_found.drawn_layouts", broken)
    assert on_record(made) is None


def test_a_piece_lettered_in_several_places_has_to_be_made() -> None:
    base = of_the_demo("FERRY-KEY", "Maaswinkel")
    assert base.product.also
    layout = lay_out(base).layout
    assert found_before(base, (), layout.steps, height_mm=layout.height_mm) is None
