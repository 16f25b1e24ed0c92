"""What is measured of a typeface once and for all: how fine it is, what it has, whether it joins."""

from __future__ import annotations

import math
import string
import time
from collections import Counter
from dataclasses import asdict, dataclass
from typing import Any

from fontTools import unicodedata
from uniseg.graphemecluster import grapheme_clusters

from kizami.lettering.typeface import Typeface
from kizami.processes import Limits

__all__ = ["TypefaceFacts", "WordsHold", "measure_typeface", "measured_within", "words_hold"]

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
        return _lowest_mm(self.thinnest, self.narrowest, limits, engraved=engraved)

    def to_table(self) -> dict[str, Any]:
        """As plain data."""
        return {**asdict(self), "scripts": list(self.scripts)}

    @classmethod
    def from_table(cls, table: dict[str, Any]) -> TypefaceFacts:
        """Back from plain data."""
        return cls(**{**table, "scripts": tuple(table["scripts"])})


@dataclass(frozen=True, kw_only=True, slots=True)
class WordsHold:
    """From which height words hold in a typeface.

    Attributes
    ----------
    missing : characters that it has not, each once
    stroke, gap : thinnest stroke and narrowest opening of any of its letters, as shares of the cap height; 0
        where there is none
    stroke_in, gap_in : in which letter they are
    """

    missing: str
    stroke: float
    stroke_in: str
    gap: float
    gap_in: str

    def lowest_height_mm(self, limits: Limits, *, engraved: bool) -> float:
        """The lowest cap height at which every letter of them holds in a process, letter by letter."""
        return _lowest_mm(self.stroke, self.gap, limits, engraved=engraved)


def _lowest_mm(stroke: float, gap: float, limits: Limits, *, engraved: bool) -> float:
    """Where a stroke and a gap, as shares of the cap height, both hold; 0 for one that there is not."""
    by_stroke = limits.of("stroke-width", sunk=engraved) / stroke if stroke else 0.0
    by_gap = limits.of("gap-width") / gap if gap else 0.0
    return max(by_stroke, by_gap)


def words_hold(text: str, typeface: Typeface) -> WordsHold:
    """Measure the very letters of some words; what letters do to each other is not among it."""
    missing, strokes, gaps = [], [], []
    cap = typeface.cap_height_upem
    for letter in dict.fromkeys(grapheme_clusters(text)):
        if not letter.strip():
            continue
        if any(ord(c) not in typeface.characters and not unicodedata.combining(c) for c in letter):
            missing.append(letter)
            continue
        for glyph in typeface.shape(letter):
            facts = typeface.facts(glyph.glyph)
            if facts.stroke is not None:
                strokes.append((facts.stroke.width / cap, letter))
            if facts.gap is not None:
                gaps.append((facts.gap.width / cap, letter))
    stroke, stroke_in = min(strokes, default=(0.0, ""))
    gap, gap_in = min(gaps, default=(0.0, ""))
    return WordsHold(missing="".join(missing), stroke=stroke, stroke_in=stroke_in, gap=gap, gap_in=gap_in)


def measure_typeface(typeface: Typeface) -> TypefaceFacts:
    """Measure the letters of the first script that a typeface is made for."""
    return measured_within(typeface, seconds=math.inf)[0]


def measured_within(typeface: Typeface, *, seconds: float) -> tuple[TypefaceFacts, str]:
    """Measure letters of the first script that a typeface is made for, as many as there is time for.

    Parameters
    ----------
    seconds : after which no further letter is begun; one is always measured

    Returns
    -------
    the facts, and the letters of the sample that were not measured: small ones, capitals and figures are
    measured by turns, so that some of each are known
    """
    scripts = Counter(
        s for c in typeface.characters if (s := unicodedata.script(chr(c))) not in ("Zyyy", "Zinh", "Zzzz")
    )
    has = [s for s, count in scripts.most_common() if count >= 20]
    sample = next((text for s, text in _SAMPLES.items() if s in has and _has(typeface, text)), "")
    sample = sample or _letters_of(typeface, scripts.most_common(1)[0][0] if scripts else "")
    strokes: list[tuple[float, str]] = []
    gaps: list[tuple[float, str]] = []
    cap = typeface.cap_height_upem
    by_turns = "".join(sample[start::_TURNS] for start in range(_TURNS))
    until, left = time.monotonic() + seconds, ""
    for place, letter in enumerate(by_turns):
        if place and time.monotonic() >= until:
            left = by_turns[place:]
            break
        for glyph in typeface.shape(letter):
            found = typeface.facts(glyph.glyph)
            if found.stroke is not None:
                strokes.append((found.stroke.width / cap, letter))
            if found.gap is not None:
                gaps.append((found.gap.width / cap, letter))
    thinnest, thinnest_in = min(strokes, default=(0.0, ""))
    # Alike to a thousandth is alike: of two such the first is named.
    narrowest, narrowest_in = min(gaps, key=lambda gap: (round(gap[0], 3), gap[1]), default=(0.0, ""))
    facts = TypefaceFacts(
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
    return facts, left


#: Every so many-th letter of a sample is measured first.
_TURNS = 7


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
