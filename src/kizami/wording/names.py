"""Names: which part is the family's, and the initials that follow from it.

Rules of the trade, common practice, no source: honorifics and suffixes carry no initial, particles
(van, de, bin) neither, a hyphen joins two names that each have one. The family name comes last
unless the script or the desk says otherwise. A letter is a grapheme cluster (Unicode Standard
Annex 29), so that an accent or a Hangul syllable is never torn apart.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import regex

__all__ = [
    "GRAPHEME",
    "FamilyPlace",
    "NameParts",
    "Readings",
    "has_letter",
    "is_east_asian",
    "read_name",
    "split_name",
]


class FamilyPlace(Enum):
    """Where the family name stands; `BY_SCRIPT` puts it first for Chinese, Japanese and Korean."""

    LAST = "last"
    FIRST = "first"
    BY_SCRIPT = "by script"


@dataclass(frozen=True, kw_only=True, slots=True)
class NameParts:
    """A name taken apart.

    Attributes
    ----------
    given : given names in order
    family : family names in order; empty for a single name
    left_out : honorifics, suffixes and particles, which carry no initial
    """

    given: tuple[str, ...]
    family: tuple[str, ...]
    left_out: tuple[str, ...]


_HONORIFICS = {
    "mr", "mrs", "ms", "miss", "mx", "dr", "prof", "professor", "sir", "dame", "lord", "lady", "rev", "capt", "captain",
    "m", "sr", "fr", "herr", "frau", "hr", "med", "ing", "dipl", "mag", "mme", "mlle", "monsieur", "madame",
    "mademoiselle", "signor", "signora", "sig", "dott", "señor", "señora", "señorita", "sra", "srta", "doña", "senhor",
    "senhora", "dhr", "mevr", "mw", "pan", "pani", "paní", "bay", "bayan", "fru", "fröken",
}  # fmt: skip
#: Honorifics that are also a name, an initial or a suffix count as such only with a full stop.
_ONLY_WITH_STOP = {"m", "sr", "fr", "hr", "med", "ing", "dipl", "mag", "sig", "mw", "pan", "bay"}
_SUFFIXES = {
    "jr",
    "jnr",
    "sr",
    "snr",
    "ii",
    "iii",
    "iv",
    "phd",
    "md",
    "esq",
    "obe",
    "mbe",
    "cbe",
    "dds",
    "rn",
    "jun",
    "sen",
}
#: Letters after a name that are also names count as such only in capitals or with stops.
_ONLY_SHOUTED = {"md", "rn", "dds", "iv", "ii", "iii", "obe", "mbe", "cbe", "sen", "jun"}
_PARTICLES = {
    "van", "von", "vom", "der", "den", "de", "des", "del", "della", "delle", "degli", "dei", "di", "da", "do", "dos",
    "das", "du", "la", "le", "les", "lo", "las", "los", "ter", "ten", "te", "'t", "zu", "zum", "zur", "af", "av", "bin",
    "bint", "ibn", "al", "el", "ap", "ab", "ferch", "y", "e", "i", "and", "und", "et", "og", "och", "of", "the",
}  # fmt: skip
#: Between two names they may join as well as be a letter of their own.
_JOINING = {"y", "e", "i"}
_ARTICLE = regex.compile(r"^(?:al|el|ad|ar|as|at|az|an|ash)-(?=\p{L})", regex.I)
_CJK = regex.compile(r"^[\p{Han}\p{Hiragana}\p{Katakana}\p{Hangul}々ー・\s]+$")
GRAPHEME = regex.compile(r"\X")


@dataclass(frozen=True, kw_only=True, slots=True)
class Readings:
    """What a name may mean.

    Attributes
    ----------
    parts : the likeliest first; more than one means that only a person can say
    why : what leaves it open, or ""
    """

    parts: tuple[NameParts, ...]
    why: str = ""


def split_name(name: str, *, family: FamilyPlace = FamilyPlace.BY_SCRIPT) -> NameParts:
    """Take a name apart, as it is likeliest meant.

    “Family, Given” with a comma is understood whatever `family` says.

    >>> split_name("Dr. Anne-Marie van der Berg Jr.")
    NameParts(given=('Anne', 'Marie'), family=('Berg',), left_out=('Dr.', 'van', 'der', 'Jr.'))
    >>> split_name("山田 太郎").family
    ('山田',)
    >>> split_name("")
    NameParts(given=(), family=(), left_out=())
    """
    return read_name(name, family=family).parts[0]


def read_name(name: str, *, family: FamilyPlace = FamilyPlace.BY_SCRIPT) -> Readings:
    """Every way in which a name may be taken apart.

    >>> [parts.family for parts in read_name("Vincent Van Gogh").parts]
    [('Gogh',), ('Van Gogh',), ('Gogh',)]
    >>> len(read_name("Don Harper").parts), len(read_name("Ludwig van Rohe").parts)
    (1, 1)
    """
    text = " ".join(name.split())
    first = family is FamilyPlace.FIRST
    text = _AFTER_NAME.sub("", text) if _CJK.match(_AFTER_NAME.sub("", text)) else text
    if _CJK.match(text) and text:
        first = family is not FamilyPlace.LAST
        if " " not in text and "・" not in text:
            return _unspaced(text, family_first=first)
        text = text.replace("・", " ")
    before, comma, after = text.partition(",")
    if comma and after.strip() and not all(_is_suffix(word) for word in after.split()):
        left: list[str] = []
        parts = NameParts(
            given=_parts(_plain(after.split(), left)),
            family=_parts(_plain(before.split(), left)),
            left_out=tuple(left),
        )
        return Readings(parts=(parts,))
    words = _joined_scots(_opened_letters(text.replace(",", " ").split()))
    found = [_of_words(words, first)]
    why = ""
    for asks, others in (
        _capital_particles(words), _letter_in_small(words), _title_or_name(words), _letters_or_name(words)
    ):  # fmt: skip
        if others:
            found.extend(_of_words(other, first) for other in others)
            why = why or asks
    if any(_ARTICLE.match(word) and word[0].isupper() for word in words) and text != text.upper():
        found.append(_of_words(words, first, articles=False))
        why = why or "an article may count or not"
    return Readings(parts=tuple(dict.fromkeys(found)), why=why if len(set(found)) > 1 else "")


#: Japanese words of courtesy behind a name.
_AFTER_NAME = regex.compile(r"\s*(?:様|さま|さん|氏|殿|先生|ちゃん|くん|君)$")


def _of_words(words: list[str], first: bool, *, articles: bool = True) -> NameParts:
    left: list[str] = []
    kept = _plain(words, left)
    if articles:
        kept = [_ARTICLE.sub("", word) for word in kept]
    if len(kept) < 2:
        return NameParts(given=_parts(kept, whole=not articles), family=(), left_out=tuple(left))
    given_part, family_part = (kept[1:], kept[:1]) if first else (kept[:-1], kept[-1:])
    return NameParts(
        given=_parts(given_part), family=_parts(family_part, whole=not articles), left_out=tuple(left)
    )


def _opened_letters(words: list[str]) -> list[str]:
    """“J.R.R. Tolkien” has three letters before his name."""
    opened: list[str] = []
    for word in words:
        letters = regex.fullmatch(r"(?:(\p{L}\p{M}*)\.){2,}(\p{L}\p{M}*)?", word)
        if letters and not _is_suffix(word):
            opened.extend(f"{letter}." for letter in word.split(".") if letter)
        else:
            opened.append(word)
    return opened


def _joined_scots(words: list[str]) -> list[str]:
    """“Mc Donald” is one name."""
    joined: list[str] = []
    for word in words:
        if joined and joined[-1] in ("Mc", "Mc.", "O'", "MC"):
            joined[-1] = f"{joined[-1]}\u00a0{word}"
        else:
            joined.append(word)
    return joined


def _letters_or_name(words: list[str]) -> tuple[str, list[list[str]]]:
    """In “JD Smith” the capitals may be two letters or one name."""
    if len(words) < 2 or " ".join(words) == " ".join(words).upper():
        return "", []
    for place, word in enumerate(words):
        if regex.fullmatch(r"\p{Lu}{2,3}", word) and not _is_suffix(word):
            return f"“{word}” may be letters or a name", [[*words[:place], *word, *words[place + 1 :]]]
    return "", []


def _capital_particles(words: list[str]) -> tuple[str, list[list[str]]]:
    """“Vincent Van Gogh” is VG to some and VVG to others."""
    if " ".join(words) == " ".join(words).upper():
        return "", []
    inner = [n for n in range(1, len(words) - 1) if _fold(words[n]) in _PARTICLES and words[n][:1].isupper()]
    inner = [n for n in inner if len(_fold(words[n])) > 1]
    if not inner:
        return "", []
    begin = inner[0]
    # One name of all that follows the first of them, whose letter is the particle's; or a name by itself.
    joined = [*words[:begin], "\u00a0".join(words[begin:])]
    counted = [f"\u00a0{word}" if n in inner else word for n, word in enumerate(words)]
    return f"“{words[begin]}” may count or not", [joined, counted]


def _letter_in_small(words: list[str]) -> tuple[str, list[list[str]]]:
    """In “john e smith” nothing tells whether the e joins or is a name's letter."""
    if " ".join(words) != " ".join(words).lower():
        return "", []
    for place in range(1, len(words) - 1):
        if words[place] in _JOINING:
            return f"“{words[place]}” may be a name's letter or join two", [
                [*words[:place], words[place].upper(), *words[place + 1 :]]
            ]
    return "", []


def _title_or_name(words: list[str]) -> tuple[str, list[list[str]]]:
    """“Don José García” has a title, “Don Harper” a name."""
    if len(words) >= 3 and _fold(words[0]) == "don":
        return f"“{words[0]}” may be a title or a name", [words[1:]]
    return "", []


#: Family names of one sign that no Japanese name of two signs begins with (frequent ones, from memory).
_ONE_SIGN = set(
    "王李张張刘劉陈陳杨楊赵趙黄黃吴吳孙孫马馬朱郭何罗羅郑鄭谢謝许許韩韓冯馮邓鄧曹彭曾萧蕭蔡潘袁于董余苏蘇叶葉吕呂魏蒋蔣杜丁沈姜范江傅钟鍾卢盧汪戴崔任陆陸廖姚方"
)
_TWO_SIGNS = {
    "欧阳", "歐陽", "司马", "司馬", "上官", "诸葛", "諸葛", "东方", "東方", "皇甫", "尉迟", "公孙", "公孫", "南宫", "남궁", "황보",
    "제갈", "선우", "독고",
}  # fmt: skip


#: Kana alone, no longer than this, is a given name (common practice, no source).
_LONGEST_GIVEN = 4


def _unspaced(text: str, *, family_first: bool) -> Readings:
    """A Chinese, Japanese or Korean name written together: where the family name ends is often open."""
    signs = GRAPHEME.findall(text)

    def parted(at: int) -> NameParts:
        one, other = "".join(signs[:at]), "".join(signs[at:])
        if family_first:
            return NameParts(given=(other,), family=(one,), left_out=())
        return NameParts(given=(one,), family=(other,), left_out=())

    if len(signs) < 2:
        return Readings(parts=(NameParts(given=tuple(signs), family=(), left_out=()),))
    kana = next((n for n, sign in enumerate(signs) if regex.match(r"[\p{Hiragana}\p{Katakana}]", sign)), None)
    if kana and family_first and regex.fullmatch(r"[\p{Han}々]+", "".join(signs[:kana])):
        return Readings(parts=(parted(kana),))
    if kana == 0 and len(signs) <= _LONGEST_GIVEN and not regex.search(r"\p{Han}", text):
        return Readings(parts=(NameParts(given=(text,), family=(), left_out=()),))
    if not family_first:
        return Readings(parts=(parted(len(signs) - 1),))
    if "".join(signs[:2]) in _TWO_SIGNS and len(signs) > 2:
        return Readings(parts=(parted(2),))
    is_korean = bool(regex.fullmatch(r"\p{Hangul}+", text))
    if len(signs) == 2 or signs[0] in _ONE_SIGN or (is_korean and len(signs) == 3):
        return Readings(parts=(parted(1),))
    return Readings(
        parts=(parted(1), parted(2)), why="where the family name ends can't be told without a space"
    )


def _plain(words: list[str], left_out: list[str]) -> list[str]:
    """Words that carry an initial; the others are added to `left_out`."""
    kept: list[str] = []
    shouted = " ".join(words) == " ".join(words).upper()
    for place, word in enumerate(words):
        folded = _fold(word)
        honorific = folded in _HONORIFICS and (folded not in _ONLY_WITH_STOP or word.endswith("."))
        begins = not kept and place < len(words) - 1
        ends = len(kept) > 0 and all(_is_suffix(w) for w in words[place:])
        inner = 0 < place < len(words) - 1 or (place == 0 and len(words) > 1)
        # A particle stands before another word; a name that is only “Van” or ends in “De” is a name.
        small = word[:1].islower() or word[:1] == "'" or (shouted and place > 0 and len(folded) > 1)
        # A letter with a stop is someone's initial.
        particle = folded in _PARTICLES and inner and small and not (len(folded) == 1 and word.endswith("."))
        capital = folded in _PARTICLES and 0 < place < len(words) - 1 and len(folded) > 1 and len(kept) > 0
        if (honorific and begins) or ends or particle or capital or not has_letter(word):
            left_out.append(word)
        else:
            kept.append(word)
    return kept


def _is_suffix(word: str) -> bool:
    folded = _fold(word).replace(".", "")
    if folded not in _SUFFIXES:
        return False
    return folded not in _ONLY_SHOUTED or word.rstrip(".,") == word.rstrip(".,").upper() or "." in word


def _parts(words: list[str], *, whole: bool = False) -> tuple[str, ...]:
    pieces = words if whole else [piece for word in words for piece in regex.split(r"[-‐‑–·]", word)]
    # What was joined as one name stays one.
    pieces = [piece.replace("\u00a0", " ").strip() for piece in pieces]
    return tuple(piece for piece in pieces if has_letter(piece))


def is_east_asian(name: str) -> bool:
    """Whether a name is written in Chinese, Japanese or Korean signs.

    >>> is_east_asian("山田 太郎"), is_east_asian("Ana")
    (True, False)
    """
    return _CJK.match(name) is not None


def has_letter(text: str) -> bool:
    """Whether there is a letter of any script.

    >>> has_letter("7b"), has_letter("7.")
    (True, False)
    """
    return regex.search(r"\p{L}", text) is not None


def _fold(word: str) -> str:
    return word.casefold().strip(".,")
