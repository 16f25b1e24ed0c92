"""In which encoding a file was written, by how well its words read in each.

A byte order mark or strict UTF-8 settles it. Of the older encodings every one that can be is tried on all lines
that are not plain ASCII, and what it costs to write the words so read is weighed: pairs of letters that real
names and headings have are cheap, pairs that none has are dear (minimum description length, J. Rissanen 1978).
Where the two cheapest read differently and are near each other, only a person can say.
"""

from __future__ import annotations

import itertools
import math
import re
import unicodedata
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from types import MappingProxyType

from kizami.wording.headings import HEADINGS, KEPT, fold_heading

__all__ = ["ENCODINGS", "Letters", "OlderReading", "examples_in", "older_reading"]

#: Encodings that the desk can choose by hand: our name, Python's name.
ENCODINGS: Mapping[str, str] = MappingProxyType(
    {
        "UTF-8": "utf-8-sig",
        "UTF-16": "utf-16",
        "Windows-1252": "cp1252",
        "Windows-1250": "cp1250",
        "Windows-1251": "cp1251",
        "Windows-1253": "cp1253",
        "Windows-1254": "cp1254",
        "Windows-1257": "cp1257",
        "Mac Roman": "mac_roman",
        "ISO 8859-2": "iso8859_2",
        "ISO 8859-5": "iso8859_5",
        "ISO 8859-7": "iso8859_7",
        "ISO 8859-9": "iso8859_9",
        "ISO 8859-15": "iso8859_15",
        "Shift-JIS": "cp932",
        "EUC-JP": "euc_jp",
        "GBK": "gb18030",
        "Big5": "big5",
        "EUC-KR": "euc_kr",
    }
)
_OLDER = tuple(name for name in ENCODINGS if not name.startswith("UTF"))
#: The dearest that is left of a reading, bits.
_UNKNOWN_BITS, _CONTROL_BITS, _SIGN_BITS, _CAPITAL_BITS = 24.0, 60.0, 22.0, 9.0
#: Readings nearer than this, in bits for all words together, are both possible.
_NEAR_BITS, _NEAR_SIGNS_BITS = 7.0, 30.0
#: With one or two different words little is told, and more is asked of it.
_FEW_BITS: Mapping[int, float] = MappingProxyType({1: 14.0, 2: 10.0})
#: How seldom lists come in them, all others still more so (common practice, no source).
_SELDOM_BITS: Mapping[str, float] = MappingProxyType(
    {
        "Windows-1252": 0.0, "Windows-1250": 2.0, "Windows-1251": 2.0, "Windows-1253": 3.0, "Windows-1254": 3.0,
        "Windows-1257": 4.0, "Shift-JIS": 2.0, "GBK": 3.0, "Big5": 3.0, "EUC-KR": 3.0,
    }
)  # fmt: skip
#: A heading that reads as one is no chance.
_HEADING_BITS = 20.0
#: So many different words tell.
_MOST_WORDS = 400
_WORD = re.compile(r"[^\W\d_]+(?:['’][^\W\d_]+)*")


@dataclass(frozen=True, kw_only=True, slots=True)
class Letters:
    """How pairs of letters are spread over real names: bits that each costs."""

    pairs: Mapping[tuple[str, str], int]
    before: Mapping[str, int]
    single: Mapping[str, int]
    total: int

    def share(self, last: str, letter: str) -> float:
        """How often a letter follows another."""
        alone = (self.single.get(letter, 0) + 0.02) / (self.total + 0.02 * 65_536)
        known = self.before.get(last, 0)
        pair = self.pairs.get((last, letter), 0) / known if known else 0.0
        weight = known / (known + 12.0)
        return weight * pair + (1.0 - weight * 0.9) * alone

    def bits(self, word: str, own: Letters | None = None) -> float:
        """What a word costs, small and capital letters alike; `own` are those of the encoding's languages."""
        cost, last = 0.0, "^"
        for letter in (*_folded(word), "$"):
            count = self.single.get(letter, 0)
            if "\u3040" < letter <= "\u30ff":
                # Any of some eighty Japanese syllables may follow any.
                cost, last = cost + _SYLLABLE_BITS, letter
                continue
            if not count and letter > "\u3400":
                # Of signs by the thousand no list of names has all.
                cost, last = cost + _COMMON_BITS, letter
                continue
            share = self.share(last, letter)
            if own is not None:
                share = (1.0 - _OWN_SHARE) * share + _OWN_SHARE * own.share(last, letter)
            cost -= math.log2(share)
            last = letter
        return min(cost, _UNKNOWN_BITS * (len(word) + 1))


def _folded(word: str) -> str:
    """Small letters; the Turkish İ becomes two of them otherwise."""
    return word.replace("İ", "i").lower()


#: The languages of an encoding: lists in it hold their names, and others now and then.
_GROUP: Mapping[str, str] = MappingProxyType(
    {
        "Windows-1252": "western", "Mac Roman": "western", "ISO 8859-15": "western", "Windows-1250": "central",
        "ISO 8859-2": "central", "Windows-1254": "turkish", "ISO 8859-9": "turkish", "Windows-1257": "baltic",
    }
)  # fmt: skip
#: How much of what is likely comes from the languages of an encoding, the rest from all.
_OWN_SHARE = 0.5


@cache
def _letters(group: str = "") -> Letters:
    """Of all languages, or of a group.

    From names of an open dataset (see the licence beside it) and the headings of lists.
    """
    groups = (files("kizami") / "data" / "lettered-names.txt").read_text("utf-8").split("# ")
    if group:
        return _counted(next(names for names in groups if names.startswith(f"{group}\n")))
    plain = (files("kizami") / "data" / "forecast-names.txt").read_text("utf-8")
    return _counted("\n".join((*groups, plain, *HEADINGS, *KEPT)))


def _counted(text: str) -> Letters:
    pairs: Counter[tuple[str, str]] = Counter()
    for word in _WORD.findall(_folded(text)):
        pairs.update(zip(f"^{word}", f"{word}$", strict=True))
    before: Counter[str] = Counter()
    single: Counter[str] = Counter()
    for (one, other), count in pairs.items():
        before[one] += count
        single[other] += count
    return Letters(pairs=pairs, before=before, single=single, total=single.total())


@dataclass(frozen=True, kw_only=True, slots=True)
class OlderReading:
    """How a file in an older encoding is read.

    Attributes
    ----------
    name : of the encoding, see `ENCODINGS`
    text : the file so read
    rival : another encoding in which it may be as well, or ""
    rival_text : the file read in that one
    """

    name: str
    text: str
    rival: str = ""
    rival_text: str = ""


def older_reading(data: bytes) -> OlderReading | None:
    """The likeliest older encoding of bytes that are no UTF-8; None where none can be."""
    telling = b"\n".join(dict.fromkeys(line for line in data.splitlines() if not line.isascii()))[:200_000]
    costs: list[tuple[float, int, str]] = []
    read: dict[str, str] = {}
    seen: dict[str, str] = {}
    for rank, name in enumerate(_OLDER):
        try:
            text = telling.decode(ENCODINGS[name])
        except UnicodeDecodeError:
            continue
        # Encodings that read it alike are one reading, of which the first is named.
        if text not in seen:
            seen[text] = name
            read[name] = text
            costs.append((_cost(text, name) + _SELDOM_BITS.get(name, 6.0), rank, name))
    costs.sort()
    for at, (cost, _, name) in enumerate(costs):
        whole = _decoded(data, name)
        if whole is None:
            continue
        few = _FEW_BITS.get(len(set(_CHUNK.findall(read[name]))), 0.0)
        rivals = (
            (n, _decoded(data, n)) for c, _, n in costs[at + 1 :] if c - cost < max(few, _near(name, n))
        )
        for rival, other in rivals:
            if other is not None and other != whole:
                return OlderReading(name=name, text=whole, rival=rival, rival_text=other)
        return OlderReading(name=name, text=whole)
    return None


def _near(name: str, other: str) -> float:
    """Signs of many thousands are told less surely than letters."""
    many = ENCODINGS[name] in _COMMON and ENCODINGS[other] in _COMMON
    return _NEAR_SIGNS_BITS if many else _NEAR_BITS


def _decoded(data: bytes, name: str) -> str | None:
    try:
        return data.decode(ENCODINGS[name])
    except UnicodeDecodeError:
        return None


def _cost(text: str, name: str) -> float:
    """Bits of all that is not plain, every different piece of writing once."""
    letters, codec = _letters(), ENCODINGS[name]
    own = _letters(_GROUP[name]) if name in _GROUP else None
    chunks = list(dict.fromkeys(_CHUNK.findall(text)))[:_MOST_WORDS]
    cells = {fold_heading(cell) for line in text.splitlines()[:3] for cell in re.split(r"[,;|\t]", line)}
    cost = -_HEADING_BITS * sum(cell in HEADINGS for cell in cells if not cell.isascii())
    for chunk in chunks:
        # A size of seven and a half is no word.
        words, fractions = _FRACTION.subn("", chunk)
        cost += _FRACTION_BITS * fractions
        for word in _WORD.findall(words):
            cost += (
                letters.bits(word, own)
                + _CAPITAL_BITS * _misplaced(word)
                + _mixed(word)
                + _rare(word, letters, codec)
            )
        for sign in _SIGN.findall(words):
            category = unicodedata.category(sign)
            if sign in "\u3000・ー々、。「」（）～−" or category[0] == "M":
                cost += 3.0
            else:
                cost += _CONTROL_BITS if category in ("Cc", "Cn", "Co") else _SIGN_BITS
    return cost


_CHUNK = re.compile(r"[^\s,;|]*[^\x00-\x7f][^\s,;|]*")
_FRACTION, _FRACTION_BITS = re.compile(r"(?<![^\W\d_])[½¼¾](?![^\W\d_])"), 3.0
_SIGN = re.compile(r"[^\x00-\x7f\w]|[^\W\x00-\x7f\D]|(?<=[^\W\d_])[!?#$%^*+=<>~@{}\[\]\\](?=[^\W\d_])")
#: First bytes of the signs in common use (the first levels of GB 2312, JIS X 0208, Big5 and KS X 1001).
_COMMON: Mapping[str, tuple[int, int]] = MappingProxyType(
    {
        "gb18030": (0xB0, 0xD7),
        "euc_jp": (0xB0, 0xCF),
        "cp932": (0x88, 0x98),
        "big5": (0xA4, 0xC6),
        "euc_kr": (0xB0, 0xC8),
    }
)
#: What a sign costs that no name of ours has: in common use, or not.
_COMMON_BITS, _RARE_BITS = 13.0, 22.0
_SYLLABLE_BITS = 6.5


def _rare(word: str, letters: Letters, codec: str) -> float:
    """What signs cost of scripts that have thousands, besides the pairs that they form."""
    span = _COMMON.get(codec)
    if span is None:
        return 0.0
    cost = 0.0
    for sign in word:
        if sign < "\u3400" or sign in letters.single:
            continue
        first = sign.encode(codec, "replace")[0]
        cost += 0.0 if span[0] <= first <= span[1] else _RARE_BITS - _COMMON_BITS
    return cost


def _misplaced(word: str) -> int:
    """Capitals behind small letters, as wrong readings have them."""
    return sum(
        a.islower() and b.isupper() and not (a.isascii() and b.isascii()) for a, b in itertools.pairwise(word)
    )


def _mixed(word: str) -> float:
    """Scripts that no word mixes."""
    scripts = {unicodedata.name(letter, "?").split()[0].split("-")[0] for letter in word if letter.isalpha()}
    japanese = {"CJK", "HIRAGANA", "KATAKANA"}
    if "HALFWIDTH" in scripts:
        return _SIGN_BITS * len(word)
    return 0.0 if len(scripts) < 2 or scripts <= japanese else _SIGN_BITS * (len(scripts) - 1)


#: What stands between the marks that part cells and words, as far as bytes tell.
_BYTES_OF_WORDS = re.compile(rb"[^\x00-\x2c\x2f\x3a-\x3f]+")
#: So much of a file is looked at for examples, and so many of them are shown.
_EXAMPLE_BYTES, _MOST_EXAMPLES = 200_000, 3


def examples_in(data: bytes) -> dict[str, str]:
    """Some words of a file as they read in each encoding that it could be in; empty for a workbook.

    >>> examples_in("Name\\nJürgen".encode("cp1252"))["Windows-1252"]
    'Jürgen'
    >>> examples_in(b"PK\\x03\\x04"), examples_in(b"Ana")["UTF-8"]
    ({}, '')
    """
    if data[:4] == b"PK\x03\x04":
        return {}
    marked = data[:2] in (b"\xff\xfe", b"\xfe\xff")
    found_words = dict.fromkeys(_BYTES_OF_WORDS.findall(data[:_EXAMPLE_BYTES]))
    words = [word for word in found_words if not word.isascii()]
    words.sort(key=lambda word: -sum(byte > 0x7F for byte in word[:30]))
    found = {}
    for name, codec in ENCODINGS.items():
        if (name == "UTF-16") != marked:
            continue
        try:
            parts = [word.decode(codec, "replace" if name == "UTF-8" else "strict") for word in words]
        except UnicodeDecodeError:
            continue
        found[name] = "" if marked else " · ".join(part.strip()[:24] for part in parts[:_MOST_EXAMPLES])
    return found
