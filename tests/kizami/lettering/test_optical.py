"""Spacing by eye: holes close, near pairs stay, nothing collides, joined writing is left alone."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from PIL import Image, ImageDraw

from kizami.lettering.block import draw, set_line
from kizami.lettering.optical import evenings, set_evenly
from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.lettering.typeface import PLAIN, Style, Typeface

EVENED = Style(evened=True)
#: Pairs that leave holes or run together where nobody kerns them (common practice, no source).
HARD = (
    "AV", "VA", "LT", "TA", "AT", "To", "Ty", "Va", "Ye", "LY", "LA", "AA", "RT", "FA", "PA", "ry", "vo", "yo",
    "av", "kt", "LL", "EL", "KO", "CO", "AW", "OO", "HH", "HO", "IL", "DA",
)  # fmt: skip
APART = [c for c in shipped_typeface_codes() if not shipped_typeface(c).hand_joins]
_PIXELS = 240


def _white_seen(pair: str, typeface: Typeface, style: Style) -> float:
    """The white between two letters counted in a picture of them, without any of the code under test.

    What counts lies between the letters, at the height that both have, and no deeper in an open side than a
    fifth of that height.
    """
    left, right = (
        shape for shape in draw(set_line(pair, typeface, style), sagitta=1e-3) if not shape.is_empty
    )
    height = min(max(s.geoms, key=lambda b: b.area).bounds[3] for s in (left, right))
    offset = 1.0 - left.bounds[0]
    columns = int((right.bounds[2] + offset + 1.0) * _PIXELS)
    rows = int(height * _PIXELS)
    inked = []
    for shape in (left, right):
        picture = Image.new("1", (columns, rows), 0)
        pen = ImageDraw.Draw(picture)
        for body in shape.geoms:
            for ring, ink in ((body.exterior, 1), *((hole, 0) for hole in body.interiors)):
                points = [((x + offset) * _PIXELS, (height - y) * _PIXELS) for x, y in ring.coords]
                pen.polygon(points, fill=ink)
        inked.append(np.asarray(picture))
    ends = [row.nonzero()[0].max() if row.any() else -np.inf for row in inked[0]]
    begins = [row.nonzero()[0].min() if row.any() else np.inf for row in inked[1]]
    depth = 0.2 * height * _PIXELS
    ends = np.maximum(ends, max(ends) - depth)
    begins = np.minimum(begins, min(begins) + depth)
    return float(np.mean(begins - ends - 1.0) / _PIXELS)


@pytest.mark.parametrize("code", ["allerta-stencil", "cinzel-bold", "vollkorn", "m-plus-rounded-bold"])
def test_the_white_of_hard_pairs_is_evener_than_the_face_leaves_it(code: str) -> None:
    face = shipped_typeface(code)
    capitals = [pair for pair in HARD if pair.isupper()]
    plain, evened = (
        np.array([_white_seen(pair, face, style) for pair in capitals]) for style in (PLAIN, EVENED)
    )
    assert evened.var() < 0.6 * plain.var()


@pytest.mark.parametrize("pair", ["CO", "LO", "EL", "Ye", "Va"])
def test_a_hole_that_a_face_without_kerning_leaves_is_closed(pair: str) -> None:
    face = shipped_typeface("allerta-stencil")
    (found,) = evenings(pair, face, EVENED)
    assert found.white > found.usual
    assert found.move < 0
    assert found.white + found.move > 0.9 * found.usual


@pytest.mark.parametrize("code", [c for c in APART if "decorative" not in c])
def test_a_pair_that_the_face_sets_as_usual_stays(code: str) -> None:
    # Upright beside upright is what a face is spaced by (common practice, no source).
    face = shipped_typeface(code)
    pairs = [p for p in ("HN", "NH", "nn", "HI", "אב") if not any(g.glyph == 0 for g in face.shape(p))]
    for pair in pairs:
        assert all(abs(e.move) < 0.04 for e in evenings(pair, face, EVENED)), pair


@pytest.mark.parametrize("code", APART)
def test_letters_and_their_accents_never_come_too_near(code: str) -> None:
    face = shipped_typeface(code)
    words = (
        "Töre",
        "Vätö",
        "Fünf",
        "Říkal",
        "Ťapka",
        "Ýrsa",
        "LŤY",
        "TATTOO",
        "Žďár",
        "Ķīļš",
        "ΤΆΛΩ",
        "Тёрн",
    )
    for word in words:
        if any(g.glyph == 0 for g in face.shape(word)):
            continue
        own, evened = (_distances(word, face, style) for style in (PLAIN, EVENED))
        usual = min((e.usual for e in evenings(word, face, EVENED)), default=0.0)
        for before, after in zip(own, evened, strict=True):
            assert after >= min(before, 0.35 * usual) - 1e-6, word


def _distances(word: str, face: Typeface, style: Style) -> list[float]:
    block = set_line(word, face, style)
    by_letter: dict[int, list[shapely.Geometry]] = {}
    for mark, shape in zip(block.marks, draw(block, sagitta=1e-3), strict=True):
        by_letter.setdefault(mark.cluster, []).append(shape)
    letters = [shapely.union_all(by_letter[c]) for c in sorted(by_letter)]
    return [one.distance(other) for one, other in itertools.pairwise(letters)]


@pytest.mark.parametrize(
    ("code", "text"),
    [
        ("pacifico", "Tova Ay"),
        ("great-vibes", "Valya"),
        ("amiri-bold", "محمد علي"),
        ("m-plus-rounded-bold", "さくら"),
    ],
)
def test_writing_that_joins_and_writing_in_squares_stay(code: str, text: str) -> None:
    face = shipped_typeface(code)
    assert set_evenly(text, face, EVENED) == face.shape(text, EVENED)


@pytest.mark.parametrize("text", ["", "A", " ", "A B C", "1 2", "T.", "—", "A\u0301", "T\u0301o\u0308"])
def test_any_text_keeps_its_glyphs_in_their_order(text: str) -> None:
    face = shipped_typeface("noto-sans")
    plain, evened = face.shape(text), set_evenly(text, face, EVENED)
    assert [(g.glyph, g.cluster, g.y) for g in plain] == [(g.glyph, g.cluster, g.y) for g in evened]


def test_a_mark_goes_with_its_letter() -> None:
    face = shipped_typeface("noto-sans")
    # V with an acute has no glyph of its own: letter and mark are two.
    plain, evened = face.shape("LV\u0301A"), set_evenly("LV\u0301A", face, EVENED)
    assert len(plain) == 4
    assert evened[2].x - evened[1].x == pytest.approx(plain[2].x - plain[1].x)


@pytest.mark.parametrize("code", APART)
def test_a_word_space_stays_a_word_space(code: str) -> None:
    face = shipped_typeface(code)
    for text in ("LA TOYA", "Ava To", "Y A"):
        if any(g.glyph == 0 for g in face.shape(text)):
            continue
        for pair in evenings(text, face, EVENED):
            if text[pair.left + 1] == " ":
                space = face.advance(face.shape(" ")[0].glyph) / face.cap_height_upem
                assert abs(pair.move) <= 0.2 * space


def test_spacing_that_a_product_adds_is_added_to_every_pair_alike() -> None:
    face = shipped_typeface("vollkorn")
    close = evenings("LYRA", face, EVENED)
    wide = evenings("LYRA", face, Style(evened=True, tracking=0.3))
    assert [e.move for e in wide] == pytest.approx([e.move for e in close], abs=1e-6)


def test_slanted_letters_are_measured_upright() -> None:
    """Leaning every letter alike changes no distance along the line, so it must change no judgement."""
    upright, slanted = shipped_typeface("noto-sans-bold"), shipped_typeface("noto-sans-bold-italic")
    # From memory of the file: it leans by 12 degrees.
    assert slanted.slant == pytest.approx(np.tan(np.radians(12.0)))
    ratios = [
        np.mean([e.white / e.usual for pair in ("VA", "AV") for e in evenings(pair, face, EVENED)])
        for face in (upright, slanted)
    ]
    # Measured as they lean, the diagonals of the slanted face come out at less than half.
    assert ratios[1] == pytest.approx(ratios[0], abs=0.2)
