"""Cleaning the words of a line, with a record of every change. The original is never lost.

Two strengths: `clean_typed` for words that a person has just typed and looked at, and
`clean_received` for words from a list, where leftovers of forms and exports are cleared away too.
Both are idempotent. What could be meant is never changed: it is only proposed, see `capitals.py`.
"""

from __future__ import annotations

import html
import re
import unicodedata
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from kizami.wording.no_words import FIELD_NAMES, NOTHING, fold_words
from kizami.wording.remarks import lines_marked

__all__ = ["PLACEHOLDERS", "Change", "Wording", "clean_received", "clean_typed"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Change:
    """One thing that cleaning did.

    Attributes
    ----------
    code : permanent name of the rule
    said : the change in words, for the desk
    before, after : the text around this change
    """

    code: str
    said: str
    before: str
    after: str


@dataclass(frozen=True, kw_only=True, slots=True)
class Wording:
    """The words that go on a piece.

    Attributes
    ----------
    text : cleaned, in Unicode normalisation form C
    original : as received
    changes : what cleaning did, in order
    """

    text: str
    original: str
    changes: tuple[Change, ...] = ()


#: Words that forms leave behind when nobody filled them in. Every shop edits its own.
PLACEHOLDERS: frozenset[str] = NOTHING

#: Joiners change the shape of letters in several scripts, so they are wording, not rubbish.
_SHAPING_CONTROLS = {"\u200c", "\u200d"}
_QUOTES = str.maketrans(
    {"\u2018": "'", "\u2019": "'", "\u201a": "'", "\u201b": "'", "\u2032": "'", "\u00b4": "'", "\u0060": "'",
     "\u201c": '"', "\u201d": '"', "\u201e": '"', "\u201f": '"', "\u2033": '"'}
)  # fmt: skip
_ENTITY = re.compile(r"&(?:#\d{1,7}|#x[0-9a-f]{1,6}|[a-z][a-z0-9]{1,30});", re.I)

_Step = Callable[[str], tuple[str, str]]


def clean_typed(original: str) -> Wording:
    """Clean words that a person typed: invisible characters, spaces, accents. Nothing that shows.

    Line ends are kept, as “\\n”: what becomes of them is the product's rule.

    >>> clean_typed("  Ana\\u202e  Ivy ").text
    'Ana Ivy'
    >>> [c.code for c in clean_typed("Ana").changes]
    []
    >>> clean_typed(" Ana \\r\\n\\r\\n Ivy ").text
    'Ana\\nIvy'
    >>> clean_typed("").text
    ''
    """
    return _apply(original, _TYPED)


def clean_received(
    original: str,
    *,
    placeholders: Iterable[str] = PLACEHOLDERS,
    field_names: Iterable[str] = FIELD_NAMES,
) -> Wording:
    """Clean words from a list.

    On top of `clean_typed`: HTML entities become their characters; typographic quotes become plain
    ones, which every engraving alphabet has; a leading repetition of the field's own name goes;
    a placeholder that nobody filled in becomes empty, so that the line is held.

    Parameters
    ----------
    placeholders : folded words that mean “nothing was written”
    field_names : what the field may call itself, as in “Name: Ana”

    >>> clean_received("Name: Bj&ouml;rn").text
    'Björn'
    >>> clean_received("n/a").text
    ''
    """
    empty = _folded(frozenset(placeholders))
    own_name = _own_name(frozenset(field_names))

    def without_own_name(text: str) -> tuple[str, str]:
        shorter = text
        while own_name is not None and (match := own_name.match(shorter)):
            shorter = shorter[match.end() :]
        return shorter, "Took out the field's own name"

    def without_placeholder(text: str) -> tuple[str, str]:
        folded = {text.casefold().strip(" []()<>{}*_\"'"), fold_words(text)}
        return ("", f"“{text[:40]}” is a leftover of a form, not wording") if folded & empty else (text, "")

    line_marks = ("line marks", _with_line_ends)
    placeholder = ("placeholder", without_placeholder)
    # Most words of a list are names that nothing needs to be done to: told at once, as lists are long.
    if _is_plain(original):
        return _apply(original, (line_marks, placeholder))
    steps = (
        ("entities", _without_entities),
        ("tags", _without_tags),
        ("guard", _without_guard),
        line_marks,
        *_TYPED,
        ("quotes", _plain_quotes),
        ("own name", without_own_name),
        placeholder,
    )
    return _apply(original, steps)


def _is_plain(text: str) -> bool:
    """Whether there are only letters in normalisation form C, parted by single spaces."""
    return text.replace(" ", "a").isalpha() and text == " ".join(text.split()) and _composed(text)[0] == text


def _apply(original: str, steps: Sequence[tuple[str, _Step]]) -> Wording:
    text = original
    changes: list[Change] = []
    # Taking something out can bring a pattern together that was not there before, so the steps
    # run until they have nothing to do; each shortens the text or settles its characters.
    while True:
        begun = len(changes)
        for code, step in steps:
            after, said = step(text)
            if after != text:
                changes.append(Change(code=code, said=said, before=text, after=after))
                text = after
        if len(changes) == begun:
            break
    return Wording(text=text, original=original, changes=tuple(changes))


def _without_entities(text: str) -> tuple[str, str]:
    """Entities may be wrapped in entities by careless exports; undone until nothing is left to undo."""
    plain = text
    while (unwrapped := _ENTITY.sub(lambda m: html.unescape(m[0]), plain)) != plain:
        plain = unwrapped
    return plain, "Turned HTML codes into their characters"


_TAG = re.compile(
    r"</?(?:b|i|u|em|strong|span|p|div|font|br|a|small|big|sup|sub|center|ul|li|h[1-6])(?:\s[^<>]{0,200})?/?>",
    re.I,
)
_BREAK = re.compile(r"<(?:br|/p|/div|/li)\s*/?>", re.I)


def _without_tags(text: str) -> tuple[str, str]:
    """Marks of web pages; where they end a line, the words are parted."""
    return _TAG.sub("", _BREAK.sub("\n", text)) if "<" in text else text, "Took out marks of a web page"


def _with_line_ends(text: str) -> tuple[str, str]:
    return lines_marked(text), "Turned marks for a line end into one"


def _without_guard(text: str) -> tuple[str, str]:
    """Spreadsheets are kept from reading “007” as a number by writing it as ="007" or behind an apostrophe."""
    match = re.fullmatch(r'="([^"]*)"', text.strip()) or re.fullmatch(r"'(?=[=+\-@\d])(.+)", text)
    return (match[1] if match else text), "Took out what kept a spreadsheet from reading it as a number"


@lru_cache(maxsize=8)
def _folded(words: frozenset[str]) -> frozenset[str]:
    return frozenset(word.casefold() for word in words)


@lru_cache(maxsize=8)
def _own_name(field_names: frozenset[str]) -> re.Pattern[str] | None:
    names = "|".join(re.escape(name) for name in sorted(field_names, key=lambda n: (-len(n), n)) if name)
    return re.compile(rf"^(?:{names})\s*[:：=]\s*(?=\S)", re.I) if names else None


#: What ends a line, in the Unicode newline guidelines (UAX 14, mandatory breaks).
_LINE_END = re.compile(r"\r\n|[\r\v\f\x85\u2028\u2029]")


def _without_invisible(text: str) -> tuple[str, str]:
    kept: list[str] = []
    dropped: list[str] = []
    for char in _LINE_END.sub("\n", text):
        if char.isspace():
            kept.append(char if char == "\n" else " ")
        elif unicodedata.category(char) in ("Cc", "Cf", "Cs", "Co", "Cn") and char not in _SHAPING_CONTROLS:
            dropped.append(f"U+{ord(char):04X}")
        else:
            kept.append(char)
    named = ", ".join(dict.fromkeys(dropped[:6]))
    said = f"Took out {len(dropped)} invisible: {named}" if dropped else "Turned tabs into spaces"
    return "".join(kept), said


def _without_spare_spaces(text: str) -> tuple[str, str]:
    lines = (" ".join(part for part in line.split(" ") if part) for line in text.split("\n"))
    return "\n".join(filter(None, lines)), "Took out spaces that were too many"


def _composed(text: str) -> tuple[str, str]:
    # Unicode Standard Annex 15, normalisation form C.
    return unicodedata.normalize("NFC", text), "Put accents together with their letters"


def _plain_quotes(text: str) -> tuple[str, str]:
    return text.translate(_QUOTES), "Made quotes plain"


_TYPED: tuple[tuple[str, _Step], ...] = (
    ("invisible", _without_invisible),
    ("spaces", _without_spare_spaces),
    ("composed", _composed),
)
