"""Files as shops really send them: encodings, separators, headers, totals, workbooks and traps."""

from __future__ import annotations

import csv
import datetime as dt
import io
import zipfile

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.errors import OrderListError
from kizami.wording.tables import LARGEST_LIST_BYTES, read_table

ROWS = [["order", "product", "wording"], ["A1", "R6", "Zoë Čapek"], ["A2", "T5", "名前"]]


def text_of(rows: list[list[str]], delimiter: str = ",") -> str:
    out = io.StringIO(newline="")
    csv.writer(out, delimiter=delimiter).writerows(rows)
    return out.getvalue()


def workbook(rows: list[list[object]], *, also: dict[str, list[list[object]]] | None = None) -> bytes:
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    for name, more in (also or {}).items():
        sheet = book.create_sheet(name)
        for row in more:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def cells(data: bytes, **options: str) -> list[list[str]]:
    table = read_table(data, **options)
    return [list(table.header), *(list(row.cells) for row in table.rows)]


@pytest.mark.parametrize(
    ("encoding", "name", "guessed"),
    [
        ("utf-8", "UTF-8", False),
        ("utf-8-sig", "UTF-8", False),
        ("utf-16", "UTF-16", False),
        ("utf-16-le", "UTF-16", True),
        ("utf-16-be", "UTF-16", True),
    ],
)
def test_unicode_encodings(encoding: str, name: str, guessed: bool) -> None:
    rows = [ROWS[0], *([f"A{i}", "R6", "Zoë Čapek 名"] for i in range(3))]
    data = text_of(rows).encode(encoding)
    assert cells(data) == rows
    table = read_table(data)
    assert (table.encoding, table.guessed) == (name, guessed)


@pytest.mark.parametrize(
    ("encoding", "name", "words"),
    [
        ("cp1252", "Windows-1252", ["Zoë", "Jürgen Groß", "François", "Ångström", "Peña"]),
        ("cp1252", "Windows-1252", ["Chloé"]),
        ("cp932", "Shift-JIS", ["山田太郎", "さくら", "ひなた", "スミレ", "高橋花子"]),
        ("cp932", "Shift-JIS", ["さくら"]),
    ],
)
def test_older_encodings_are_detected_and_said(encoding: str, name: str, words: list[str]) -> None:
    rows = [ROWS[0], *([f"A{i}", "R6", word] for i, word in enumerate(words))]
    data = text_of(rows).encode(encoding)
    table = read_table(data)
    assert (table.encoding, table.guessed) == (name, True)
    assert cells(data) == rows
    assert any(name in note for note in table.notes)


def test_the_desk_can_overrule_the_encoding() -> None:
    data = text_of([ROWS[0], ["A1", "R6", "Zoë"]]).encode("utf-8")
    assert cells(data, encoding="Windows-1252")[1][2] == "ZoÃ«"
    with pytest.raises(OrderListError, match=r"row 2.*another encoding"):
        read_table("a,b\nZoë,1\n".encode("cp1252"), encoding="UTF-8")
    with pytest.raises(OrderListError, match="UTF-16"):
        read_table(data, encoding="EBCDIC")


@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"], ids=["comma", "semicolon", "tab", "bar"])
def test_separators_even_when_others_stand_in_the_words(delimiter: str) -> None:
    rows = [ROWS[0], *([f"A{i}", "R6", "Ana, Ivy; Kit | x"] for i in range(4))]
    table = read_table(text_of(rows, delimiter).encode())
    assert table.delimiter == delimiter
    assert cells(text_of(rows, delimiter).encode()) == rows


def test_blank_and_double_headers_are_named_and_said() -> None:
    table = read_table(b"Name,,name,order,,\n1,2,3,4,,\n")
    assert table.header == ("Name", "column 2", "name (2)", "order")
    assert len(table.notes) == 2


@pytest.mark.parametrize(
    ("last", "left_out"),
    [
        (["Total", "", "12"], True),
        (["", "", "TOTAL: 12 pieces"], True),
        (["Gesamt", "", "12"], True),
        (["Sum", "", ""], True),
        (["A9", "R6", "Total"], False),
        (["A9", "R6", "Summer"], False),
        (["", "", "12"], False),
    ],
)
def test_totals_rows_are_left_out_by_name(last: list[str], left_out: bool) -> None:
    table = read_table(text_of([*ROWS, last]).encode())
    assert len(table.rows) == (2 if left_out else 3)
    assert any("Row 4" in note for note in table.notes) == left_out


def test_rows_are_counted_as_records() -> None:
    table = read_table(b'order,wording\nA1,"Ana\nIvy"\n\nA2,Kit\n')
    assert [(row.number, row.cells[1]) for row in table.rows] == [(2, "Ana\nIvy"), (4, "Kit")]


def test_a_workbook_reads_like_its_text() -> None:
    data = workbook(
        [
            ["order", "qty", "size", "due", "wording"],
            ["A1", 2, 7.5, dt.datetime(2027, 1, 31), "Zoë"],
            [None],
            ["A2", 1.0, "L½", None, True],
        ]
    )
    assert cells(data) == [
        ["order", "qty", "size", "due", "wording"],
        ["A1", "2", "7.5", "2027-01-31", "Zoë"],
        ["A2", "1", "L½", "", "TRUE"],
    ]
    assert read_table(data).rows[-1].number == 4


def test_formulas_give_the_value_they_showed_and_it_is_said() -> None:
    data = workbook([["order", "wording"], ["A1", "=1+1"]])
    # A spreadsheet stores the shown value beside the formula; put one there as it would.
    pack = zipfile.ZipFile(io.BytesIO(data))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as changed:
        for part in pack.infolist():
            content = pack.read(part)
            changed.writestr(
                part,
                content.replace(b"<f>1+1</f><v />", b"<f>1+1</f><v>2</v>").replace(
                    b"<f>1+1</f><v></v>", b"<f>1+1</f><v>2</v>"
                ),
            )
    table = read_table(out.getvalue())
    assert table.rows[0].cells[1] == "2"
    assert any("formulas" in note for note in table.notes)


def test_the_first_filled_sheet_is_read_and_the_others_are_named() -> None:
    data = workbook([], also={"Orders": [["order"], ["A1"]], "Notes": [["x"]]})
    table = read_table(data)
    assert table.header == ("order",)
    assert any("Orders" in n and "Notes" in n for n in table.notes)


def repacked(data: bytes, changes: dict[str, bytes]) -> bytes:
    pack = zipfile.ZipFile(io.BytesIO(data))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as changed:
        for part in pack.infolist():
            changed.writestr(part.filename, changes.get(part.filename, pack.read(part)))
        for name in changes.keys() - {p.filename for p in pack.infolist()}:
            changed.writestr(name, changes[name])
    return out.getvalue()


LAUGHS = (
    b'<?xml version="1.0"?><!DOCTYPE lolz [<!ENTITY lol "lol">'
    + b"".join(
        b'<!ENTITY lol%d "%s">' % (i, b"&lol%d;" % (i - 1) * 10 if i else b"&lol;" * 10) for i in range(9)
    )
    + b"]><sst>&lol8;</sst>"
)
PLAIN = workbook([["order", "wording"], ["A1", "Ana"]])


@pytest.mark.parametrize(
    ("data", "says"),
    [
        pytest.param(repacked(PLAIN, {"xl/sharedStrings.xml": LAUGHS}), "entities", id="billion laughs"),
        pytest.param(repacked(PLAIN, {"xl/media/bomb.bin": b"\0" * (90 * 1024 * 1024)}), "unpacks to more", id="zip bomb"),
        pytest.param(repacked(PLAIN, {"../../evil.xml": b"<x/>"}), "forged", id="zip with ../ names"),
        pytest.param(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600, "password", id="password-protected"),
        pytest.param(PLAIN[: len(PLAIN) // 2], "damaged", id="cut short"),
        pytest.param(repacked(PLAIN, {"xl/workbook.xml": b"<broken"}), "damaged", id="broken inside"),
        pytest.param(b"PK\x03\x04" + b"rubbish" * 20, "damaged", id="only the mark of a zip"),
        pytest.param(workbook([]), "no filled sheet", id="empty workbook"),
        pytest.param(b"order,wording\nA1," + b"x" * LARGEST_LIST_BYTES, "at most 5 MB", id="one huge line"),
        pytest.param(b"order,wording\nA1,A\x00na\n", "NUL", id="NUL bytes"),
    ],
)  # fmt: skip
def test_traps_and_damage_get_a_clear_sentence(data: bytes, says: str) -> None:
    with pytest.raises(OrderListError, match=says):
        read_table(data)


def test_a_zip_that_is_no_workbook_is_said() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as pack:
        pack.writestr("orders.csv", "order")
    with pytest.raises(OrderListError, match="Unpack it"):
        read_table(out.getvalue())


def test_links_to_other_workbooks_are_not_followed() -> None:
    data = repacked(PLAIN, {"xl/externalLinks/externalLink1.xml": b"<externalLink/>"})
    table = read_table(data)
    assert table.rows[0].cells == ("A1", "Ana")
    assert any("not opened" in note for note in table.notes)


plain = st.text(st.characters(blacklist_categories=("Cs", "Cc"), max_codepoint=0xFFFF), max_size=12)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.lists(plain, min_size=3, max_size=3), min_size=1, max_size=8))
def test_rows_written_as_text_or_workbook_read_back_the_same(rows: list[list[str]]) -> None:
    kept = [row for row in rows if any(cell.strip() for cell in row)]
    if kept and read_table(text_of([["a", "b", "c"], *kept]).encode()).notes:
        return  # a totals row
    expected = [tuple(row) for row in kept]
    if not expected:
        return
    assert [
        row.cells for row in read_table(text_of([["a", "b", "c"], *rows]).encode("utf-8-sig")).rows
    ] == expected
    # A workbook has no cells after the last filled one, no text that is only a formula mark, and
    # stores a leading "=" as a formula: those differences are the format's own.
    if any(cell.startswith("=") for row in rows for cell in row):
        return
    back = [
        row.cells + ("",) * (3 - len(row.cells))
        for row in read_table(workbook([["a", "b", "c"], *rows])).rows
    ]
    assert [tuple(c.replace("_x000D_", "\r") for c in row) for row in back] == expected


def test_a_spoilt_byte_touches_its_own_row_only() -> None:
    rows = "".join(
        f"A{n},R6,{name}\n" for n, name in enumerate(["Zoë", "Jürgen", "Renée", "Ångström", "Noël"])
    )
    data = f"order,product,wording\n{rows}".encode().replace("Renée".encode(), b"Ren\xe9e")
    table = read_table(data)
    assert (table.encoding, table.doubt) == ("UTF-8", "")
    assert [row.cells[2] for row in table.rows] == ["Zoë", "Jürgen", "Ren\ufffde", "Ångström", "Noël"]
    assert any("row 4" in note for note in table.notes)


def test_where_letters_may_be_two_both_readings_are_shown() -> None:
    table = read_table("order,product,wording\nA1,R6,Jenő\n".encode("cp1250"))
    assert "“Jenő” or “Jenõ”" in table.doubt
    assert (
        read_table("order,product,wording\nA1,R6,Jenő\n".encode("cp1250"), encoding="Windows-1250").doubt
        == ""
    )
