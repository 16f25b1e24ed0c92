"""Typefaces that a shop adds: taken when sound, refused with the reason when not."""

from __future__ import annotations

import io
from importlib.resources import files
from typing import Any

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.subset import Subsetter
from fontTools.ttLib import TTFont
from fontTools.ttLib.sfnt import SFNTWriter
from fontTools.ttLib.tables._g_l_y_f import Glyph, GlyphComponent

from kizami.errors import TypefaceError
from kizami.lettering.own_typeface import MOST_POINTS, check_typeface
from kizami.lettering.shipped import shipped_typeface, shipped_typefaces

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789"


def shipped_data(code: str) -> bytes:
    return (files("kizami") / "data" / "typefaces" / shipped_typefaces()[code].file).read_bytes()


def saved(font: TTFont, flavor: str | None = None) -> bytes:
    out = io.BytesIO()
    font.flavor = flavor
    font.save(out)
    return out.getvalue()


def bar(points: int = 4) -> Glyph:
    """A bar 100 wide and 700 high, its left side cut into as many points as asked."""
    pen = TTGlyphPen(None)
    pen.moveTo((0, 0))
    pen.lineTo((100, 0))
    pen.lineTo((100, 700))
    for step in range(points - 3):
        pen.lineTo((step % 2, 700 - round(700 * step / max(points - 3, 1))))
    pen.closePath()
    return pen.glyph()


def built(*, changed: dict[str, Glyph] | None = None, rights: int = 0, name: str = "Bars Plain") -> TTFont:
    names = [".notdef", *(f"g{ord(c)}" for c in LETTERS)]
    build = FontBuilder(1000, isTTF=True)
    build.setupGlyphOrder(names)
    build.setupCharacterMap({ord(c): f"g{ord(c)}" for c in LETTERS})
    glyphs = {n: bar() for n in names} | (changed or {})
    build.setupGlyf(glyphs)
    build.setupHorizontalMetrics(dict.fromkeys(names, (200, 0)))
    build.setupHorizontalHeader(ascent=800, descent=-200)
    build.setupNameTable({"familyName": name, "styleName": "Regular", "fullName": name})
    build.setupOS2(sCapHeight=123, fsType=rights)
    build.setupPost()
    return build.font


def test_a_sound_typeface_is_taken_with_measured_facts() -> None:
    checked = check_typeface(saved(built()), file_name="bars.ttf")
    assert checked.name == "Bars Plain"
    assert checked.code.startswith("own-bars-plain-")
    # The file states 123; the H is 700 high and 100 wide.
    assert checked.facts.cap_height_upem == 700
    assert checked.facts.thinnest == pytest.approx(1 / 7, abs=1e-3)
    assert checked.typeface.code == checked.code


@pytest.mark.parametrize("flavor", ["woff", "woff2"])
def test_packed_for_the_web_it_sets_the_same_letters(flavor: str) -> None:
    plain = check_typeface(saved(built()), file_name="bars.ttf")
    packed = check_typeface(saved(built(), flavor), file_name=f"bars.{flavor}")
    assert packed.facts.thinnest == plain.facts.thinnest
    assert packed.typeface.shape("Hi") == plain.typeface.shape("Hi")


@pytest.mark.parametrize("code", ["roboto-slab-bold", "pacifico"])
def test_a_file_that_ships_has_the_facts_that_ship(code: str) -> None:
    checked = check_typeface(shipped_data(code), file_name="x.ttf")
    assert checked.typeface == shipped_typeface(code)


@pytest.mark.parametrize(
    ("given", "kept"),
    [("../../etc/passwd", "passwd"), ("a\x00b\u202ec.ttf", "abc.ttf"), ("x" * 90, "x" * 60)],
)
def test_names_are_made_safe(given: str, kept: str) -> None:
    font = built()
    font["name"].names = []
    assert check_typeface(saved(font), file_name=given).name == kept


class _NotRecalculated(TTFont):
    """Saved as it is: the library would follow the loop for ever when it works out bounds."""

    def __init__(self, font: TTFont) -> None:
        self.__dict__.update(font.__dict__)
        self.recalcBBoxes = False


def looped() -> bytes:
    """Two letters that each are made of the other."""
    font = _NotRecalculated(built())
    for name, part in (("g65", "g66"), ("g66", "g65")):
        font["glyf"][name] = composite(part)
    return saved(font)


def refused(data: bytes, **how: Any) -> str:
    with pytest.raises(TypefaceError) as caught:
        check_typeface(data, **{"file_name": "bars.ttf", **how})
    return str(caught.value)


def test_embedding_that_is_forbidden_is_respected() -> None:
    """OS/2 fsType, OpenType specification: bit 1 restricted, bit 2 preview and print, bit 3 editable."""
    assert "forbids embedding" in refused(saved(built(rights=0x0002)))
    assert "bitmaps" in refused(saved(built(rights=0x0200)))
    for allowed in (0x0000, 0x0004, 0x0008):
        assert check_typeface(saved(built(rights=allowed)), file_name="bars.ttf")


def composite(*parts: str) -> Glyph:
    """A letter made of others."""
    glyph = Glyph()
    glyph.numberOfContours = -1
    glyph.components = []
    for part in parts:
        component = GlyphComponent()
        component.glyphName, component.x, component.y, component.flags = part, 0, 0, 0x0002
        glyph.components.append(component)
    glyph.xMin = glyph.yMin = glyph.xMax = glyph.yMax = 0
    return glyph


def test_a_letter_of_too_many_points_is_refused_by_its_number() -> None:
    said = refused(saved(built(changed={"g65": bar(MOST_POINTS + 1)})))
    assert str(MOST_POINTS + 1) in said and str(MOST_POINTS) in said


def test_a_letter_of_more_than_100_000_points_made_of_parts_is_refused() -> None:
    """One contour can't have so many; fifteen parts of 6,999 can."""
    font = _NotRecalculated(built(changed={"g66": bar(7000)}))
    font["glyf"]["g65"] = composite(*["g66"] * 15)
    # One of the 7,000 stands on its neighbour and is left out by the pen.
    assert "104985 points" in refused(saved(font))


def test_a_loop_in_its_tables_is_refused() -> None:
    assert "within itself" in refused(looped())


@pytest.mark.parametrize("share", [0.0, 0.01, 0.1, 0.3, 0.6, 0.9, 0.99])
@pytest.mark.parametrize("code", ["pacifico", "roboto-slab-bold"])
def test_a_file_cut_short_is_refused_or_still_whole_where_it_matters(share: float, code: str) -> None:
    data = shipped_data(code)
    said = refused(data[: int(len(data) * share)])
    assert "bars.ttf" in said


@pytest.mark.parametrize(
    ("data", "says"),
    [
        pytest.param(b"", "no TTF", id="empty"),
        pytest.param(b"%PDF-1.7", "no TTF", id="another kind"),
        pytest.param(b"\x00\x01\x00\x00" + bytes(200), "can't be|read|damaged|not a typeface", id="zeros"),
        pytest.param(b"wOF2" + bytes(200), "not a typeface|read", id="packed zeros"),
        pytest.param(b"\x00\x01\x00\x00" + bytes(25 * 1024 * 1024), "25 MB", id="too large"),
    ],
)
def test_what_is_no_typeface_is_refused(data: bytes, says: str) -> None:
    with pytest.raises(TypefaceError, match=says):
        check_typeface(data, file_name="bars.ttf")


@pytest.mark.parametrize("at", range(40))
def test_flipped_bytes_never_crash(at: int) -> None:
    """A byte of the file is changed at 40 places: it is refused in words, or it still sets."""
    data = bytearray(saved(built()))
    place = at * len(data) // 40
    data[place] ^= 0xFF
    try:
        checked = check_typeface(bytes(data), file_name="bars.ttf")
    except TypefaceError as error:
        assert "bars.ttf" in str(error)
    else:
        assert checked.facts.thinnest > 0


def test_a_typeface_of_a_script_without_the_usual_letters_is_measured_on_its_own() -> None:
    """Thai, Tamil and others have no capital H; here Cyrillic small letters stand for them."""
    letters = "абвгдежзиклмнопрст"
    font = TTFont(io.BytesIO(shipped_data("noto-sans")))
    subsetter = Subsetter()
    subsetter.populate(text=letters)
    subsetter.subset(font)
    checked = check_typeface(saved(font), file_name="small.ttf")
    # Most of them are as high as an x: 536 units of 1000 in this face, by its own table.
    assert checked.typeface.cap_height_upem == pytest.approx(536, rel=0.03)
    assert checked.facts.thinnest > 0 and checked.facts.thinnest_in in letters


def without(data: bytes, lacking: tuple[str, ...], more: dict[str, bytes] | None = None) -> bytes:
    """A typeface file without some of its tables, and with others."""
    font = TTFont(io.BytesIO(data), lazy=True)
    tables = {tag: font.reader[tag] for tag in font.reader.tables if tag not in lacking} | (more or {})
    out = io.BytesIO()
    writer = SFNTWriter(out, len(tables))
    for tag in sorted(tables):
        writer[tag] = tables[tag]
    writer.close()
    return out.getvalue()


@pytest.mark.parametrize(
    ("lacking", "more", "said"),
    [
        (("glyf", "loca"), {"CBDT": bytes(8), "CBLC": bytes(8)}, "letters are pictures"),
        (("glyf", "loca"), {}, "no outlines"),
        (("head",), {}, "table “head” is missing"),
        (("maxp",), {}, "table “maxp” is missing"),
        (("hmtx",), {}, "table “hmtx” is missing"),
        (("cmap",), {}, "no letters"),
    ],
    ids=["pictures only", "no outlines", "no head", "no count", "no widths", "no characters"],
)
def test_a_file_that_lacks_a_table_is_refused_in_words(
    lacking: tuple[str, ...], more: dict[str, bytes], said: str
) -> None:
    data = without(shipped_data("noto-sans-bold"), lacking, more)
    with pytest.raises(TypefaceError, match=said):
        check_typeface(data, file_name="mine.ttf")


def test_a_typeface_that_takes_long_to_measure_is_taken_and_says_what_was_not_measured() -> None:
    data = shipped_data("great-vibes")
    whole = check_typeface(data, file_name="slow.ttf")
    hurried = check_typeface(data, file_name="slow.ttf", seconds=0.0)
    assert not whole.notes and "61 of them" in hurried.notes[0], hurried.notes
    # What was measured is true of its letters; the others can only be finer.
    assert hurried.facts.thinnest >= whole.facts.thinnest > 0
    assert hurried.code == whole.code and hurried.facts.characters == whole.facts.characters
