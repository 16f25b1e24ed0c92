"""A wall of pieces: at one scale, every one of them, in both kinds of file."""

from __future__ import annotations

import io
import xml.etree.ElementTree as ET

import numpy as np
import pytest
import shapely
from PIL import Image

from kizami.drawing import wall
from kizami.drawing.wall import OnWall, _face_for, wall_picture, wall_svg
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import missing_characters

SVG = "{http://www.w3.org/2000/svg}"


def piece(name: str, width: float, *, held: str = "", ground: bool = False) -> OnWall:
    bar = shapely.MultiPolygon([shapely.box(5.0, 3.0, 5.0 + width, 7.0)])
    return OnWall(
        name=name, said="10.00 mm", held=held,
        ground=bar.buffer(1.0) if ground else shapely.MultiPolygon(), letters=bar,
    )  # fmt: skip


def inked(picture: bytes) -> np.ndarray:
    """Share of each pixel that is inked."""
    grey = 255.0 - np.asarray(Image.open(io.BytesIO(picture)).convert("L"))
    return grey / max(grey.max(), 1.0)


def test_every_piece_stands_at_one_scale_with_its_words() -> None:
    pieces = [piece("Bo", 10.0), piece("Ottoline <3", 20.0, held="Too thin"), piece("Ida", 4.0)]
    root = ET.fromstring(wall_svg(pieces, columns=2, title="Three & more"))
    _, _, width, height = map(float, root.attrib["viewBox"].split())
    assert (root.attrib["width"], root.attrib["height"]) == (f"{width:g}mm", f"{height:g}mm")
    said = [text.text for text in root.iter(f"{SVG}text")]
    assert said == ["Bo", "10.00 mm", "Ottoline <3", "10.00 mm", "Too thin", "Ida", "10.00 mm"]
    assert root.find(f"{SVG}title").text == "Three & more"
    # Two in the first row, one in the second; none outside.
    places = [g.attrib["transform"] for g in root.iter(f"{SVG}g")]
    tops = [float(place.split()[1].rstrip(")")) for place in places]
    assert tops[0] == tops[1] < tops[2] < height


@pytest.mark.parametrize("px_a_mm", [5.0, 12.0])
def test_a_picture_shows_the_true_area_of_each(px_a_mm: float) -> None:
    """Pixels that are inked, letter by letter, against the area of the outlines."""
    ring = (
        shapely.Point(0, 0)
        .buffer(6.0, quad_segs=64)
        .difference(shapely.Point(0, 0).buffer(4.0, quad_segs=64))
    )
    one = OnWall(
        name="", said="", held="", ground=shapely.MultiPolygon(), letters=shapely.MultiPolygon([ring])
    )
    found = inked(wall_picture([one], columns=1, px_a_mm=px_a_mm))
    assert found.sum() / px_a_mm**2 == pytest.approx(ring.area, rel=0.03)
    # A hole is a hole.
    rows, columns = np.nonzero(found)
    assert found[round(rows.mean()), round(columns.mean())] == 0


@pytest.mark.parametrize("order", [(0, 1, 2), (2, 1, 0), (1, 2, 0)])
def test_what_stands_within_a_border_is_drawn_whatever_comes_first(order: tuple[int, ...]) -> None:
    """A border, a ring within it and a dot within that one, in any order."""
    middle = shapely.Point(0, 0)
    border, ring = (
        middle.buffer(outer, quad_segs=64).difference(middle.buffer(inner, quad_segs=64))
        for outer, inner in ((9.0, 8.0), (6.0, 4.0))
    )
    bodies = (border, ring, middle.buffer(2.0, quad_segs=64))
    letters = shapely.MultiPolygon([bodies[n] for n in order])
    one = OnWall(name="", said="", held="", ground=shapely.MultiPolygon(), letters=letters)
    found = inked(wall_picture([one], columns=1, px_a_mm=8.0))
    assert found.sum() / 8.0**2 == pytest.approx(letters.area, rel=0.03)


def test_long_words_stay_in_their_cell() -> None:
    said = "a very long story of all that was done to it, " * 5
    wordy = OnWall(
        name="Bo", said=said, held="", ground=shapely.MultiPolygon(), letters=piece("", 9.0).letters
    )
    root = ET.fromstring(wall_svg([wordy], columns=1, title=""))
    (_, cut) = (text.text for text in root.iter(f"{SVG}text"))
    assert cut.endswith("…") and said.startswith(cut[:-1]) and len(cut) > 10


def test_a_large_wall_is_drawn_smaller_rather_than_too_large(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(wall, "MOST_PIXELS", 90_000)
    picture = Image.open(io.BytesIO(wall_picture([piece("Bo", 30.0)] * 9, columns=3, px_a_mm=50.0)))
    assert picture.width * picture.height <= 11_000


def test_a_wall_of_nothing_is_empty() -> None:
    nothing = OnWall(name="", said="", held="", ground=shapely.MultiPolygon(), letters=shapely.MultiPolygon())
    assert not inked(wall_picture([nothing], columns=1, px_a_mm=5.0)).any()
    assert b"<svg" in wall_svg([nothing], columns=1, title="")


@pytest.mark.parametrize(
    "name", ["\u05e9\u05e8\u05d4", "\u0645\u062d\u0645\u062f", "\u3055\u304f\u3089", "Zo\u00eb"]
)
def test_a_name_of_any_shipped_script_is_read_below_its_piece(name: str) -> None:
    """No box stands for a letter: the typeface that it is set in has every one."""
    face = shipped_typeface(_face_for(name))
    assert not missing_characters(face.shape(name))
