"""Reading a file of rows, whatever a shop sends: delimited text in any common encoding, or a workbook.

Nothing is interpreted here. The result is a header and rows of text, with notes on everything that
had to be decided or left out, so that the desk can see it and decide otherwise.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
import re
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

from kizami.errors import OrderListError
from kizami.wording.letters import ENCODINGS, older_reading
from kizami.wording.starts import find_start, headings_known
from kizami.wording.workbooks import is_workbook, read_workbook

__all__ = [
    "ENCODINGS",
    "LARGEST_CELL_CHARACTERS",
    "LARGEST_LIST_BYTES",
    "LARGEST_LIST_ROWS",
    "Table",
    "TableRow",
    "read_table",
]

#: Stated on the upload form and in the guide, so that nobody runs into them unawares.
LARGEST_LIST_BYTES = 5 * 1024 * 1024
LARGEST_LIST_ROWS = 10_000
LARGEST_CELL_CHARACTERS = 500

_DELIMITERS = (",", ";", "\t", "|")


@dataclass(frozen=True, kw_only=True, slots=True)
class TableRow:
    """A row as received.

    Attributes
    ----------
    number : row number in the file, as a spreadsheet shows it
    cells : text of every cell
    dates : by column, cells that are known for dates however they are shown
    """

    number: int
    cells: tuple[str, ...]
    dates: Mapping[int, dt.date] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True, slots=True)
class Table:
    """Header and rows of a file.

    Attributes
    ----------
    header : column names, made distinct; a blank one is called by its place
    rows : filled rows in file order
    encoding : name of the text encoding, or "" for a workbook
    guessed : the encoding was guessed from the bytes, not marked or proven
    delimiter : character between cells, or "" for a workbook
    notes : what was decided or left out, in sentences for the desk
    doubt : why its letters can't be told without a person, or ""
    """

    header: tuple[str, ...]
    rows: tuple[TableRow, ...]
    encoding: str
    guessed: bool
    delimiter: str
    notes: tuple[str, ...]
    doubt: str = ""


def _no_product(cell: str) -> bool:
    return False


def read_table(data: bytes, *, encoding: str = "", is_product: Callable[[str], bool] = _no_product) -> Table:
    """Read delimited text or an XLSX workbook.

    Parameters
    ----------
    data : the file
    encoding : one of `ENCODINGS` to overrule detection; "" to detect
    is_product : whether a cell is the code or another name of a product, which no heading is

    Raises
    ------
    OrderListError : too large, empty, not text, not a workbook that can be read
    """
    if len(data) > LARGEST_LIST_BYTES:
        raise OrderListError(
            f"The list is {len(data) / 1024 / 1024:.1f} MB; at most "
            f"{LARGEST_LIST_BYTES // 1024 // 1024} MB can be read. Split it into several lists."
        )
    if not data.strip():
        raise OrderListError("The list is empty. Choose a file with a header row and at least one order.")
    if is_workbook(data):
        book = read_workbook(data, most_rows=LARGEST_LIST_ROWS + 1)
        return _table(
            book.rows, encoding="", guessed=False, delimiter="", notes=list(book.notes), is_product=is_product,
            dates=book.dates,
        )  # fmt: skip
    read = _decode(data, encoding)
    text, delimiter = _said_delimiter(read.text)
    delimiter = delimiter or _delimiter(text)
    notes = list(read.notes)
    if read.guessed and not read.rival:
        notes.append(
            f"Read as {read.name}, by how well its words read; choose another if letters look wrong."
        )
    doubt = _doubt(read) if read.rival else ""
    return _table(
        _records(text, delimiter), encoding=read.name, guessed=read.guessed, delimiter=delimiter, notes=notes,
        is_product=is_product, doubt=doubt,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True, slots=True)
class _Decoded:
    text: str
    name: str
    guessed: bool = False
    rival: str = ""
    rival_text: str = ""
    notes: tuple[str, ...] = ()


def _doubt(read: _Decoded) -> str:
    """The first places that two encodings read differently, in words."""
    words: dict[str, str] = {}
    for one, other in zip(read.text.splitlines(), read.rival_text.splitlines(), strict=False):
        if one != other:
            words |= {
                a: b for a, b in zip(_WORDS.findall(one), _WORDS.findall(other), strict=False) if a != b
            }
        if len(words) >= _MOST_SHOWN:
            break
    shown = "; ".join(f"“{a[:30]}” or “{b[:30]}”" for a, b in list(words.items())[:_MOST_SHOWN])
    return f"The letters may be {read.name} or {read.rival}: {shown or 'they differ'}. Choose the one that reads right."


_WORDS = re.compile(r"[^,;|\t\"]+")
_MOST_SHOWN = 4


def _decode(data: bytes, chosen: str) -> _Decoded:
    if chosen:
        if chosen not in ENCODINGS:
            raise OrderListError(f"“{chosen}” is none of {', '.join(ENCODINGS)}.")
        return _Decoded(text=_decode_as(data, chosen), name=chosen)
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return _Decoded(text=_decode_as(data, "UTF-16"), name="UTF-16")
    if b"\x00" in data:
        return _Decoded(text=_decode_wide_or_refuse(data), name="UTF-16", guessed=True)
    try:
        return _Decoded(text=data.decode("utf-8-sig"), name="UTF-8")
    except UnicodeDecodeError:
        pass
    spoilt = _nearly_utf_8(data)
    if spoilt is not None:
        return spoilt
    found = older_reading(data)
    if found is None:
        raise OrderListError(
            "The letters of the list are in no encoding that is known. Save it as “CSV UTF-8” and send it again."
        )
    return _Decoded(
        text=found.text, name=found.name, guessed=True, rival=found.rival, rival_text=found.rival_text
    )


def _nearly_utf_8(data: bytes) -> _Decoded | None:
    """UTF-8 with a few spoilt bytes: they touch their own rows only, which hold the sign of a lost letter."""
    lines = data.removeprefix(b"\xef\xbb\xbf").splitlines()
    telling = [line for line in lines if not line.isascii()]
    spoilt = []
    for line in telling:
        try:
            line.decode("utf-8")
        except UnicodeDecodeError:
            spoilt.append(line)
    text = data.decode("utf-8-sig", "replace")
    lost, sound = text.count("\ufffd"), sum(not letter.isascii() for letter in text)
    if lost > _SPOILT_SHARE * sound or len(telling) - len(spoilt) < _LEAST_SOUND:
        return None
    rows = [str(number) for number, line in enumerate(lines, start=1) if line in spoilt]
    said = (
        f"Letters were lost on the way in row {', '.join(rows[:8])}; the sign \ufffd stands for each, "
        "and a line whose wording has one is held."
    )
    return _Decoded(text=text, name="UTF-8", notes=(said,))


#: With more of its letters lost, or fewer lines that are sound, a file is not UTF-8 at all.
_SPOILT_SHARE, _LEAST_SOUND = 0.2, 2


def _decode_as(data: bytes, name: str) -> str:
    try:
        text = data.decode(ENCODINGS[name])
    except UnicodeDecodeError as error:
        row = data.count(b"\n", 0, error.start) + 1
        raise OrderListError(
            f"The list is not in {name}: byte {data[error.start]:#04x} in row {row} means nothing there. "
            "Choose another encoding, or save the list as “CSV UTF-8” and send it again."
        ) from error
    _refuse_nul(text)
    return text


def _decode_wide_or_refuse(data: bytes) -> str:
    # UTF-16 without its mark: every other byte of plain letters is zero.
    for name, zeros in (("utf-16-le", data[1:400:2]), ("utf-16-be", data[0:400:2])):
        if zeros.count(0) > 0.6 * len(zeros):
            try:
                text = data.decode(name)
            except UnicodeDecodeError:
                continue
            _refuse_nul(text)
            return text
    raise OrderListError(
        "This is not plain text: it holds NUL bytes. Save the list as “CSV UTF-8” and send it again."
    )


def _refuse_nul(text: str) -> None:
    if "\x00" in text:
        row = text.count("\n", 0, text.index("\x00")) + 1
        raise OrderListError(
            f"This is not plain text: it holds NUL bytes, first in row {row}. "
            "Save the list as “CSV UTF-8” and send it again."
        )


def _said_delimiter(text: str) -> tuple[str, str]:
    """Spreadsheets may say in a first line which character divides the cells: ``sep=;``. It stays a row, empty."""
    match = re.match(r"\s*\"?sep=([,;\t|])\"?[ \t,;|]*(?=\r?\n)", text, re.I)
    return (text[match.end() :], match[1]) if match else (text, "")


def _delimiter(text: str) -> str:
    """The character that divides the first rows into the most, and most equal, cells."""
    sample = text.lstrip("\r\n")[:20_000]
    best, best_score = ",", (0.0, 0)
    for delimiter in _DELIMITERS:
        reader = csv.reader(io.StringIO(sample, newline=""), delimiter=delimiter)
        try:
            widths = [len(row) for row, _ in zip(reader, range(12), strict=False) if row]
        except csv.Error:
            continue
        if not widths or widths[0] < 2:
            continue
        # The last sampled row may be cut off, so it does not count against a delimiter.
        like_header = sum(w == widths[0] for w in widths[:-1] or widths) / max(1, len(widths[:-1] or widths))
        score = (like_header, widths[0])
        if score > best_score:
            best, best_score = delimiter, score
    return best


def _records(text: str, delimiter: str) -> Iterable[list[str]]:
    # The whole file is bounded, so one cell may be as long as the file without harm.
    csv.field_size_limit(LARGEST_LIST_BYTES)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    number = 0
    while True:
        number += 1
        try:
            row = next(reader, None)
        except csv.Error as error:
            raise OrderListError(f"Row {number} can't be taken apart: {error}.") from error
        if row is None:
            return
        yield row


def _table(
    records: Iterable[list[str]],
    *,
    encoding: str,
    guessed: bool,
    delimiter: str,
    notes: list[str],
    is_product: Callable[[str], bool],
    doubt: str = "",
    dates: Mapping[tuple[int, int], dt.date] = MappingProxyType({}),
) -> Table:
    every = list(records)
    start = find_start(every, is_product)
    if start is None:
        raise OrderListError("The list is empty. Choose a file with a header row and at least one order.")
    names, said = _distinct(list(start.header))
    head = tuple(cell.strip() for cell in start.header)
    rows: list[TableRow] = []
    again: list[str] = []
    for number, cells in enumerate(every[start.row :], start=start.row + 1):
        if not any(cell.strip() for cell in cells):
            continue
        if tuple(cell.strip() for cell in cells[: len(head)]) == head and headings_known(cells) >= 2:
            # As it is at the top of every page of what was meant to be printed.
            again.append(str(number))
            continue
        if len(rows) >= LARGEST_LIST_ROWS:
            raise OrderListError(
                f"The list has more than {LARGEST_LIST_ROWS} rows. Split it into several lists."
            )
        known = {
            place: dates[number - 1, place] for place in range(len(cells)) if (number - 1, place) in dates
        }
        rows.append(TableRow(number=number, cells=tuple(cells), dates=known))
    if again:
        said.append(f"The headings stand again in row {', '.join(again[:8])}; those rows are no orders.")
    kept, totals = _without_totals(rows, len(names))
    return Table(
        header=names,
        rows=tuple(kept),
        encoding=encoding,
        guessed=guessed,
        delimiter=delimiter,
        notes=(*notes, *start.notes, *said, *totals),
        doubt=doubt,
    )


def _distinct(header: list[str]) -> tuple[tuple[str, ...], list[str]]:
    """Column names without blanks and doubles, and what was done to get there."""
    tidy = [re.sub(r"\s+", " ", cell).strip() for cell in header]
    while tidy and not tidy[-1]:
        tidy.pop()
    counts = Counter(name.casefold() for name in tidy if name)
    seen: Counter[str] = Counter()
    names, notes = [], []
    for place, name in enumerate(tidy, start=1):
        if not name:
            names.append(f"column {place}")
            notes.append(f"Column {place} has no name; it is called “column {place}”.")
            continue
        seen[name.casefold()] += 1
        if counts[name.casefold()] > 1 and seen[name.casefold()] > 1:
            names.append(f"{name} ({seen[name.casefold()]})")
            notes.append(f"Two columns are called “{name[:40]}”; the later one is called “{names[-1][:46]}”.")
        else:
            names.append(name)
    return tuple(names), notes


_TOTAL = re.compile(
    r"^(?:grand )?(?:total|totals|sum|subtotal|sub-total|summe|gesamt|gesamtsumme|zwischensumme|totaal|subtotaal|"
    r"somme|totale|totaux|suma|soma|razem|łącznie|celkem|součet|summa|totalt|toplam|合計|小計|計)\b.*$",
    re.I,
)


def _without_totals(rows: list[TableRow], columns: int) -> tuple[list[TableRow], list[str]]:
    """Rows at the end that add the others up are no orders; they are named, not silently dropped."""
    kept = list(rows)
    notes: list[str] = []
    while kept:
        filled = [cell.strip() for cell in kept[-1].cells if cell.strip()]
        words = [cell for cell in filled if not re.fullmatch(r"[\d.,\s€$£¥-]+", cell)]
        is_total = len(words) == 1 and _TOTAL.match(words[0]) and len(filled) <= max(2, columns // 2)
        if not is_total:
            break
        notes.append(f"Row {kept[-1].number} (“{words[0][:30]}”) adds up the others and was left out.")
        kept.pop()
    return kept, notes
