"""Checks that speak only of bent, thickened, tied or pictured lettering."""

from __future__ import annotations

import dataclasses
import io
from typing import Any

import pytest
from PIL import Image, ImageDraw

from kizami.artwork.artwork import Artwork
from kizami.artwork.pictures import read_picture
from kizami.checks.finding import Finding, Level
from kizami.checks.logo_detail import MOST_WANDER_MM
from kizami.outlines.touching import neck
from kizami.pieces.laying_out import LaidOut, lay_out
from tests.kizami.samples import RAISED, TAG_TABLE, inputs, product


def laid_out(wording: str, *, artwork: Artwork | None = None, **changes: Any) -> LaidOut:
    which = product({**TAG_TABLE, "soundness": {}, "arrangement": {}}, **changes)
    return lay_out(dataclasses.replace(inputs(which, wording), artwork=artwork))


def found(of: LaidOut, code: str) -> Finding | None:
    return next((f for f in of.findings if f.code == code), None)


def level(of: LaidOut, code: str) -> Level | None:
    finding = found(of, code)
    return finding.level if finding else None


def test_plain_lettering_is_not_measured_for_what_was_not_done_to_it() -> None:
    plain = laid_out("Ottoline")
    for code in (
        "departure",
        "openings-kept",
        "letters-in-shape",
        "letter-stretch",
        "loose-parts",
        "logo-detail",
    ):
        assert found(plain, code) is None


def test_hairlines_are_thickened_to_the_minimum_and_the_departure_is_measured() -> None:
    """A fine hand at 9 mm, cast from a printed pattern."""
    fine = {"typeface": "great-vibes", "treatment": RAISED, "fit": {"greatest_height_mm": 9.0}}
    thin = laid_out("Mia", **fine)
    sound = laid_out("Mia", **fine, soundness={"thicken": "where needed", "most_departure_mm": 0.2})
    assert (level(thin, "stroke-width"), level(sound, "stroke-width")) != (Level.FAILS, Level.FAILS)
    assert level(thin, "stroke-width") is Level.FAILS
    departure = found(sound, "departure")
    assert departure is not None
    before = found(thin, "stroke-width")
    limit = product(TAG_TABLE).process.limits.of("stroke-width", sunk=False)
    assert before is not None
    # Half of what is missing, on either side, is the least that can do it.
    assert (limit - before.measured) / 2 <= departure.measured <= limit / 2 + 0.03
    assert any(s.name == "weight" for s in sound.layout.steps)
    strict = laid_out("Mia", **fine, soundness={"thicken": "where needed", "most_departure_mm": 0.05})
    assert level(strict, "departure") is Level.FAILS


def test_too_much_thickening_closes_openings_and_is_caught() -> None:
    heavy = laid_out(
        "Eagle", soundness={"thicken": "all over", "thicken_by_mm": 1.5, "most_departure_mm": 2.0}
    )
    light = laid_out(
        "Eagle", soundness={"thicken": "all over", "thicken_by_mm": 0.1, "most_departure_mm": 2.0}
    )
    assert (level(heavy, "openings-kept"), level(light, "openings-kept")) == (Level.FAILS, Level.PASSES)
    assert found(light, "departure").measured == pytest.approx(0.1, abs=0.01)  # type: ignore[union-attr]


@pytest.mark.parametrize("by", [-0.1, 0.1, 0.2])
def test_thickened_all_over_the_clearance_is_still_kept(by: float) -> None:
    of = laid_out("Ottoline", soundness={"thicken": "all over", "thicken_by_mm": by})
    assert of.layout.outlines.distance(of.area.edges()) >= 2.0 - 0.01
    assert of.layout.fits


@pytest.mark.parametrize(
    ("wording", "expected"),
    [("ABC", Level.PASSES), ("ABCDEF", Level.PASSES), ("ABCDEFG", Level.FAILS)],
)
def test_at_most_six_letters_fill_a_round(wording: str, expected: Level) -> None:
    """Five to six: common practice, no source."""
    of = laid_out(wording, arrangement={"shape": {"kind": "filled", "outline": "round"}})
    assert level(of, "letters-in-shape") is expected
    assert found(of, "letters-in-shape").measured == len(wording)  # type: ignore[union-attr]


def test_a_letter_stretched_out_of_all_proportion_is_named() -> None:
    of = laid_out("OI", arrangement={"shape": {"kind": "arched", "rise": 3.0}})
    finding = found(of, "letter-stretch")
    assert finding is not None and finding.level is Level.FAILS
    assert finding.spot is not None and finding.spot.cluster in (0, 1)
    mild = laid_out("OI", arrangement={"shape": {"kind": "arched", "rise": 0.2}})
    assert level(mild, "letter-stretch") is Level.PASSES


@pytest.mark.parametrize("how", ["bridges", "base bar"])
def test_lettering_in_one_piece_has_no_loose_part(how: str) -> None:
    of = laid_out("Jill", soundness={"one_piece": how, "bridge_mm": 1.0})
    assert level(of, "loose-parts") is Level.PASSES
    assert of.layout.loose_before == 4
    assert len(of.layout.outlines.geoms) == 1


@pytest.mark.parametrize("bridge_mm", [0.5, 1.0])
def test_letters_are_drawn_together_until_they_hold_and_no_further(bridge_mm: float) -> None:
    """Two rounds side by side meet by a neck as wide as a bridge, or as deep as they may go."""
    of = laid_out("oo", soundness={"overlap_mm": 0.4, "bridge_mm": bridge_mm})
    left, right = sorted((s for s in of.layout.shapes if not s.is_empty), key=lambda s: s.bounds[0])
    width = neck(left, right)
    # Found in steps of a twentieth, in a depth halved six times, at which rounds meet by a chord already.
    assert bridge_mm <= width <= bridge_mm * 1.25 + 0.2
    assert 0 < left.bounds[2] - right.bounds[0] <= 0.42


def test_parallel_stems_are_not_melted_into_one() -> None:
    of = laid_out("ll", soundness={"overlap_mm": 0.4})
    left, right = sorted((s for s in of.layout.shapes if not s.is_empty), key=lambda s: s.bounds[0])
    assert right.bounds[0] - left.bounds[2] > 0.5
    joined = laid_out("ll", soundness={"overlap_mm": 0.4, "one_piece": "bridges"})
    assert len(joined.layout.outlines.geoms) == 1
    assert level(joined, "loose-parts") is Level.PASSES


def figure(side: int, scale: int = 8) -> bytes:
    large = Image.new("L", (side * scale, side * scale), 255)
    ImageDraw.Draw(large).ellipse([side * scale * 0.1] * 2 + [side * scale * 0.9] * 2, fill=0)
    out = io.BytesIO()
    large.resize((side, side), Image.Resampling.BOX).save(out, format="PNG")
    return out.getvalue()


@pytest.mark.parametrize(("side", "expected"), [(40, Level.FAILS), (400, Level.PASSES)])
def test_a_picture_with_too_few_pixels_says_by_how_much_its_edges_wander(side: int, expected: Level) -> None:
    logo = read_picture(figure(side), name="disc.png")
    of = laid_out("", artwork=logo, takes_logo=True)
    finding = found(of, "logo-detail")
    assert finding is not None and finding.level is expected
    pixel_mm = of.layout.height_mm / (side * 0.8)
    assert finding.measured == pytest.approx(logo.wander_pixels * pixel_mm, rel=0.05)
    assert finding.limit == MOST_WANDER_MM


def test_a_piece_with_a_logo_names_the_logo_where_letters_have_their_letter() -> None:
    logo = read_picture(figure(200), name="disc.png")
    of = laid_out("", artwork=logo, takes_logo=True)
    assert of.layout.letter(0) == "the logo"
    assert level(of, "stroke-width") is Level.PASSES
