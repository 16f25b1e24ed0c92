"""What is measured of a typeface once and for all: how fine it is, what it has, whether it joins."""

from __future__ import annotations

import string
from collections import Counter
from dataclasses import asdict, dataclass
from typing import Any

from fontTools import unicodedata

from kizami.lettering.typeface import Typeface
from kizami.processes import Limits

__all__ = ["TypefaceFacts", "measure_typeface"]

#: Letters that stand for a script: what names and dates are made of.
_SAMPLES = {
    "Latn": string.ascii_uppercase + string.ascii_lowercase + string.digits,
    "Grek": "ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡΣΤΥΦΧΨΩαβγδεζηθικλμνξοπρστυφχψω",
    "Cyrl": "АБВГДЕЖЗИКЛМНОПРСТУФХЦЧШЩЫЭЮЯабвгдежзиклмнопрстуфхцчшщыэюя",
    "Hebr": "אבגדהוזחטיכלמנסעפצקרשת",
    "Arab": "ابتثجحخدذرزسشصضطظعغفقكلمنهوي",
    "Hira": "あいうえおかきくけこさしすせそたちつてとなにぬねのはひふへほまみむめもやゆよらりるれろわをん",
}


@dataclass(frozen=True, kw_only=True, slots=True)
class TypefaceFacts:
    """Measured facts; widths are shares of the cap height, which is the same as mm per mm of height.

    Attributes
    ----------
    fingerprint : of the file that was measured
    cap_height_upem, units_per_em : font units
    thinnest : thinnest stroke of any letter or figure, and in which it is
    narrowest : narrowest closed middle or notch, and in which it is; 0 where there is none
    characters : how many it has
    scripts : ISO 15924 codes of the scripts it has at least twenty letters of, most letters first
    joins : the lower case is written as one line
    small_capitals : it has small capitals of its own
    """

    fingerprint: str
    cap_height_upem: float
    units_per_em: int
    thinnest: float
    thinnest_in: str
    narrowest: float
    narrowest_in: str
    characters: int
    scripts: tuple[str, ...]
    joins: bool
    small_capitals: bool

    def lowest_height_mm(self, limits: Limits, *, engraved: bool) -> float:
        """The lowest cap height at which every letter holds in a process.

        Strokes and gaps grow with the height, so it is the larger of the two quotients.
        """
        stroke = limits.of("stroke-width", sunk=engraved)
        by_stroke = stroke / self.thinnest if self.thinnest else 0.0
        by_gap = limits.of("gap-width") / self.narrowest if self.narrowest else 0.0
        return max(by_stroke, by_gap)

    def to_table(self) -> dict[str, Any]:
        """As plain data."""
        return {**asdict(self), "scripts": list(self.scripts)}

    @classmethod
    def from_table(cls, table: dict[str, Any]) -> TypefaceFacts:
        """Back from plain data."""
        return cls(**{**table, "scripts": tuple(table["scripts"])})


def measure_typeface(typeface: Typeface) -> TypefaceFacts:
    """Measure the letters of the first script that a typeface is made for."""
    scripts = Counter(
        s for c in typeface.characters if (s := unicodedata.script(chr(c))) not in ("Zyyy", "Zinh", "Zzzz")
    )
    has = [s for s, count in scripts.most_common() if count >= 20]
    sample = next((text for s, text in _SAMPLES.items() if s in has and _has(typeface, text)), "")
    sample = sample or _letters_of(typeface, scripts.most_common(1)[0][0] if scripts else "")
    strokes: list[tuple[float, str]] = []
    gaps: list[tuple[float, str]] = []
    cap = typeface.cap_height_upem
    for letter in sample:
        for glyph in typeface.shape(letter):
            facts = typeface.facts(glyph.glyph)
            if facts.stroke is not None:
                strokes.append((facts.stroke.width / cap, letter))
            if facts.gap is not None:
                gaps.append((facts.gap.width / cap, letter))
    thinnest, thinnest_in = min(strokes, default=(0.0, ""))
    # Alike to a thousandth is alike: of two such the first is named.
    narrowest, narrowest_in = min(gaps, key=lambda gap: (round(gap[0], 3), gap[1]), default=(0.0, ""))
    return TypefaceFacts(
        fingerprint=typeface.fingerprint,
        cap_height_upem=round(cap, 3),
        units_per_em=typeface.units_per_em,
        thinnest=round(thinnest, 4),
        thinnest_in=thinnest_in,
        narrowest=round(narrowest, 4),
        narrowest_in=narrowest_in,
        characters=len(typeface.characters),
        scripts=tuple(has),
        joins=typeface.hand_joins,
        small_capitals=typeface.has_feature("smcp"),
    )


def _has(typeface: Typeface, text: str) -> bool:
    return sum(ord(c) in typeface.characters for c in text) >= 0.8 * len(text)


def _letters_of(typeface: Typeface, script: str) -> str:
    """Letters that stand for a script of which no usual sample is known."""
    letters = [
        chr(c)
        for c in sorted(typeface.characters)
        if unicodedata.category(chr(c)) in ("Lo", "Lu", "Ll")
        and unicodedata.script(chr(c)) in (script, "Zyyy")
    ]
    return "".join(letters[:: max(1, len(letters) // _MOST_SAMPLED)])


#: So many letters stand for a script.
_MOST_SAMPLED = 60
