"""What spacing may part: never a letter and its marks, never letters that join."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely

from kizami.blanks.band_ring import BandRing
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.block import draw, set_line
from kizami.lettering.fit_plan import FitPlan
from kizami.lettering.fitting import Request, fit
from kizami.lettering.round_about import Spread
from kizami.lettering.shapes import Arc, Letter, Path, shape_letters
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import Style
from kizami.lettering.units import has_joined_units, units_of

JOINED_FACES = ("pacifico", "sacramento", "dancing-script-bold", "great-vibes")
#: Letters with marks that are set with combining characters, of twenty languages.
MARKED = {
    "French": "e\u0301", "German": "u\u0308", "Czech": "r\u030c", "Polish": "z\u0307", "Swedish": "a\u030a",
    "Hungarian": "o\u030b", "Romanian": "s\u0326", "Turkish": "g\u0306", "Spanish": "n\u0303", "Latvian": "k\u0327",
    "Lithuanian": "e\u0328", "Vietnamese": "e\u0302\u0301", "Yoruba": "o\u0323\u0301", "Welsh": "w\u0302",
    "Slovak": "l\u030c", "Maltese": "h\u0307", "Igbo": "i\u0323", "Samoan": "a\u0304", "Greek": "\u03b1\u0301",
    "Russian": "\u0438\u0306",
}  # fmt: skip


@pytest.mark.parametrize("code", JOINED_FACES)
def test_hands_that_join_are_known(code: str) -> None:
    assert shipped_typeface(code).hand_joins


@pytest.mark.parametrize("code", ["noto-sans-bold", "vollkorn-bold-italic", "comfortaa-bold", "cinzel-bold"])
def test_faces_whose_letters_stand_apart_are_none(code: str) -> None:
    assert not shipped_typeface(code).hand_joins


def offsets(text: str, tracking: float) -> list[tuple[float, float]]:
    """Where every glyph stands against the first one of its cluster."""
    run = shipped_typeface("noto-sans").shape(text, Style(tracking=tracking))
    found = []
    for _, several in itertools.groupby(run, key=lambda g: g.cluster):
        first, *rest = several
        found.extend((round(g.x - first.x, 6), round(g.y - first.y, 6)) for g in rest)
    return found


@pytest.mark.parametrize("marked", MARKED.values(), ids=MARKED.keys())
def test_a_mark_stays_on_its_letter_whatever_the_spacing(marked: str) -> None:
    text = f"n{marked}n{marked}"
    assert offsets(text, 0.0) == offsets(text, 0.4)


def test_space_comes_after_every_letter_of_plain_writing() -> None:
    face = shipped_typeface("noto-sans")
    plain, spaced = face.shape("Ida"), face.shape("Ida", Style(tracking=0.5))
    step = 0.5 * face.cap_height_upem
    assert [round(b.x - a.x) for a, b in zip(plain, spaced, strict=True)] == [0, round(step), round(2 * step)]


@pytest.mark.parametrize(
    ("text", "code"), [("محمد", "amiri-bold"), ("فاطمة", "noto-kufi-arabic-bold"), ("Minna", "pacifico")]
)
def test_writing_that_joins_is_never_spaced_within_a_word(text: str, code: str) -> None:
    face = shipped_typeface(code)
    alone = [(g.glyph, g.x, g.y) for g in face.shape(text)]
    assert [(g.glyph, g.x, g.y) for g in face.shape(text, Style(tracking=0.5))] == alone
    # Two words go apart, each as it is: the space is spaced on both sides.
    first, second = face.shape(f"{text} {text}"), face.shape(f"{text} {text}", Style(tracking=0.5))
    moved = {round((b.x - a.x) / face.cap_height_upem, 3) for a, b in zip(first, second, strict=True)}
    assert moved == {0.0, 0.5, 1.0}


def test_head_lines_are_not_cut() -> None:
    assert units_of("\u0928\u092e\u0938\u094d\u0924\u0947") == (0,) * 6
    assert units_of("\u0985\u09a8\u09c1 \u09b0\u09bf") == (0, 0, 0, 3, 4, 4)


@pytest.mark.parametrize(
    ("text", "hand", "joined"),
    [("", True, False), ("7", True, False), ("AB", True, True), ("A B", True, False), ("Ida 7", False, False),
     ("محمد", False, True), ("e\u0301", False, False), ("ab", False, False)],
)  # fmt: skip
def test_what_has_letters_that_stay_together(text: str, hand: bool, joined: bool) -> None:
    assert has_joined_units(text, hand) is joined


def bodies(shapes) -> int:
    return len(shapely.get_parts(shapely.union_all([s for s in shapes if not s.is_empty])))


@pytest.mark.parametrize("code", ["pacifico", "dancing-script-bold"])
@pytest.mark.parametrize(
    "shape",
    [Arc(radius_mm=9.0), Arc(angle_deg=120.0, hollow=True), Path(points=((0, 0), (10, 2), (20, 0), (30, 3)))],
    ids=["arc", "bowl", "path"],
)
def test_a_bent_line_keeps_its_joins(shape, code: str) -> None:
    block = set_line("Minnea", shipped_typeface(code))
    letters = [
        Letter(outline=shapely.transform(s, lambda xy: xy * 4.0), cluster=m.cluster)
        for s, m in zip(draw(block, sagitta=1e-3), block.marks, strict=True)
    ]
    straight = bodies([letter.outline for letter in letters])
    bent = shape_letters(letters, shape, height_mm=4.0, sagitta_mm=0.005, joined=True)
    assert bodies(bent.outlines) == straight
    assert all(move is None for move, s in zip(bent.moves, bent.outlines, strict=True) if not s.is_empty)


def test_spread_round_a_ring_words_go_apart_and_their_letters_stay() -> None:
    ring = BandRing(bore_mm=18.0, width_mm=8.0, wall_mm=1.8, seam_mm=0.0)
    area = next(a for a in ring.areas if a.name == "outside")
    plan = FitPlan(greatest_height_mm=3.0, lowest_height_mm=2.0, clearance_mm=0.5)
    request = Request(
        text="Minna Anna",
        typeface=shipped_typeface("pacifico"),
        arrangement=Arrangement(turn=Spread(separator=" ")),
    )
    layout = fit(request, area=area, plan=plan, sagitta_mm=0.005)
    assert layout.fits
    plain = draw(set_line("Minna", shipped_typeface("pacifico")), sagitta=1e-3)
    inked = [(m.cluster, s) for m, s in zip(layout.marks, layout.shapes, strict=True) if not s.is_empty]
    word = [s for cluster, s in inked if cluster < 5]
    assert bodies(word) == bodies(plain)
    # Both gaps between the words are alike.
    turn = area.surface.period_mm
    first, second = (shapely.union_all([s for c, s in inked if (c < 5) == one]) for one in (True, False))
    again = shapely.transform(first, lambda xy: xy + np.array([turn, 0.0]))
    assert first.distance(second) == pytest.approx(second.distance(again), abs=0.6)
