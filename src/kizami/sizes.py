"""Ring sizes: what is written on an order list, turned into a bore in mm.

Sources (values from memory of the named documents; the tests check each against another):

- ISO 8653 (EN 28653): the size is the inner circumference in mm.
- US and Canada, trade table: bore = 11.63 mm + 0.8128 mm a size (0.032 in a size). Other US
  formulas exist and differ by up to about 0.1 mm in bore; this is the one that US mandrels
  are cut to, and the one in which every quarter size is the same step.
- UK, Ireland, Australia, BS 6820: circumference 37.5 mm at A, 1.25 mm a letter, halves 0.625.
- Japan, JIS S 4700: bore = 13 mm + (N - 1)/3.
- Switzerland, Italy and Spain: circumference - 40 mm (the trade; JIS, ISO and BS have no part in it).
- France, Germany and the Netherlands write the circumference, as ISO does (“T52” is taille 52); where a bore
  is meant they write mm or the sign of a diameter.
"""

from __future__ import annotations

import math
import re
import unicodedata
from dataclasses import dataclass
from enum import Enum
from functools import lru_cache

from kizami.errors import SizeError

__all__ = ["RingSize", "SizeSystem", "larger_sizes", "parse_ring_size"]


class SizeSystem(Enum):
    """How a ring size was written."""

    ISO = "ISO"
    US = "US"
    UK = "UK"
    JP = "JP"
    CH = "CH"
    IT = "IT"
    ES = "ES"
    MM = "mm"

    @classmethod
    def named(cls, name: str) -> SizeSystem:
        """The system called `name`, in any letter case.

        Raises
        ------
        SizeError : unknown name; the text lists the valid ones.
        """
        for system in cls:
            if system.value.lower() == name.strip().lower():
                return system
        valid = ", ".join(s.value for s in cls)
        raise SizeError(f"“{name}” is not a ring size system; use one of {valid}.", column="size")


@dataclass(frozen=True, kw_only=True, slots=True)
class RingSize:
    """A ring size with its system, and the bore that it means.

    Attributes
    ----------
    system : how it was written
    mark : the size as written in that system, tidied ("7 1/2" -> "7.5", "l½" -> "L½")
    bore_mm : inner diameter, mm
    inferred : the row did not name the system; the product's own was taken
    """

    system: SizeSystem
    mark: str
    bore_mm: float
    inferred: bool = False

    @property
    def circumference_mm(self) -> float:
        """Inner circumference, mm."""
        return math.pi * self.bore_mm

    def __str__(self) -> str:
        if self.system is SizeSystem.MM:
            return f"{self.mark} mm"
        return f"{self.system.value} {self.mark}"


#: Bores that a ring can sensibly have. A size outside is a slip, not a ring.
SMALLEST_BORE_MM, LARGEST_BORE_MM = 10.0, 30.0

_SYSTEMS: dict[SizeSystem, str] = {
    SizeSystem.ISO: "iso|eur|eu|fr|de|nl|circumference|umfang|circonférence|circonferenza|circunferencia",
    SizeSystem.US: "usa|us|u\\.s\\.?|american|ca",
    SizeSystem.UK: "uk|gb|au|nz|ie|british",
    SizeSystem.JP: "jpn|jp|jis|japan|日本|号",
    SizeSystem.CH: "ch|swiss|schweiz",
    SizeSystem.IT: "ita|it|italy|italia",
    SizeSystem.ES: "esp|es|spain|españa",
    SizeSystem.MM: "ø|⌀|diameter|dia|durchmesser|diamètre|diametro|diámetro|diâmetro|内径",
}
#: A system before or after the size itself.
_NAMED = {
    system: (re.compile(rf"^(?:{names})[\s.:#-]*(?=[\da-z])"), re.compile(rf"(?<=[\d\s½])\s*(?:{names})$"))
    for system, names in _SYSTEMS.items()
}
_LABEL = re.compile(
    r"^(?:ring\s*size|size|ringgrösse|grösse|groesse|gr|taille|t|tour de doigt|misura|taglia|talla|medida|"
    r"tamanho|aro|maat|ringmaat|rozmiar|velikost|storlek|beden|ölçü|numara|サイズ|リングサイズ|no|nr|#)"
    r"(?:[\s.:=#-]+|(?=\d))"
)
_AFTER = re.compile(r"\s*(?:サイズ|size)$")
_VULGAR = {"¼": " 1/4", "½": " 1/2", "¾": " 3/4"}
_NUMBER = re.compile(r"^(\d{1,3}(?:[.,]\d+)?)?(?:(?:^|[\s-])\s*(\d)\s*/\s*(\d))?$")
_LETTER = re.compile(r"^([a-z])(?:\s*-?\s*(1/2|\.5))?$")
_MM = re.compile(r"\s*mm$")
#: Sizes of clothes, which a ring has only where the product says so.
_CLOTHES = re.compile(r"^[sml]$")


@lru_cache(maxsize=4096)
def parse_ring_size(text: str, *, default: SizeSystem) -> RingSize:
    """Read a ring size such as ``54``, ``US7``, ``7.5 US``, ``7-1/2``, ``L½``, ``13号``, ``T52``, ``Ø17,2``.

    A system may stand before or after the size; ``mm`` is a bore, or a circumference where no bore is so
    large; a single letter is UK. Where nothing names a system `default` is taken, or the only other one in
    which the number is a ring at all, and the result says so (`inferred`).

    Raises
    ------
    SizeError : the text is not a size, may be several, or the bore lies outside 10 to 30 mm.

    >>> parse_ring_size("54", default=SizeSystem.ISO).bore_mm
    17.1887...
    >>> [str(parse_ring_size(text, default=SizeSystem.ISO)) for text in ("l 1/2", "13号", "US 7-1/2")]
    ['UK L½', 'JP 13', 'US 7.5']
    >>> parse_ring_size("", default=SizeSystem.ISO)
    Traceback (most recent call last):
    ...
    kizami.errors.SizeError: The size is empty; ...
    """
    tidy = " ".join(text.split())
    if not tidy:
        raise SizeError(f"The size is empty; {_EXAMPLES}.", column="size")
    system, rest, is_mm = _taken_apart(tidy)
    letter = _LETTER.match(rest)
    if letter is not None and not is_mm:
        return _letter_size(tidy, letter, system, default)
    number = _number(rest)
    if number is None:
        raise SizeError(f"“{tidy[:40]}” is not a ring size; {_EXAMPLES}.", column="size")
    if is_mm:
        if system not in (None, SizeSystem.MM, SizeSystem.ISO) or (
            system is SizeSystem.ISO and not _is_circumference(number)
        ):
            raise SizeError(f"“{tidy[:40]}” is not a ring size; {_EXAMPLES}.", column="size")
        # No finger has a bore of 40 mm: that many mm go round it.
        system = (
            SizeSystem.ISO if _is_circumference(number) and system is not SizeSystem.MM else SizeSystem.MM
        )
    if system is SizeSystem.UK:
        raise SizeError(f"“{tidy[:40]}” is not a UK size: those are letters; {_EXAMPLES}.", column="size")
    return _sensible(_numbered(system or _only_system(tidy, number, default), number, system is None), tidy)


_EXAMPLES = "write for example “ISO 54”, “US 7½”, “UK L½”, “JP 13” or “17.2 mm”"


def _is_circumference(number: float) -> bool:
    """Whether so many mm can only go round a finger, not across it."""
    return number > LARGEST_BORE_MM


def _taken_apart(tidy: str) -> tuple[SizeSystem | None, str, bool]:
    """The system that is named, what is left, and whether it is said to be mm."""
    rest = tidy.casefold()
    for sign, written in _VULGAR.items():
        rest = rest.replace(sign, written)
    rest = re.sub(r"[()\[\]\"“”']", " ", unicodedata.normalize("NFKC", rest).replace("\u2044", "/"))
    rest = " ".join(rest.split())
    system: SizeSystem | None = None
    rest = _AFTER.sub("", _LABEL.sub("", rest))
    is_mm = _MM.search(rest) is not None
    rest = _MM.sub("", rest)
    for named, (before, after) in _NAMED.items():
        shorter = after.sub("", before.sub("", rest)).strip()
        if shorter != rest:
            if system is not None:
                return system, "", is_mm
            system, rest = named, shorter
    return system, _LABEL.sub("", rest), is_mm


def _letter_size(
    tidy: str, letter: re.Match[str], system: SizeSystem | None, default: SizeSystem
) -> RingSize:
    if system not in (None, SizeSystem.UK):
        raise SizeError(f"“{tidy[:40]}” is not a ring size; {_EXAMPLES}.", column="size")
    if system is None and default is not SizeSystem.UK and _CLOTHES.match(letter[0]):
        raise _clothes(tidy)
    mark = letter[1].upper() + ("½" if letter[2] else "")
    size = RingSize(
        system=SizeSystem.UK,
        mark=mark,
        bore_mm=_uk_circumference_mm(mark) / math.pi,
        inferred=system is None and default is not SizeSystem.UK,
    )
    return _sensible(size, tidy)


def _clothes(tidy: str) -> SizeError:
    return SizeError(
        f"“{tidy[:40]}” may be a size of clothes or the UK ring size; write the ring size with its system, "
        "for example “UK M” or “ISO 54”.",
        column="size",
    )


def _only_system(tidy: str, number: float, default: SizeSystem) -> SizeSystem:
    """The product's own system, or the only one in which such a number is a ring at all."""
    if default is not SizeSystem.UK and _is_bore(_bore_mm(default, number)):
        return default
    others = [s for s in _NUMBERED if s is not default and _is_usual(s, number)]
    if len(others) == 1 and others[0] is not SizeSystem.MM:
        return others[0]
    if not others:
        return default
    named = " or ".join(str(_numbered(s, number, inferred=False)) for s in others)
    raise SizeError(
        f"“{tidy[:40]}” is no size in the product's system ({default.value}); it may be {named}. "
        "Write it with its system.",
        column="size",
    )


#: Systems that a bare number may be of. Swiss, Italian and Spanish ones only where the product or the row
#: says so, as each number is a Japanese or an American one as well.
_NUMBERED = (SizeSystem.ISO, SizeSystem.US, SizeSystem.JP, SizeSystem.MM)


def _is_usual(system: SizeSystem, number: float) -> bool:
    """Whether shops stock such a ring: bores from 13 to 23 mm (common practice, no source)."""
    return 13.0 <= _bore_mm(system, number) <= 23.0


def _numbered(system: SizeSystem, number: float, inferred: bool) -> RingSize:
    if system is SizeSystem.UK:
        raise SizeError(f"“{number:g}” is not a UK size: those are letters; {_EXAMPLES}.", column="size")
    return RingSize(system=system, mark=f"{number:g}", bore_mm=_bore_mm(system, number), inferred=inferred)


def _is_bore(bore_mm: float) -> bool:
    return SMALLEST_BORE_MM <= bore_mm <= LARGEST_BORE_MM


def _number(text: str) -> float | None:
    # “71/2” could be 7 1/2 or 71/2: only a space or a dash makes the whole number certain.
    match = _NUMBER.match(text.strip())
    if match is None or not any(match.groups()):
        return None
    whole, top, bottom = match.groups()
    value = float(whole.replace(",", ".")) if whole else 0.0
    if top:
        if int(bottom) == 0 or int(top) >= int(bottom) or "." in (whole or "") or "," in (whole or ""):
            return None
        value += int(top) / int(bottom)
    return value


def _bore_mm(system: SizeSystem, number: float) -> float:
    if system is SizeSystem.ISO:
        return number / math.pi
    if system is SizeSystem.US:
        return 11.63 + 0.8128 * number
    if system is SizeSystem.JP:
        return 13.0 + (number - 1.0) / 3.0
    if system in (SizeSystem.CH, SizeSystem.IT, SizeSystem.ES):
        return (number + 40.0) / math.pi
    return number


def _uk_circumference_mm(mark: str) -> float:
    letter = ord(mark[0]) - ord("A")
    return 37.5 + 1.25 * letter + (0.625 if mark.endswith("½") else 0.0)


def _sensible(size: RingSize, written: str) -> RingSize:
    if not _is_bore(size.bore_mm):
        raise SizeError(
            f"“{written[:40]}” read as {size} is a bore of {size.bore_mm:.2f} mm; rings are made "
            f"from {SMALLEST_BORE_MM:g} to {LARGEST_BORE_MM:g} mm. Check the size and its system.",
            column="size",
        )
    return size


#: From one size to the next that shops stock (common practice, no source).
_STEPS = {SizeSystem.US: 0.5, SizeSystem.MM: 0.2}
#: Half letters, in the order of their circumference.
_LETTERS = [chr(ord("A") + letter) + half for letter in range(26) for half in ("", "½")]


def larger_sizes(size: RingSize, count: int) -> tuple[RingSize, ...]:
    """The next larger sizes in its own system, as far as there are any.

    >>> us, uk = (parse_ring_size(text, default=SizeSystem.US) for text in ("7", "UK L"))
    >>> [str(larger) for larger in (*larger_sizes(us, 2), *larger_sizes(uk, 2))]
    ['US 7.5', 'US 8', 'UK L½', 'UK M']
    """
    if size.system is SizeSystem.UK:
        first = _LETTERS.index(size.mark) + 1
        found = [
            RingSize(system=SizeSystem.UK, mark=mark, bore_mm=_uk_circumference_mm(mark) / math.pi)
            for mark in _LETTERS[first : first + count]
        ]
    else:
        step, now = _STEPS.get(size.system, 1.0), float(size.mark)
        found = [
            _numbered(size.system, round(now + step * k, 3), inferred=False) for k in range(1, count + 1)
        ]
    return tuple(larger for larger in found if _is_bore(larger.bore_mm))
