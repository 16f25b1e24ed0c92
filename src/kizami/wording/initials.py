"""The letters that a name is reduced to, and monograms of them.

What may be meant in several ways comes out as all of them, the likeliest first; see `names.py` for the parts of
a name, whose rules are the trade's.
"""

from __future__ import annotations

import itertools
from collections.abc import Collection
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import regex

from kizami.wording.digraphs import begins_with
from kizami.wording.names import (
    GRAPHEME,
    FamilyPlace,
    NameParts,
    has_letter,
    is_east_asian,
    read_name,
    split_name,
)

__all__ = [
    "Choices",
    "Initials",
    "Monogram",
    "are_initials",
    "initials",
    "is_given_name",
    "monogram",
    "monogram_of",
    "read_initials",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Initials:
    """Initials with how they came about.

    Attributes
    ----------
    letters : in reading order, given names first unless the family name stands first
    note : what was left out or cut, or ""
    """

    letters: tuple[str, ...]
    note: str

    @property
    def text(self) -> str:
        """The letters set together."""
        return "".join(self.letters)


@dataclass(frozen=True, kw_only=True, slots=True)
class Monogram:
    """Three letters in a traditional order.

    Attributes
    ----------
    letters : in reading order
    large : index of the letter that is set largest, or None when all are alike
    """

    letters: tuple[str, ...]
    large: int | None

    @property
    def text(self) -> str:
        """The letters set together."""
        return "".join(self.letters)


@dataclass(frozen=True, kw_only=True, slots=True)
class Choices:
    """Letters that a name may be reduced to.

    Attributes
    ----------
    found : the likeliest first; more than one means that only a person can say
    why : what leaves it open, or ""
    """

    found: tuple[Initials, ...]
    why: str = ""

    @property
    def texts(self) -> tuple[str, ...]:
        """The letters of each."""
        return tuple(one.text for one in self.found)


def read_initials(
    name: str,
    *,
    most: int = 3,
    family: FamilyPlace = FamilyPlace.BY_SCRIPT,
    digraphs: Collection[str] = (),
) -> Choices:
    """Initials of a name, with every other reading that it has.

    Parameters
    ----------
    digraphs : letters of several signs that are one initial

    >>> read_initials("Ana Costa").texts, read_initials("Vincent Van Gogh").texts
    (('AC',), ('VG', 'VV', 'VVG'))
    >>> read_initials("RTM").texts, read_initials("TOM").texts
    (('RTM',), ('TOM', 'T'))
    >>> read_initials("Szabó Anna", digraphs=("Sz",)).texts
    ('SzA',)
    """
    bare = _bare(name)
    ready = _already(bare, most)
    if ready is not None:
        found = [Initials(letters=ready, note="")]
        why = ""
        if _may_be_name(bare):
            found.append(Initials(letters=(ready[0],), note=""))
            why = f"“{bare}” may be letters or a name"
        return Choices(found=tuple(found), why=why)
    if regex.fullmatch(r"\p{Lu}{2,}", bare) and most < len(bare) <= _MOST_LETTERS and not _may_be_name(bare):
        cut = tuple(GRAPHEME.findall(bare))[:most]
        return Choices(found=(Initials(letters=cut, note=""),), why=f"“{bare}” has more than {most} letters")
    readings = read_name(bare, family=family)
    stands_first = _stands_first(bare, family)
    found = [_of_parts(parts, most, stands_first, digraphs) for parts in readings.parts]
    why = readings.why
    parts = readings.parts[0]
    total = len(parts.given) + len(parts.family)
    if total > most >= 3:
        found.extend(_cut(parts, most, stands_first, digraphs))
        why = why or f"there are {total} names for {most} letters"
    elif total > most == 2 and len(parts.given) > 1 and parts.family and _is_spanish_family(parts.given[-1]):
        spanish = NameParts(given=parts.given[:-1], family=(parts.given[-1],), left_out=parts.left_out)
        found.insert(0, _of_parts(spanish, most, stands_first, digraphs))
        why = why or "of two family names either may count"
    unique = tuple({one.text: one for one in reversed(found)}.values())[::-1]
    return Choices(found=unique, why=why if len(unique) > 1 else "")


#: Longer than this, capitals are a name and no letters.
_MOST_LETTERS = 4


def _stands_first(name: str, family: FamilyPlace) -> bool:
    return family is FamilyPlace.FIRST or (is_east_asian(name) and family is not FamilyPlace.LAST)


def _bare(name: str) -> str:
    """Without brackets or quotes around the whole."""
    text = " ".join(name.split())
    while len(text) > 2 and text[0] in "([{\"'“" and text[-1] in ")]}\"'”":
        text = text[1:-1].strip()
    return text


def is_given_name(word: str) -> bool:
    """Whether a word is more often a given than a family name.

    >>> is_given_name("John"), is_given_name("Smith")
    (True, False)
    """
    return word.casefold() in _given_names()


@cache
def _given_names() -> frozenset[str]:
    """From an open dataset (see the licence beside it)."""
    return frozenset((files("kizami") / "data" / "given-names.txt").read_text("utf-8").split())


def _may_be_name(text: str) -> bool:
    """Capitals may be a short name that was shouted: TOM, ANA, JO."""
    return text.casefold() in _short_names()


@cache
def _short_names() -> frozenset[str]:
    """Given names of two to four letters, from an open dataset (see the licence beside it)."""
    return frozenset((files("kizami") / "data" / "short-names.txt").read_text("utf-8").split())


_SPANISH_FAMILIES = {
    "garcia", "lopez", "martinez", "sanchez", "perez", "gomez", "martin", "jimenez", "ruiz", "hernandez", "diaz",
    "moreno", "muñoz", "alvarez", "romero", "alonso", "gutierrez", "navarro", "torres", "dominguez", "vazquez", "ramos",
    "gil", "ramirez", "serrano", "blanco", "molina", "morales", "suarez", "ortega", "delgado", "castro", "ortiz",
    "rubio", "marin", "sanz", "nuñez", "iglesias", "medina", "garrido", "cortes", "castillo", "santos", "lozano",
    "guerrero", "cano", "prieto", "mendez", "cruz", "calvo", "gallego", "vidal", "leon", "marquez", "herrera", "peña",
    "flores", "cabrera", "campos", "vega", "fuentes", "carrasco", "diez", "reyes", "caballero", "nieto", "aguilar",
    "pascual", "santana", "herrero", "montero", "lorenzo", "hidalgo", "gimenez", "ibañez", "ferrer", "duran", "rojas",
    "vargas", "silva", "rivera", "mendoza", "guzman", "salazar", "soto", "contreras", "valencia",
}  # fmt: skip


def _is_spanish_family(word: str) -> bool:
    """Whether the middle one of three names is likely a first family name (frequent ones, from memory)."""
    plain = regex.sub(r"[áàâ]", "a", word.casefold())
    plain = regex.sub(
        r"[éèê]", "e", regex.sub(r"[íìî]", "i", regex.sub(r"[óòô]", "o", regex.sub(r"[úùû]", "u", plain)))
    )
    return plain in _SPANISH_FAMILIES or (plain.endswith("ez") and len(plain) > 4)


def initials(name: str, *, most: int = 3, family: FamilyPlace = FamilyPlace.BY_SCRIPT) -> Initials:
    """Initials of a name as they are likeliest meant, at most `most` of them; the middle ones go first.

    A text that is initials already ("A.B.", "AB") is taken as it is.

    >>> initials("Anne-Marie van der Berg").text
    'AMB'
    >>> initials("Ana").text
    'A'
    >>> initials("").letters
    ()
    """
    bare = _bare(name)
    ready = _already(bare, most)
    if ready is not None:
        return Initials(letters=ready, note="")
    return _of_parts(split_name(bare, family=family), most, _stands_first(bare, family))


def _letters_of(parts: NameParts, stands_first: bool, digraphs: Collection[str]) -> list[str]:
    given, family = ([_initial(word, digraphs) for word in words] for words in (parts.given, parts.family))
    return [*family, *given] if stands_first else [*given, *family]


def _cut(parts: NameParts, most: int, stands_first: bool, digraphs: Collection[str]) -> list[Initials]:
    """Of too many letters the first and the last, with every choice of those between."""
    every = _letters_of(parts, stands_first, digraphs)
    note = "; ".join(
        [*([f"left out {', '.join(parts.left_out)}"] if parts.left_out else []), f"cut to {most}"]
    )
    middles = itertools.islice(itertools.combinations(every[1:-1], most - 2), 6)
    return [Initials(letters=(every[0], *middle, every[-1]), note=note) for middle in middles]


def _of_parts(parts: NameParts, most: int, stands_first: bool, digraphs: Collection[str] = ()) -> Initials:
    """Letters of a name's parts."""
    given = [_initial(word, digraphs) for word in parts.given]
    family_letters = [_initial(word, digraphs) for word in parts.family]
    notes = [f"left out {', '.join(parts.left_out)}"] if parts.left_out else []
    too_many = len(given) + len(family_letters) - most
    if too_many > 0:
        # The first given name and the last family name are the ones that people go by.
        while too_many > 0 and len(given) > 1:
            given.pop()
            too_many -= 1
        while too_many > 0 and len(family_letters) > 1:
            family_letters.pop(0)
            too_many -= 1
        notes.append(f"cut to {most}")
    letters = [*family_letters, *given] if stands_first else [*given, *family_letters]
    return Initials(letters=tuple(x for x in letters[:most] if x), note="; ".join(notes))


def are_initials(text: str, *, most: int) -> bool:
    """Whether a text is nothing but initials: few letters, each as an initial would be written.

    In scripts without capitals a short name looks the same, so only a person can vouch for it.

    >>> are_initials("AC", most=3), are_initials("Ana", most=3), are_initials("", most=3)
    (True, False, False)
    """
    letters = GRAPHEME.findall(text)
    # Dutch IJ is one letter of two signs.
    return 0 < len(letters) <= most + letters.count("J") and all(_initial(sign) == sign for sign in letters)


def monogram(
    name: str, *, family_in_middle: bool = True, family: FamilyPlace = FamilyPlace.BY_SCRIPT
) -> Monogram:
    """Three letters in one of the two traditional orders.

    Family in the middle and largest (first, family, middle), or all in line (first, middle, family)
    and alike. With two names there are two letters in line.

    >>> monogram("Ana Beatriz Costa").text, monogram("Ana Beatriz Costa").large
    ('ACB', 1)
    >>> monogram("Ana Beatriz Costa", family_in_middle=False).text
    'ABC'
    """
    return monogram_of(split_name(_bare(name), family=family), family_in_middle=family_in_middle)


def monogram_of(
    parts: NameParts, *, family_in_middle: bool = True, digraphs: Collection[str] = ()
) -> Monogram:
    """That of a name that was taken apart; `digraphs` are letters of several signs that are one initial."""
    given = [_initial(word, digraphs) for word in parts.given]
    last = _initial(parts.family[-1], digraphs) if parts.family else ""
    if len(given) >= 2 and last:
        if family_in_middle:
            return Monogram(letters=(given[0], last, given[1]), large=1)
        return Monogram(letters=(given[0], given[1], last), large=None)
    return Monogram(letters=tuple(x for x in (*given[:2], last) if x), large=None)


def _already(name: str, most: int) -> tuple[str, ...] | None:
    """Letters of a text that is initials already, or None."""
    dotted = regex.fullmatch(r"\s*(?:(\p{L}\p{M}*)\s*[.·]\s*)+(\p{L}\p{M}*)?\s*", name)
    spaced = regex.fullmatch(r"\p{Lu}\p{M}*(?:\s\p{Lu}\p{M}*){1,3}", name.strip())
    if dotted or spaced or regex.fullmatch(r"\p{Lu}{2,4}\.?", name.strip()):
        letters = tuple(g.upper() for g in GRAPHEME.findall(name) if has_letter(g))
        return letters if 0 < len(letters) <= max(most, 1) else None
    return None


def _initial(word: str, digraphs: Collection[str] = ()) -> str:
    several = begins_with(word, digraphs)
    if several:
        return several
    letters: list[str] = [g for g in GRAPHEME.findall(word) if has_letter(g)]
    if not letters:
        return ""
    # ß has no capital that a name begins with; the Dutch IJ is one letter where it is written as one, both
    # capital before small ones: “Ijeoma” begins with an I.
    if letters[0] in ("ß",):
        return "S"
    if word[:2] == "IJ" and word[2:3].islower():
        return "IJ"
    upper = letters[0].upper()
    return upper if len(GRAPHEME.findall(upper)) == 1 else letters[0]
