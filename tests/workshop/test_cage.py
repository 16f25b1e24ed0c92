"""Files from outside, among them such as are made to do harm: a sentence, nothing stored, all alive."""

from __future__ import annotations

import io
import re
import struct
import time
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

from kizami.errors import ArtworkError, OrderListError
from kizami.wording.tables import read_table
from tests.workshop import caged_acts as acts
from tests.workshop.lists import MIXED
from workshop.artwork.models import Logo, LogoParcel
from workshop.cage.cage import CageLimits, call_in_cage
from workshop.cage.readers import look_at_logos, table_in
from workshop.catalogue.models import ShopTypeface, SuppliedFile, TypefaceSent
from workshop.catalogue.typefaces_sent import look_at_typeface
from workshop.files.models import StoredFile
from workshop.intake.models import Intake
from workshop.intake.parcels import look_at_parcel
from workshop.sources.models import Source

SMALL = CageLimits(memory_mb=64, processor_s=1, wall_s=8.0, output_mb=1)


class TestCage:
    """What a child may do, and what becomes of one that does more."""

    @pytest.mark.parametrize(
        ("does", "said"),
        [
            (acts.hoard, "64 MB"),
            (acts.spin, "1 seconds"),
            (acts.talk, "1 MB"),
            (acts.crash, "made to do harm"),
        ],
        ids=["hoards", "spins", "talks", "crashes"],
    )
    def test_more_than_it_may_ends_in_a_sentence(self, does: Callable[[], object], said: str) -> None:
        with pytest.raises(ArtworkError, match=re.escape(said)):
            call_in_cage(does, refusal=ArtworkError, limits=SMALL)

    def test_one_that_sleeps_is_ended_by_the_clock(self) -> None:
        limits = CageLimits(wall_s=0.5)
        with pytest.raises(ArtworkError, match="seconds"):
            call_in_cage(acts.sleep, refusal=ArtworkError, limits=limits)

    def test_it_writes_no_files(self, tmp_path: Path) -> None:
        with pytest.raises((ArtworkError, OSError)):
            call_in_cage(acts.write, str(tmp_path / "x"), refusal=ArtworkError, limits=SMALL)
        assert not (tmp_path / "x").exists() or (tmp_path / "x").stat().st_size == 0

    def test_what_it_raises_is_raised(self) -> None:
        with pytest.raises(OrderListError, match="No orders here"):
            call_in_cage(acts.refuse, refusal=ArtworkError)

    def test_a_fault_that_nobody_thought_of_is_the_file_s_and_is_on_record(self, caplog) -> None:
        with pytest.raises(ArtworkError, match="made to do harm"):
            call_in_cage(acts.divide, refusal=ArtworkError)
        assert "ZeroDivisionError" in caplog.text and "caged_acts.py" in caplog.text

    def test_what_it_reads_is_what_is_read_outside(self) -> None:
        assert table_in(MIXED.encode()) == read_table(MIXED.encode())

    def test_one_trap_among_honest_logos_spoils_none(self, monkeypatch) -> None:
        files = {f"{n}.svg": SQUARE for n in range(30)} | {"trap.png": picture_bomb()}
        seen, refused = look_at_logos(files)
        assert len(seen) == 30 and list(refused) == ["trap.png"]


SQUARE = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="9"/></svg>'
_CONTENT_TYPES = '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/sharedStrings.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sharedStrings+xml"/></Types>'
_WORKBOOK = '<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>'
_RELATIONS = '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>'


def zipped(parts: dict[str, bytes | str]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as pack:
        for name, content in parts.items():
            pack.writestr(name, content)
    return out.getvalue()


def workbook(sheet: str, strings: str = "") -> bytes:
    return zipped(
        {
            "[Content_Types].xml": _CONTENT_TYPES,
            "_rels/.rels": _RELATIONS.replace("worksheets/", "xl/worksheets/"),
            "xl/workbook.xml": _WORKBOOK,
            "xl/_rels/workbook.xml.rels": _RELATIONS,
            "xl/worksheets/sheet1.xml": sheet,
            "xl/sharedStrings.xml": strings
            or '<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"/>',
        }
    )


def with_forged_size(data: bytes, name: bytes, size: int) -> bytes:
    """A zip whose directory says another size of a part than it has."""
    out = bytearray(data)
    at = 0
    while (at := out.find(b"PK\x01\x02", at)) >= 0:
        if out[at + 46 : at + 46 + len(name)] == name:
            out[at + 24 : at + 28] = struct.pack("<I", size)
        at += 4
    return bytes(out)


_SHEET = '<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>{}</sheetData></worksheet>'


def sheet_of_gigabytes() -> bytes:
    row = '<row><c t="inlineStr"><is><t>' + "A" * 1000 + "</t></is></c></row>"
    return workbook(_SHEET.format(row * 40_000))


def sheet_that_lies_about_its_size() -> bytes:
    return with_forged_size(sheet_of_gigabytes(), b"xl/worksheets/sheet1.xml", 1000)


def strings_without_end() -> bytes:
    strings = (
        '<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
        + "<si><t>a</t></si>" * 4_000_000
        + "</sst>"
    )
    return workbook(_SHEET.format('<row><c t="s"><v>0</v></c></row>'), strings)


def strings_with_entities() -> bytes:
    entities = "".join(f'<!ENTITY e{n} "&e{n - 1};&e{n - 1};">' for n in range(1, 30))
    strings = f'<!DOCTYPE x [<!ENTITY e0 "AAAAAAAA">{entities}]><sst><si><t>&e29;</t></si></sst>'
    return workbook(_SHEET.format(""), strings)


def strings_out_of_range() -> bytes:
    return workbook(_SHEET.format('<row><c t="s"><v>7</v></c></row>'))


def rows_nested_deeply() -> bytes:
    return workbook(_SHEET.format("<row>" * 200_000 + "</row>" * 200_000))


def zip_in_zip() -> bytes:
    data = bytes(1 << 20)
    for _ in range(6):
        data = zipped({f"{n}.zip": data for n in range(4)})
    return data


def overlapping_zip() -> bytes:
    """Five hundred entries over one and the same compressed bytes."""
    content = bytes(4 << 20)
    packed = zlib.compressobj(9, zlib.DEFLATED, -15)
    body = packed.compress(content) + packed.flush()
    crc = zlib.crc32(content)
    local = struct.pack("<4s5H3L2H", b"PK\x03\x04", 20, 0, 8, 0, 0, crc, len(body), len(content), 5, 0)
    out = bytearray(local + b"a.svg" + body)
    start, directory = len(out), b""
    for n in range(500):
        name = f"{n:03}.svg".encode()
        directory += struct.pack(
            "<4s6H3L5H2L", b"PK\x01\x02", 20, 20, 0, 8, 0, 0, crc, len(body), len(content), len(name),
            0, 0, 0, 0, 0, 0,
        ) + name  # fmt: skip
    end = struct.pack("<4s4H2LH", b"PK\x05\x06", 0, 0, 500, 500, len(directory), start, 0)
    return bytes(out) + directory + end


def many_that_are_too_much_together() -> bytes:
    return zipped({f"{n}.svg": b"<svg>" + bytes(300_000) for n in range(500)})


def _png(width: int, height: int, rows: bytes) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(rows, 9))
        + chunk(b"IEND", b"")
    )


def picture_bomb() -> bytes:
    return _png(50_000, 50_000, bytes(20_000_000))


def picture_text_bomb() -> bytes:
    """A small picture with a comment that unfolds to a hundred megabytes."""
    text = b"k\0\0" + zlib.compress(bytes(100 << 20), 9)
    chunk = struct.pack(">I", len(text)) + b"zTXt" + text + struct.pack(">I", zlib.crc32(b"zTXt" + text))
    plain = _png(8, 8, bytes(200))
    return plain[:33] + chunk + plain[33:]


def jpeg_bomb() -> bytes:
    frame = struct.pack(">BHHB", 8, 65_000, 65_000, 3) + b"\x01\x11\x00\x02\x11\x00\x03\x11\x00"
    return b"\xff\xd8\xff\xc0" + struct.pack(">H", len(frame) + 2) + frame + b"\xff\xda" + bytes(200)


_SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 9 9">{}</svg>'


def svg_with_entities() -> bytes:
    entities = "".join(f'<!ENTITY e{n} "&e{n - 1};&e{n - 1};">' for n in range(1, 30))
    return f'<!DOCTYPE svg [<!ENTITY e0 "M0 0">{entities}]>{_SVG.format("<path d=" + chr(34) + "&e29;" + chr(34) + "/>")}'.encode()


def svg_that_reads_files() -> bytes:
    return (
        '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>' + _SVG.format("<text>&x;</text>")
    ).encode()


def svg_of_uses() -> bytes:
    groups = '<g id="g0"><rect width="1" height="1"/></g>' + "".join(
        f'<g id="g{n}">' + f'<use xlink:href="#g{n - 1}"/>' * 10 + "</g>" for n in range(1, 9)
    )
    return _SVG.format(groups).encode()


def svg_path_without_end() -> bytes:
    points = " ".join(f"{n % 977} {n * 7 % 991}" for n in range(400_000))
    return _SVG.format(f'<path d="M0 0 {points}z"/>').encode()


def svg_nested_deeply() -> bytes:
    return _SVG.format("<g>" * 100_000 + '<rect width="1" height="1"/>' + "</g>" * 100_000).encode()


def svg_of_numbers_without_end() -> bytes:
    return _SVG.format('<path d="M0 0 L' + "9" * 3_000_000 + ' 1z"/>').encode()


def font_of_gigabytes() -> bytes:
    """A compressed typeface that says, and has, far more than it may."""
    body = zlib.compress(bytes(64 << 20), 9)
    table = struct.pack(">4sIIII", b"glyf", 64, len(body), 64 << 20, 0)
    head = struct.pack(">4s4sIHHIHHIIIII", b"wOFF", b"\x00\x01\x00\x00", 64 + len(body), 1, 0, 2 << 30, 1, 0,
                       0, 0, 0, 0, 0)  # fmt: skip
    return (head + table).ljust(64, b"\0") + body


def font_of_points() -> bytes:
    pen = TTGlyphPen(None)
    pen.moveTo((0, 0))
    for n in range(30_000):
        pen.lineTo((n % 1000, n * 7 % 1000))
    pen.closePath()
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder([".notdef", "A"])
    builder.setupCharacterMap({65: "A"})
    builder.setupGlyf({".notdef": TTGlyphPen(None).glyph(), "A": pen.glyph()})
    builder.setupHorizontalMetrics({".notdef": (500, 0), "A": (500, 0)})
    builder.setupHorizontalHeader()
    builder.setupNameTable({"familyName": "Points", "styleName": "Regular"})
    builder.setupOS2()
    builder.setupPost()
    out = io.BytesIO()
    builder.save(out)
    return out.getvalue()


_MODEL = '<model xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02" unit="millimeter"><resources>{}</resources><build>{}</build></model>'


def _three_mf(resources: str, build: str) -> bytes:
    return zipped(
        {"3D/3dmodel.model": _MODEL.format(resources, build), "[Content_Types].xml": _CONTENT_TYPES}
    )


def three_mf_without_end() -> bytes:
    """Parts made of parts: ten times ten times ten of the one before."""
    mesh = '<object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="9" y="0" z="0"/><vertex x="0" y="9" z="0"/><vertex x="0" y="0" z="9"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles></mesh></object>'
    more = "".join(
        f'<object id="{n}" type="model"><components>'
        + f'<component objectid="{n - 1}"/>' * 10
        + "</components></object>"
        for n in range(2, 12)
    )
    return _three_mf(mesh + more, '<item objectid="11"/>')


def three_mf_of_itself() -> bytes:
    loop = '<object id="1" type="model"><components><component objectid="1"/></components></object>'
    return _three_mf(loop, '<item objectid="1"/>')


def three_mf_of_vertices() -> bytes:
    vertices = '<vertex x="0" y="0" z="0"/>' * 9_000_000
    return _three_mf(
        f'<object id="1" type="model"><mesh><vertices>{vertices}</vertices><triangles/></mesh></object>',
        '<item objectid="1"/>',
    )


def stl_that_lies() -> bytes:
    return b"\0" * 80 + struct.pack("<I", 2**32 - 1) + bytes(50)


LISTS = [
    sheet_of_gigabytes, sheet_that_lies_about_its_size, strings_without_end, strings_with_entities, strings_out_of_range,
    rows_nested_deeply, zip_in_zip, overlapping_zip,
]  # fmt: skip
LOGOS = [
    zip_in_zip, overlapping_zip, many_that_are_too_much_together, picture_bomb, picture_text_bomb, jpeg_bomb,
    svg_with_entities, svg_that_reads_files, svg_of_uses, svg_path_without_end, svg_nested_deeply,
    svg_of_numbers_without_end,
]  # fmt: skip
TYPEFACES = [font_of_gigabytes, font_of_points]
SHAPES = [three_mf_without_end, three_mf_of_itself, three_mf_of_vertices, stl_that_lies]


def _memory_mb() -> float:
    return int(Path("/proc/self/statm").read_text("ascii").split()[1]) * 4096 / 1e6


@pytest.fixture
def nothing_is_stored(owner_client, shop):
    """Whatever is sent: no page breaks, nothing of it stays, and the web is as light as before."""
    before = set(StoredFile.objects.values_list("pk", flat=True)), SuppliedFile.objects.count()
    began, memory = time.monotonic(), _memory_mb()
    yield
    assert (set(StoredFile.objects.values_list("pk", flat=True)), SuppliedFile.objects.count()) == before
    assert not (Intake.objects.exists() or Logo.objects.exists() or ShopTypeface.objects.exists())
    assert _memory_mb() - memory < 450
    assert time.monotonic() - began < 90
    assert owner_client.get(reverse("book:book")).status_code == 200


def _sent(data: bytes, name: str) -> SimpleUploadedFile:
    assert len(data) < 6_000_000, "a small file that does much harm"
    return SimpleUploadedFile(name, data)


@pytest.mark.django_db
@pytest.mark.parametrize("made", LISTS, ids=lambda made: made.__name__)
def test_a_list_made_to_do_harm(owner_client, nothing_is_stored, made: Callable[[], bytes]) -> None:
    page = owner_client.post(reverse("intake:take"), {"file": _sent(made(), "orders.xlsx")})
    assert page.status_code == 422 and "Nothing was taken in" in page.content.decode()


@pytest.mark.django_db
@pytest.mark.parametrize("made", LOGOS, ids=lambda made: made.__name__)
def test_a_logo_made_to_do_harm(owner_client, nothing_is_stored, made: Callable[[], bytes]) -> None:
    source = Source.objects.create(name="x")
    data = made()
    name = "a.zip" if data.startswith(b"PK") else "a.svg" if b"<svg" in data else "a.png"
    address = f"{reverse('intake:logos')}?source={source.pk}"
    assert owner_client.post(address, {"logos": _sent(data, name)}).status_code == 302
    look_at_parcel(LogoParcel.objects.get().pk)
    page = owner_client.get(address).content.decode()
    assert "0 logos taken in" in page and 'data-parcel="refused"' in page


@pytest.mark.django_db
@pytest.mark.parametrize("made", TYPEFACES, ids=lambda made: made.__name__)
def test_a_typeface_made_to_do_harm(owner_client, nothing_is_stored, made: Callable[[], bytes]) -> None:
    sent = {"typeface": _sent(made(), "a.ttf")}
    page = owner_client.post(reverse("catalogue:add-typeface"), sent, follow=True)
    for waiting in TypefaceSent.objects.waiting():
        look_at_typeface(waiting.pk)
    page = owner_client.get(reverse("catalogue:typefaces"))
    assert 'data-sent="refused"' in page.content.decode() and "Nothing was added" in page.content.decode()


@pytest.mark.django_db
@pytest.mark.parametrize("made", SHAPES, ids=lambda made: made.__name__)
def test_a_shape_made_to_do_harm(owner_client, nothing_is_stored, made: Callable[[], bytes]) -> None:
    data = made()
    name = "a.3mf" if data.startswith(b"PK") else "a.stl"
    sent = {"shape": _sent(data, name), "unit": "mm"}
    page = owner_client.post(reverse("catalogue:add-shape"), sent, follow=True).content.decode()
    assert "Nothing was added" in page
