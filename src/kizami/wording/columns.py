"""Which column means what: as it was set before, by its heading, by what stands in it, and by its place.

Each reading is told with how sure it is. What is less sure than `ASK_BELOW` is for a person to say: a wrong
column puts a buyer's name on a ring.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from types import MappingProxyType

from rapidfuzz import fuzz, process

from kizami.errors import OrderListError
from kizami.wording.column_contents import Contents, contents_of
from kizami.wording.headings import HEADINGS, KEPT, VAGUE, fold_heading

__all__ = ["ASK_BELOW", "FIELDS", "REQUIRED", "ColumnMap", "Field", "guess_columns"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Field:
    """A field of a line.

    Attributes
    ----------
    code : its name in the core
    title : its name on screens
    """

    code: str
    title: str


FIELDS: tuple[Field, ...] = tuple(
    Field(code=code, title=title)
    for code, title in (
        ("order", "Order"), ("line", "Line"), ("product", "Product"), ("size", "Size"), ("wording", "Wording"),
        ("second", "Second wording"), ("quantity", "Quantity"), ("due", "Due"), ("customer", "Customer"),
        ("priority", "Priority"), ("note", "Gift note"), ("typeface", "Typeface"), ("material", "Material"),
        ("finish", "Finish"), ("colour", "Colour"), ("logo", "Logo"), ("set", "Set"),
    )
)  # fmt: skip
REQUIRED = ("order", "product", "wording")
_CODES = tuple(one.code for one in FIELDS)
_TITLES = {one.code: one.title for one in FIELDS}

#: A column that is less sure than this is asked about.
ASK_BELOW = 0.6
#: Likeness, of 100, above which two headings are taken for the same word misspelt.
_LIKE = 84
#: A heading that is like another one, or has it among other words, is less sure by this.
_LESS_SURE = 0.2
#: So many rows tell what a column holds.
_MOST_ROWS = 300


@dataclass(frozen=True, kw_only=True, slots=True)
class ColumnMap:
    """Places of the fields in a header.

    Attributes
    ----------
    places : field code -> column index; fields without a column are absent
    sure : field code -> how sure that is, 0 to 1; absent where it was set by hand
    why : field code -> a sentence, where there is something to say about the choice
    unknown : filled columns that mean nothing to us
    """

    places: Mapping[str, int]
    sure: Mapping[str, float] = field(default_factory=dict)
    why: Mapping[str, str] = field(default_factory=dict)
    unknown: tuple[int, ...] = ()

    @property
    def missing(self) -> tuple[str, ...]:
        """Needed fields that have no column."""
        return tuple(code for code in REQUIRED if code not in self.places)

    @property
    def asked(self) -> tuple[str, ...]:
        """Fields whose column a person must confirm."""
        return tuple(code for code in _CODES if self.sure.get(code, 1.0) < ASK_BELOW)

    def cell(self, cells: Sequence[str], code: str) -> str:
        """The text of a field in a row, "" when there is none."""
        place = self.places.get(code)
        return cells[place] if place is not None and place < len(cells) else ""

    def require(self, header: Sequence[str]) -> None:
        """Refuse a header without the needed fields.

        Raises
        ------
        OrderListError : names what is missing and what was found
        """
        if self.missing:
            found = ", ".join(f"“{cell[:30]}”" for cell in header[:8]) or "nothing"
            raise OrderListError(
                f"The first row must name the columns; missing: {', '.join(self.missing)}. Found: {found}. "
                f"Known columns: {', '.join(_CODES)}."
            )

    def confirm(self, header: Sequence[str]) -> None:
        """Refuse a reading that a person must confirm.

        Raises
        ------
        OrderListError : names every doubtful column, and how the others are read
        """
        if not self.asked:
            return
        doubts = [
            self.why.get(code) or f"{_TITLES[code]} may be “{header[self.places[code]][:40]}”."
            for code in self.asked
        ]
        read = ", ".join(f"{code} = “{header[place][:40]}”" for code, place in self.places.items())
        raise OrderListError(f"It is not sure which column is which. {' '.join(doubts)} Read now: {read}.")

    def told(self, header: Sequence[str]) -> list[str]:
        """What a person should know about the reading, in sentences."""
        said = [f"{self.why[code]}" for code in _CODES if code in self.why]
        unknown = [f"“{header[place][:40]}”" for place in self.unknown]
        if unknown:
            said.append(
                f"Not understood and not used, though filled: {', '.join(unknown[:12])}. "
                "The cells stay with their rows."
            )
        return said


def _no_product(cell: str) -> bool:
    return False


def guess_columns(
    header: Sequence[str],
    rows: Sequence[Sequence[str]] = (),
    *,
    remembered: Mapping[str, str] | None = None,
    is_product: Callable[[str], bool] = _no_product,
) -> ColumnMap:
    """Match columns to fields.

    Parameters
    ----------
    header : distinct column names
    rows : cells below them
    remembered : field code -> column name, as the desk last set it for this source; a remembered
        "" means that the field has no column
    is_product : whether a cell is the code or another name of a product

    >>> dict(guess_columns(["SKU", "Order No.", "Engraving"]).places) == {"product": 0, "order": 1, "wording": 2}
    True
    >>> guess_columns([]).missing
    ('order', 'product', 'wording')
    """
    names = [fold_heading(name) for name in header]
    sample = rows[:_MOST_ROWS]
    held = [
        contents_of((row[place] if place < len(row) else "" for row in sample), is_product)
        for place in range(len(names))
    ]
    places, settled = _recall(names, remembered or {})
    guesses = _Guesses(names=names, header=header, held=held, is_filled=bool(sample))
    guesses.settle(places, settled)
    taken = set(guesses.places.values())
    unknown = tuple(
        place
        for place, name in enumerate(names)
        if place not in taken and place not in guesses.spoken_for and name not in KEPT and held[place].filled
    )
    return ColumnMap(
        places=MappingProxyType(guesses.places),
        sure=MappingProxyType(guesses.sure),
        why=MappingProxyType(guesses.why),
        unknown=unknown,
    )


def _recall(names: Sequence[str], remembered: Mapping[str, str]) -> tuple[dict[str, int], set[str]]:
    """Places of remembered columns, and the fields that are settled by them."""
    places: dict[str, int] = {}
    settled: set[str] = set()
    for code, name in remembered.items():
        if code not in _CODES:
            continue
        if not name:
            settled.add(code)
        elif fold_heading(name) in names:
            places[code] = names.index(fold_heading(name))
            settled.add(code)
    return places, settled


@dataclass(frozen=True, kw_only=True, slots=True)
class _Candidate:
    """A column that a field may have: how sure, how far down its heading stands in the list, and where."""

    code: str
    place: int
    sure: float
    rank: int

    @property
    def order(self) -> tuple[float, int, int]:
        return (-self.sure, self.rank, self.place)


class _Guesses:
    """Columns as they are settled one after the other."""

    def __init__(
        self, *, names: Sequence[str], header: Sequence[str], held: Sequence[Contents], is_filled: bool
    ) -> None:
        self.names, self.header, self.held, self.is_filled = names, header, held, is_filled
        self.places: dict[str, int] = {}
        self.sure: dict[str, float] = {}
        self.why: dict[str, str] = {}
        #: Columns that were understood though no field has them.
        self.spoken_for: set[int] = set()

    def settle(self, places: Mapping[str, int], settled: set[str]) -> None:
        """Give columns to fields: those set by hand, then the wording, then all others, the surest first."""
        self.places.update(places)
        every = self._candidates()
        if "wording" not in settled:
            self._settle_wording([c for c in every if c.code == "wording"])
        for one in sorted(every, key=lambda c: c.order):
            if one.code in settled:
                # It was said to have no column, but a filled one of that name is not passed over in silence.
                if one.code not in self.places and one.sure >= VAGUE and self.held[one.place].filled:
                    self.why.setdefault(
                        one.code,
                        f"“{self.header[one.place]}” is filled but not read, as it was set for this sender.",
                    )
                    self.spoken_for.add(one.place)
            elif one.code not in self.places and one.place not in self.places.values():
                self._give(one)
        self._by_place(settled)

    def _give(self, one: _Candidate) -> None:
        self.places[one.code], self.sure[one.code] = one.place, one.sure

    def _candidates(self) -> list[_Candidate]:
        found = []
        for place, name in enumerate(self.names):
            held = self.held[place]
            if held.email > 0.5 or name in KEPT:
                continue
            heading = _by_heading(name)
            if heading is not None:
                code, sure, rank = heading
                found.append(
                    _Candidate(code=code, place=place, sure=sure * self._bears_out(code, held), rank=rank)
                )
            if held.product >= 0.6 and (heading is None or heading[0] != "product"):
                found.append(_Candidate(code="product", place=place, sure=0.85 * held.product, rank=99))
            if held.file >= 0.6 and heading is None:
                found.append(_Candidate(code="logo", place=place, sure=0.8, rank=99))
        known = [c for c in found if c.code == "product" and self.held[c.place].product >= 0.3]
        if known:
            # Of a title and a code the one that the shop knows is meant.
            best = max(known, key=lambda c: (round(self.held[c.place].product, 1), c.sure))
            found = [c for c in found if c.code != "product" or c is best]
            found = [c for c in found if c.place != best.place or c is best]
        return found

    def _bears_out(self, code: str, held: Contents) -> float:
        """How far what stands in a column bears out its heading."""
        if not self.is_filled or not held.filled:
            return 1.0
        share = {"quantity": held.count, "due": held.date, "size": held.size}.get(code)
        if (
            code == "wording"
            and held.letters < 0.2
            and held.filled > 0.5
            and max(held.count, held.date) < 0.8
        ):
            return 0.8
        if share is None or share >= 0.5:
            return 1.0
        # A size may be “one size”, a date “as soon as you can”: rows, not columns, are asked about then.
        return 1.0 if held.filled < 0.3 else 0.85

    def _settle_wording(self, candidates: list[_Candidate]) -> None:
        free = [c for c in candidates if c.place not in self.places.values()]
        filled = [c for c in free if self.held[c.place].filled] if self.is_filled else free
        free = filled or free
        if not free:
            return
        best = min(free, key=lambda c: c.order)
        rest = [c for c in free if c is not best]
        rivals = [c for c in rest if c.sure >= best.sure - 0.01]
        sure = best.sure
        said = ""
        if best.sure > VAGUE:
            for other in rest:
                if other not in rivals and "customer" not in self.places:
                    # “Name” beside “Engraving” is whose it is.
                    self.places["customer"], self.sure["customer"] = other.place, VAGUE
                    said = (
                        f"“{self.header[best.place]}” is the wording; "
                        f"“{self.header[other.place]}” was taken for the customer."
                    )
        elif any(name in KEPT and _is_buyers(name) for name in self.names) and _is_name(
            self.names[best.place]
        ):
            sure = 0.4
            said = f"“{self.header[best.place]}” may be the wording or the buyer's name."
        if rivals or (best.sure <= VAGUE and rest):
            sure = 0.45
            named = " and ".join(f"“{self.header[c.place]}”" for c in (best, *(rivals or rest)))
            said = f"{named} could each be the wording."
        self.places["wording"], self.sure["wording"] = best.place, sure
        if said:
            self.why["wording"] = said

    def _by_place(self, settled: set[str]) -> None:
        """Needed fields that no heading names: the only column left that could be one."""
        if not self.is_filled:
            return
        left = [p for p in range(len(self.names)) if self._is_free(p)]
        if "order" not in self.places and "order" not in settled:
            like = [p for p in left if self.held[p].order >= 0.9 and self.held[p].filled >= 0.9]
            if like:
                self.places["order"], self.sure["order"] = like[0], 0.5
                self.why["order"] = f"“{self.header[like[0]]}” looks like order numbers."
                left.remove(like[0])
        if "wording" not in self.places and "wording" not in settled:
            like = [p for p in left if self.held[p].letters >= 0.5 and _by_heading(self.names[p]) is None]
            if len(like) == 1:
                self.places["wording"], self.sure["wording"] = like[0], 0.4
                self.why["wording"] = f"“{self.header[like[0]]}” is the only column left that has words."

    def _is_free(self, place: int) -> bool:
        return (
            place not in self.places.values()
            and self.names[place] not in KEPT
            and self.held[place].email <= 0.5
            and self.held[place].filled > 0.0
        )


#: Kept columns that tell of a buyer, so that a bare “Name” may be his.
_BUYERS = ("メール", "correo", "e posta", "address", "adress", "indirizzo", "direcci", "morada", "endere",
           "adres", "住所", "city", "zip", "post", "phone", "tel", "電話", "ort", "street", "stra")  # fmt: skip


def _is_buyers(name: str) -> bool:
    return "mail" in name or any(f" {begin}" in f" {name}" for begin in _BUYERS)


_NAMES = {"name", "namen", "names", "nom", "prénom", "nome", "nombre", "naam", "imię", "imie", "jméno", "namn", "isim", "ad",
          "adı", "名前", "お名前"}  # fmt: skip


def _is_name(name: str) -> bool:
    return name in _NAMES


def _by_heading(name: str) -> tuple[str, float, int] | None:
    """The field of a heading, how sure that is, and how far down its list it stands."""
    exact = HEADINGS.get(name)
    if exact is not None:
        return exact
    # Doubled headings are numbered, see `kizami.wording.tables`.
    words = name.split()
    for length in range(len(words) - 1, 0, -1):
        for begin in range(len(words) - length + 1):
            part = " ".join(words[begin : begin + length])
            if len(part) > 2 and part in HEADINGS and not _is_kept_within(words):
                code, sure, rank = HEADINGS[part]
                return code, sure - _LESS_SURE, 50 + rank
    if len(name) > 3:
        match = process.extractOne(name, HEADINGS.keys(), scorer=fuzz.ratio, score_cutoff=_LIKE)
        if match is not None and len(match[0]) > 3:
            code, sure, rank = HEADINGS[match[0]]
            return code, sure - _LESS_SURE, 50 + rank
    return None


def _is_kept_within(words: Sequence[str]) -> bool:
    """“Order date” among other words is still no order."""
    pairs = (" ".join(words[i : i + n]) for n in (2, 3) for i in range(len(words) - n + 1))
    return any(pair in KEPT for pair in pairs)
