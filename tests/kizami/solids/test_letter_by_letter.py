"""One bad letter costs only itself: named, with the reason, after every other method was tried."""

from __future__ import annotations

from collections.abc import Callable

import manifold3d as m3
import pytest
import shapely

from kizami.errors import SolidError
from kizami.pieces import building
from kizami.pieces.building import make_solid
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from kizami.solids import letter_by_letter
from kizami.solids.letter_by_letter import METHODS, build_letters
from kizami.tolerance import SAGITTA_MM
from tests.kizami.samples import RING, RING_RAISED, TAG, TAG_RAISED, TAG_TABLE, inputs, product

RECESS = product(
    TAG_TABLE, treatment={"kind": "in recess", "depth_mm": 0.8, "height_mm": 0.6, "margin_mm": 1.0}
)
WORDING = "Owen"


def letters_of(which) -> tuple:
    laid_out = lay_out(inputs(which, WORDING))
    return laid_out, list(laid_out.layout.shapes)


def built(which, lay: Callable | None = None):
    laid_out, _ = letters_of(which)
    return build_letters(laid_out.blank.body(SAGITTA_MM), laid_out.made, sagitta_mm=SAGITTA_MM, lay=lay)


def honest(which) -> Callable:
    return letter_by_letter._laying(lay_out(inputs(which, WORDING)).made)


def is_letter(shape: shapely.MultiPolygon, other: shapely.MultiPolygon) -> bool:
    """The same letter, whatever a method did to its outline."""
    return shape.symmetric_difference(other).area < 0.05 * other.area


@pytest.mark.parametrize("which", [RING, RING_RAISED, TAG, TAG_RAISED, RECESS])
def test_letter_by_letter_is_the_same_as_all_at_once(which) -> None:
    one = built(which)
    assert not one.mended and not one.lost
    whole = make_solid(lay_out(inputs(which, WORDING)))
    assert one.solid.volume() == pytest.approx(whole.volume_mm3, rel=1e-4)


@pytest.mark.parametrize("which", [RING, TAG_RAISED])
@pytest.mark.parametrize("failing", [1, 2, 3])
def test_another_method_is_tried_and_told(which, failing: int) -> None:
    _, letters = letters_of(which)
    real, tries = honest(which), []

    def lay(shape: shapely.MultiPolygon, sagitta_mm: float) -> m3.Manifold:
        if is_letter(shape, letters[2]):
            tries.append(sagitta_mm)
            if len(tries) <= failing:
                raise SolidError("It can't be.")
        return real(shape, sagitta_mm)

    one = built(which, lay)
    assert [(m.index, m.said) for m in one.mended] == [(2, METHODS[failing][0])]
    assert not one.lost
    assert one.solid.volume() == pytest.approx(built(which).solid.volume(), rel=1e-3)


WRONG = [
    pytest.param(lambda s: m3.Manifold(), "nothing comes of it", id="empty"),
    pytest.param(lambda s: s.scale((1, 1, 0.5)), "predicted", id="half of it"),
    pytest.param(lambda s: s + s.translate((0.6, 0, 0)), "predicted", id="smeared"),
]


@pytest.mark.parametrize(("spoil", "said"), WRONG)
def test_a_letter_that_no_method_builds_is_named_and_the_rest_is_there(spoil: Callable, said: str) -> None:
    _, letters = letters_of(TAG)
    real = honest(TAG)

    def lay(shape: shapely.MultiPolygon, sagitta_mm: float) -> m3.Manifold:
        solid = real(shape, sagitta_mm)
        return spoil(solid) if is_letter(shape, letters[1]) else solid

    one = built(TAG, lay)
    assert [lost.index for lost in one.lost] == [1]
    assert said in one.lost[0].said
    missing = one.solid.volume() - built(TAG).solid.volume()
    assert missing == pytest.approx(letters[1].area * 1.0, rel=1e-3)


def test_without_a_single_letter_it_is_an_error() -> None:
    def lay(_shape: shapely.MultiPolygon, _sagitta_mm: float) -> m3.Manifold:
        raise SolidError("It can't be.")

    with pytest.raises(SolidError, match="Not one letter"):
        built(TAG, lay)


def unbuildable(*_: object, **__: object) -> None:
    raise SolidError("It does not close.")


def spoiled(monkeypatch, index: int, *, times: int) -> None:
    """Building as a whole fails, and one letter by itself for some times."""
    _, letters = letters_of(TAG)
    real, tries = letter_by_letter._laying, []

    def laying(made):
        lay = real(made)

        def one(shape, sagitta_mm):
            if is_letter(shape, letters[index]):
                tries.append(1)
                if len(tries) <= times:
                    raise SolidError("It does not close.")
            return lay(shape, sagitta_mm)

        return one

    monkeypatch.setattr(building, "lettered", unbuildable)
    monkeypatch.setattr(letter_by_letter, "_laying", laying)


def test_a_piece_that_another_method_makes_whole_is_ready_and_says_how(monkeypatch) -> None:
    whole = make_piece(inputs(TAG, WORDING))
    spoiled(monkeypatch, 3, times=1)
    piece = make_piece(inputs(TAG, WORDING))
    assert piece.stage == "ready"
    assert piece.solid.volume_mm3 == pytest.approx(whole.solid.volume_mm3, rel=1e-3)
    finding = next(f for f in piece.findings if f.code == "letters-built")
    assert "“n”" in finding.message and METHODS[1][0] in finding.message


BRIDGED = product(
    {**TAG_TABLE, "soundness": {"middle_bridges": True, "bridge_mm": 1.0}}, treatment={"kind": "pierced"}
)
HUNG = product_from_table(
    {
        **TAG_TABLE,
        "blank": {"kind": "name piece", "length_mm": 80.0, "height_mm": 30.0},
        "treatment": {"kind": "cut-out", "thickness_mm": 2.0},
        "soundness": {"one_piece": "base bar", "bridge_mm": 2.0, "loop": "ends", "loop_hole_mm": 3.0},
    }
)


@pytest.mark.parametrize("which", [BRIDGED, HUNG], ids=["bridged middles", "loops"])
def test_bridges_and_loops_are_as_they_are_in_the_whole(monkeypatch, which) -> None:
    whole = make_piece(inputs(which, "Oboe"))

    monkeypatch.setattr(building, "lettered", unbuildable)
    piece = make_piece(inputs(which, "Oboe"))
    assert piece.solid is not None
    assert (piece.solid.bodies, piece.solid.genus) == (whole.solid.bodies, whole.solid.genus)
    assert piece.solid.volume_mm3 == pytest.approx(whole.solid.volume_mm3, rel=1e-4)


def test_a_piece_that_lacks_a_letter_is_shown_but_held_with_the_culprit_at_its_spot(monkeypatch) -> None:
    spoiled(monkeypatch, 0, times=99)
    piece = make_piece(inputs(TAG, WORDING))
    finding = piece.findings[0]
    assert (piece.stage, finding.code, finding.measured) == ("held", "letters-built", 1)
    assert "“O”" in finding.message and "does not close" in finding.message
    assert finding.spot.cluster == 0
    assert piece.solid is not None and piece.solid.bodies == 1
    # Only the letter that is at fault is missing; the volume says no more than that again.
    assert [f.code for f in piece.findings if f.level.value == "fails"] == ["letters-built"]


def test_when_nothing_helps_the_first_reason_stands(monkeypatch) -> None:
    monkeypatch.setattr(building, "lettered", unbuildable)
    monkeypatch.setattr(letter_by_letter, "_laying", lambda *_: lambda *_: m3.Manifold())
    piece = make_piece(inputs(TAG, WORDING))
    assert (piece.stage, piece.solid) == ("held", None)
    assert next(f for f in piece.findings if f.code == "built").message == "It does not close."
