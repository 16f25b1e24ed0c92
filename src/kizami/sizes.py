"""Ring sizes: what is written on an order list, turned into a bore in mm.

Sources (values from memory of the named documents; the tests check each against another):

- ISO 8653 (EN 28653): the size is the inner circumference in mm.
- US and Canada, trade table: bore = 11.63 mm + 0.8128 mm a size (0.032 in a size). Other US
  formulas exist and differ by up to about 0.1 mm in bore; this is the one that US mandrels
  are cut to, and the one in which every quarter size is the same step.
- UK, Ireland, Australia, BS 6820: circumference 37.5 mm at A, 1.25 mm a letter, halves 0.625.
- Japan, JIS S 4700: bore = 13 mm + (N - 1)/3.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from enum import Enum

from kizami.errors import SizeError

__all__ = ["RingSize", "SizeSystem", "parse_ring_size"]


class SizeSystem(Enum):
    """How a ring size was written."""

    ISO = "ISO"
    US = "US"
    UK = "UK"
    JP = "JP"
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

_PREFIX = re.compile(r"^(?:size\s+)?(?:(iso|eu|us|usa|uk|au|jp|jis)\b[\s.:]*)?(.+?)(?:\s*(mm))?$", re.I)
_SYSTEM_OF_PREFIX = {
    "iso": SizeSystem.ISO,
    "eu": SizeSystem.ISO,
    "us": SizeSystem.US,
    "usa": SizeSystem.US,
    "uk": SizeSystem.UK,
    "au": SizeSystem.UK,
    "jp": SizeSystem.JP,
    "jis": SizeSystem.JP,
}
_VULGAR = {"¼": 0.25, "½": 0.5, "¾": 0.75}
_NUMBER = re.compile(r"^(\d+(?:[.,]\d+)?)?\s*(?:([¼½¾])|(\d)\s*/\s*(\d))?$")
_LETTER = re.compile(r"^([A-Z])\s*(½|1/2|\.5)?$", re.I)


def parse_ring_size(text: str, *, default: SizeSystem) -> RingSize:
    """Read a ring size such as ``54``, ``US 7 1/2``, ``7½``, ``L½``, ``JP 13``, ``17.2 mm``.

    A prefix or ``mm`` names the system; a single letter is UK; otherwise `default` is taken
    and the result says so (`inferred`).

    Raises
    ------
    SizeError : the text is not a size, or the bore lies outside 10 to 30 mm.

    >>> parse_ring_size("54", default=SizeSystem.ISO).bore_mm
    17.1887...
    >>> str(parse_ring_size("l 1/2", default=SizeSystem.ISO))
    'UK L½'
    >>> parse_ring_size("", default=SizeSystem.ISO)
    Traceback (most recent call last):
    ...
    kizami.errors.SizeError: The size is empty; ...
    """
    examples = "write for example “ISO 54”, “US 7½”, “UK L½”, “JP 13” or “17.2 mm”"
    tidy = " ".join(text.split())
    if not tidy:
        raise SizeError(f"The size is empty; {examples}.", column="size")
    not_a_size = SizeError(f"“{tidy[:40]}” is not a ring size; {examples}.", column="size")
    match = _PREFIX.match(tidy)
    if match is None:
        raise not_a_size
    prefix, rest, mm = match.groups()
    system = SizeSystem.MM if mm else _SYSTEM_OF_PREFIX.get((prefix or "").lower())
    if mm and prefix:
        raise not_a_size
    letter = _LETTER.match(rest)
    if letter is not None:
        if system not in (None, SizeSystem.UK):
            raise not_a_size
        mark = letter[1].upper() + ("½" if letter[2] else "")
        size = RingSize(
            system=SizeSystem.UK,
            mark=mark,
            bore_mm=_uk_circumference_mm(mark) / math.pi,
            inferred=system is None and default is not SizeSystem.UK,
        )
        return _sensible(size, tidy)
    number = _number(rest)
    if number is None:
        raise not_a_size
    chosen = system or default
    if chosen is SizeSystem.UK:
        raise SizeError(f"“{tidy[:40]}” is not a UK size: those are letters; {examples}.", column="size")
    size = RingSize(
        system=chosen,
        mark=f"{number:g}",
        bore_mm=_bore_mm(chosen, number),
        inferred=system is None,
    )
    return _sensible(size, tidy)


def _number(text: str) -> float | None:
    match = _NUMBER.match(text.strip())
    if match is None or not any(match.groups()):
        return None
    whole, vulgar, top, bottom = match.groups()
    value = float(whole.replace(",", ".")) if whole else 0.0
    if vulgar:
        value += _VULGAR[vulgar]
    elif top:
        if int(bottom) == 0:
            return None
        # "71/2" could be 7 1/2 or 71/2: only a space makes the whole number certain.
        if whole and " " not in text.strip():
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
    return number


def _uk_circumference_mm(mark: str) -> float:
    letter = ord(mark[0]) - ord("A")
    return 37.5 + 1.25 * letter + (0.625 if mark.endswith("½") else 0.0)


def _sensible(size: RingSize, written: str) -> RingSize:
    if not SMALLEST_BORE_MM <= size.bore_mm <= LARGEST_BORE_MM:
        raise SizeError(
            f"“{written[:40]}” read as {size} is a bore of {size.bore_mm:.2f} mm; rings are made "
            f"from {SMALLEST_BORE_MM:g} to {LARGEST_BORE_MM:g} mm. Check the size and its system.",
            column="size",
        )
    return size
