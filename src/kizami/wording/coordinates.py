"""Coordinates of a place: read in the forms that people send, written in one.

ISO 6709 (from memory of it) gives latitude first, north and east positive, 90 and 180 degrees at
most. What could be read in two ways is left to a person: an O is the west of four languages and the
east of three.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from types import MappingProxyType

__all__ = ["CoordinatesReading", "Position", "read_coordinates", "write_coordinates"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Position:
    """Degrees; north and east positive."""

    latitude_deg: float
    longitude_deg: float


@dataclass(frozen=True, kw_only=True, slots=True)
class CoordinatesReading:
    """Where a text may point to.

    Attributes
    ----------
    positions : the likeliest first; one only where there is no doubt
    question : what leaves it open, or ""
    """

    positions: tuple[Position, ...]
    question: str = ""

    @property
    def position(self) -> Position | None:
        """The only reading, or None."""
        return self.positions[0] if len(self.positions) == 1 and not self.question else None


#: Words for the directions and the axes, turned to marks: “<N>” is north whatever the language.
_WORDS = (
    # The longest first. Czech šířka is latitude: “s. š.” is north.
    (r"n(?:ördl(?:iche[rn]?|\.)?|\.)\s*br(?:eite|\.)|s\.\s?š\.|\bN\.?B\b\.?|nordlig bredd|szer\.?\s*geogr\.?\s*p[łn]n?\.?|北[緯纬]", "<N>"),
    (r"s(?:üdl(?:iche[rn]?|\.)?|\.)\s*br(?:eite|\.)|j\.\s?š\.|\bZ\.?B\b\.?|sydlig bredd|szer\.?\s*geogr\.?\s*p[dł]d?\.?|南[緯纬]", "<S>"),
    (r"(?:ö(?:stl(?:iche[rn]?|\.)?|\.)|o\.)\s*l(?:änge|\.)|v\.\s?d\.|\bO\.?L\b\.?|ostlig längd|dł\.?\s*geogr\.?\s*wsch\.?|[東东][経经經]", "<E>"),
    (r"w(?:estl(?:iche[rn]?|\.)?|\.)\s*l(?:änge|\.)|z\.\s?d\.|\bW\.?L\b\.?|västlig längd|dł\.?\s*geogr\.?\s*zach\.?|西[経经經]", "<W>"),
    (r"\b(?:latitude|latitud|latitudine|lat|breitengrad|breite|breedtegraad|szerokość|šířka|enlem)\b\.?|[緯纬]度", "<lat>"),
    (r"\b(?:longitude|longitud|longitudine|long|lon|lng|längengrad|länge|lengtegraad|długość|délka|boylam)\b\.?|[経经經]度",
     "<lon>"),
    (r"\b(?:north|nord|norte|noord|północ|sever|norr|kuzey)\b", "<N>"),
    (r"\b(?:south|süd|sud|sur|sul|zuid|południe|jih|söder|syd|güney)\b", "<S>"),
    (r"\b(?:east|ost|est|este|leste|oost|wschód|východ|öster|öst|doğu)\b", "<E>"),
    (r"\b(?:west|ouest|ovest|oeste|zachód|západ|väster|väst|batı)\b", "<W>"),
    (r"(?<=[\d\s])(?:degrees?|deg|grad|gradi|grados|graus|degrés?|graden|stopni|stupňů|grader|derece)\b\.?|[º˚度]", "°"),
    (r"(?<=[\d\s])(?:minutes?|mins?|minuten|minuti|minutos|minut|dakika)\b\.?|[′’´`分]", "'"),
    (r"(?<=[\d\s])(?:seconds?|secs?|sekunden|secondi|segundos|secondes|sekund|saniye)\b\.?|[″”“秒]|''", '"'),
    (r"(?<=\d)\s?d\s?(?=\d)", "°"),
    (r"(?<=\d)\s?m\s?(?=\d)", "'"),
)  # fmt: skip
_TURNED = tuple((re.compile(pattern, re.I), mark) for pattern, mark in _WORDS)

#: Letters of the directions as the languages have them, where they are not N, S, E and W.
_LETTERS = MappingProxyType({
    "de": {"O": "E"}, "nl": {"O": "E", "Z": "S"}, "sv": {"O": "E", "Ö": "E", "V": "W"},
    "fr": {"O": "W"}, "es": {"O": "W"}, "it": {"O": "W"}, "pt": {"O": "W", "L": "E"},
    "cs": {"J": "S", "V": "E", "Z": "W"}, "tr": {"K": "N", "G": "S", "D": "E", "B": "W"},
})  # fmt: skip
_EVERYWHERE = {"N": "N", "S": "S", "E": "E", "W": "W"}
#: In Czech S is north, beside a letter that is Czech too.
_CZECH_NORTH = {"S": "N"}

_NUMBER = r"\d{1,3}(?:[.,]\d+)?"
_SIDE = r"<(?:N|S|E|W)>|(?<![A-Za-zÀ-ž])[NSEWOÖVJZLKGDB](?![A-Za-zÀ-ž])"
_PART = re.compile(
    rf"""(?P<before>{_SIDE})?\s*[:=]?\s*(?P<axis><lat>|<lon>)?\s*(?P<also>{_SIDE})?\s*[:=]?\s*(?P<sign>[-+−–])?\s*
         (?P<deg>{_NUMBER})\s*(?P<mark>°)?\s*
         (?:(?P<min>\d{{1,2}}(?:[.,]\d+)?)\s*'\s*(?:(?P<sec>\d{{1,2}}(?:[.,]\d+)?)\s*"?\s*)?)?
         (?P<axis2><lat>|<lon>)?\s*(?P<after>{_SIDE})?""",
    re.X,
)
#: Degrees, minutes and seconds with nothing but spaces, dashes or colons between them, and a side.
_BARE = re.compile(
    rf"(?P<before>{_SIDE})?\s*(?P<sign>[-+−–])?(?P<deg>\d{{1,3}})\s*°?\s*[\s:-]\s*(?P<min>\d{{1,2}}(?:[.,]\d+)?)"
    rf"(?:\s*'?\s*[\s:-]\s*(?P<sec>\d{{1,2}}(?:[.,]\d+)?))?\s*[\"']?\s*(?P<after>{_SIDE})?"
)
#: ISO 6709, annex H, and its compact forms: +40-075/, +401213.1-0750015.1/.
_COMPACT = re.compile(
    r"([+-])(\d{2})(\d{2})?(\d{2})?(\.\d+)?([+-])(\d{3})(\d{2})?(\d{2})?(\.\d+)?(?:[+-][\d.]+)?(?:CRS\w+)?/?"
)
_AVIATION = re.compile(r"(\d{2})(\d{2})(\d{2})?(\.\d+)?\s*([NS])\s*(\d{3})(\d{2})(\d{2})?(\.\d+)?\s*([EW])")


@dataclass(frozen=True, kw_only=True, slots=True)
class _Half:
    """One of the two numbers of a place."""

    degrees: float
    sign: str
    side: str
    axis: str


def read_coordinates(text: str, *, language: str = "") -> CoordinatesReading:
    """Read a position.

    Parameters
    ----------
    language : that of the list, two letters, which decides what an O or a V means; "" where it is not known

    >>> read_coordinates("54.7753 N, 1.5849 W").position
    Position(latitude_deg=54.7753, longitude_deg=-1.5849)
    >>> read_coordinates("35°41′22″N 139°41′30″E").position
    Position(latitude_deg=35.689444, longitude_deg=139.691667)
    >>> [p.longitude_deg for p in read_coordinates("48,2 N 16,4 O").positions]
    [16.4, -16.4]
    >>> read_coordinates("48,2 N 16,4 O", language="de").position.longitude_deg
    16.4
    >>> read_coordinates("").position is None
    True
    """
    shown = f"“{text[:40]}”"
    written = _written(text)
    halves = _compact(written) or _halves(written)
    if halves is None:
        return CoordinatesReading(
            positions=(), question=f"{shown} can't be read as a place; write it as 54.7753 N, 1.5849 W."
        )
    readings = list(_readings(halves, language))
    if not readings:
        return CoordinatesReading(
            positions=(), question=f"{shown} does not say which part is north or south."
        )
    inside = [p for p in readings if abs(p.latitude_deg) <= 90 and abs(p.longitude_deg) <= 180]
    found = tuple(dict.fromkeys(inside))
    if found:
        return CoordinatesReading(positions=found, question=_why(halves) if len(found) > 1 else "")
    said = f"{shown} lies outside the globe: 90 degrees north or south, 180 east or west."
    turned = [
        Position(latitude_deg=p.longitude_deg, longitude_deg=p.latitude_deg)
        for p in readings
        if abs(p.longitude_deg) <= 90
        and abs(p.latitude_deg) <= 180
        and not any(h.side or h.axis for h in halves)
    ]
    return CoordinatesReading(
        positions=tuple(turned),
        question=f"{said} Were its parts swapped?" if turned else said,
    )


def _why(halves: tuple[_Half, _Half]) -> str:
    letters = [half.side for half in halves if half.side not in _EVERYWHERE.values() and half.side]
    if letters:
        named = " and ".join(f"“{letter}”" for letter in dict.fromkeys(letters))
        return f"{named} {'means' if len(letters) == 1 else 'mean'} different sides in different languages"
    return "its sign and its letter do not agree"


def _written(text: str) -> str:
    """With plain marks for words, signs and letters, in capitals, and a point in every decimal number."""
    plain = unicodedata.normalize(
        "NFKC", text.replace("´", "'").replace("º", "°").replace("˚", "°").replace("″", '"')
    )
    plain = re.sub(
        r"^\s*(?:geo:|gps:?|coordinates?:?|koordinaten:?|coordonnées\s*:?|coordenadas:?)\s*",
        "",
        plain,
        flags=re.I,
    )
    plain = plain.replace("、", ",").strip().strip("()[]{}").strip()
    for pattern, mark in _TURNED:
        plain = pattern.sub(mark, plain)
    plain = re.sub(r"<(?:lat|lon)>|.", lambda m: m[0] if m[0][0] == "<" else m[0].upper(), plain, flags=re.S)
    # A seconds' s can't be told from a south's before this: it stands right behind a number and minutes.
    plain = re.sub(r"(?<='\d\d)S(?=[\sNSEWO,;/]|$)(?=\s*[NSEWO<])", '"', plain)
    return _points(plain)


def _points(text: str) -> str:
    """Decimal commas become points: where no point is about, and a comma stands between digits without a space."""
    if re.search(r"\d\.\d", text):
        return text
    commas = re.findall(r"(?<=\d),(?=\d)", text)
    alone = re.fullmatch(r"\s*[-+−–]?\d+,[-+−–]?\d+\s*", text)
    if not commas or alone:
        return text
    if len(commas) == 3 and re.fullmatch(r"[^\s]+", text):
        whole = re.fullmatch(r"(.*?\d),(\d+\D*?),(\D*?\d+),(\d.*)", text)
        return f"{whole[1]}.{whole[2]} {whole[3]}.{whole[4]}" if whole else text
    return re.sub(r"(?<=\d),(?=\d)", ".", text)


def _compact(text: str) -> tuple[_Half, _Half] | None:
    """Figures that are told by their number alone."""
    match = _COMPACT.fullmatch(text.replace(" ", ""))
    if match:
        one, other = match.groups()[:5], match.groups()[5:10]
        return (
            _Half(degrees=_figures(*one[1:]), sign=one[0], side="", axis="lat"),
            _Half(degrees=_figures(*other[1:]), sign=other[0], side="", axis="lon"),
        )
    match = _AVIATION.fullmatch(text)
    if match:
        one, other = match.groups()[:4], match.groups()[5:9]
        return (
            _Half(degrees=_figures(*one), sign="", side=match[5], axis=""),
            _Half(degrees=_figures(*other), sign="", side=match[10], axis=""),
        )
    return None


def _figures(degrees: str, minutes: str | None, seconds: str | None, rest: str | None) -> float:
    """Degrees of figures whose last one may have decimals."""
    parts = [part for part in (degrees, minutes, seconds) if part]
    values = [*map(float, parts[:-1]), float(parts[-1] + (rest or ""))]
    return sum(value / 60.0**n for n, value in enumerate(values))


def _halves(text: str) -> tuple[_Half, _Half] | None:
    """The two numbers of a place, or None where there are not just two."""
    for pattern in (_PART, _BARE):
        for pieces in _splits(text):
            found = [_half(pattern, piece) for piece in pieces]
            if len(found) == 2 and found[0] is not None and found[1] is not None:
                return found[0], found[1]
    return None


def _splits(text: str) -> Iterator[tuple[str, str]]:
    """Ways of parting a text in two: at what parts, else behind or before each side."""
    for separator in (r"\s*[;|]\s*", r"\s*,\s*", r"\s*/\s*", r"\s+·\s+"):
        parts = re.split(separator, text)
        if len(parts) == 2:
            yield parts[0], parts[1]
            return
    sides = list(re.finditer(_SIDE, text))
    if len(sides) == 2:
        if sides[0].start() == 0 or not re.search(r"\d", text[: sides[0].start()]):
            yield text[: sides[1].start()], text[sides[1].start() :]
        else:
            yield text[: sides[0].end()], text[sides[0].end() :]
    axes = list(re.finditer(r"<(?:lat|lon)>", text))
    if len(axes) == 2:
        yield text[: axes[1].start()], text[axes[1].start() :]
    if len(sides) == 0 and not axes:
        spaces = list(re.finditer(r"\s+", text))
        signed = [m for m in spaces if re.match(r"[-+−–]", text[m.end() :])]
        for space in signed if len(signed) == 1 else spaces if len(spaces) == 1 else ():
            yield text[: space.start()], text[space.end() :]
        degrees = [m.start() for m in re.finditer(rf"[-+−–]?{_NUMBER}\s*°", text)]
        if len(degrees) == 2:
            yield text[: degrees[1]], text[degrees[1] :]


def _half(pattern: re.Pattern[str], text: str) -> _Half | None:
    match = pattern.fullmatch(text.strip(" ,;/|·"))
    if match is None:
        return None
    named = match.groupdict()
    given = [named.get(key) for key in ("before", "also", "after") if named.get(key)]
    degrees, minutes, seconds = (
        float((named.get(key) or "0").replace(",", ".")) for key in ("deg", "min", "sec")
    )
    if minutes >= 60 or seconds >= 60 or len(set(given)) > 1:
        return None
    if named.get("min") and "." in (named["deg"] or ""):
        return None
    return _Half(
        degrees=degrees + minutes / 60.0 + seconds / 3600.0,
        sign=(named.get("sign") or "").replace("−", "-").replace("–", "-"),
        side=(given[0] or "").strip("<>") if given else "",
        axis=(named.get("axis") or named.get("axis2") or "").strip("<>"),
    )


def _readings(halves: tuple[_Half, _Half], language: str) -> Iterator[Position]:
    """Every position that two numbers may mean, the likeliest first."""
    sides = {half.side for half in halves}
    if language in _LETTERS:
        systems = [_LETTERS[language]]
    elif sides <= set(_EVERYWHERE) | {""}:
        systems = [{}]
    else:
        systems = list(_LETTERS.values())
    if "S" in sides and sides & {"V", "Z"} and language in ("", "cs"):
        others = [letters for name, letters in _LETTERS.items() if name != "cs" and not language]
        systems = [{**_LETTERS["cs"], **_CZECH_NORTH}, *others]
    for letters in systems:
        yield from _as_lettered(halves, {**_EVERYWHERE, **letters})


def _as_lettered(halves: tuple[_Half, _Half], letters: dict[str, str]) -> Iterator[Position]:
    if any(half.side and half.side not in letters for half in halves):
        return
    sides = [letters.get(half.side, "") for half in halves]
    axes = [
        half.axis or {"N": "lat", "S": "lat", "E": "lon", "W": "lon"}.get(side, "")
        for half, side in zip(halves, sides, strict=True)
    ]
    if axes not in (["lat", "lon"], ["lon", "lat"], ["", ""]):
        return
    choices = [_signed(half, side) for half, side in zip(halves, sides, strict=True)]
    for one in choices[0]:
        for other in choices[1]:
            latitude, longitude = (other, one) if axes[0] == "lon" else (one, other)
            yield Position(latitude_deg=round(latitude, 6), longitude_deg=round(longitude, 6))


def _signed(half: _Half, side: str) -> tuple[float, ...]:
    """What a number may be: where its letter and its sign do not agree, either."""
    if side in ("N", "E") and half.sign == "-":
        return half.degrees, -half.degrees
    if side in ("S", "W") or half.sign == "-":
        return (-half.degrees,)
    return (half.degrees,)


def write_coordinates(position: Position, *, decimals: int | None = 4) -> str:
    """Write a position in degrees, or with None in degrees, minutes and seconds.

    >>> write_coordinates(Position(latitude_deg=54.77532, longitude_deg=-1.5849))
    '54.7753° N 1.5849° W'
    >>> write_coordinates(Position(latitude_deg=35.689444, longitude_deg=139.691667), decimals=None)
    '35°41′22″N 139°41′30″E'
    """
    sides = ("N" if position.latitude_deg >= 0 else "S", "E" if position.longitude_deg >= 0 else "W")
    values = (abs(position.latitude_deg), abs(position.longitude_deg))
    if decimals is not None:
        return " ".join(f"{value:.{decimals}f}° {side}" for value, side in zip(values, sides, strict=True))
    return " ".join(f"{_sexagesimal(value)}{side}" for value, side in zip(values, sides, strict=True))


def _sexagesimal(value: float) -> str:
    seconds = round(value * 3600)
    return f"{seconds // 3600}°{seconds % 3600 // 60:02d}′{seconds % 60:02d}″"
