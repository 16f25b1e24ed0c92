"""Free text that holds several fields, such as “Name: Ana / Date: 4 May / Font: plain”.

A rule says how one column is taken apart. It is guessed from the real rows, tried on them and shown
before it is kept for a source.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from kizami.wording.headings import HEADINGS, fold_heading

__all__ = ["FieldRule", "guess_rule", "take_apart"]

#: Where one field ends and the next begins, tried in this order.
_SEPARATORS = ("\n", "/", ";", "|", ",")
_KEY = re.compile(r"^\s*([^\W\d_][\w .#-]{0,24}?)\s*[:=]\s*(.*)$", re.S)
_LEAST_SHARE = 0.5


@dataclass(frozen=True, kw_only=True, slots=True)
class FieldRule:
    """How a free-text column is taken apart.

    Attributes
    ----------
    separator : between the fields
    keys : key as written, folded -> field code; keys that mean nothing to us map to ""
    """

    separator: str
    keys: Mapping[str, str]


def take_apart(text: str, rule: FieldRule) -> dict[str, str]:
    """The fields in a free text, by field code.

    Text without any known key is the wording as a whole. Pieces under keys that mean nothing are
    returned under "" so that nothing is lost.

    >>> rule = FieldRule(separator="/", keys={"name": "wording", "date": "second"})
    >>> take_apart("Name: Ana / Date: 4 May", rule)
    {'wording': 'Ana', 'second': '4 May'}
    >>> take_apart("Ana", rule)
    {'wording': 'Ana'}
    >>> take_apart("", rule)
    {}
    """
    if not text.strip():
        return {}
    found: dict[str, str] = {}
    rest: list[str] = []
    current = ""
    for part in text.split(rule.separator):
        match = _KEY.match(part)
        code = rule.keys.get(_fold(match[1])) if match else None
        if match and code:
            current = code
            value = match[2].strip()
            found[code] = f"{found[code]} {value}" if code in found else value
        elif match and code == "":
            current = ""
            rest.append(part.strip())
        elif current:
            # “Name: Ana / Ivy”: a separator inside the words themselves.
            found[current] = f"{found[current]}{rule.separator}{part.rstrip()}"
        elif part.strip():
            rest.append(part.strip())
    if not any(found.values()) and rest:
        return {"wording": text.strip()}
    if rest:
        found[""] = f" {rule.separator} ".join(rest)
    return found


def guess_rule(texts: Iterable[str]) -> FieldRule | None:
    """The rule that most rows of a column seem to follow, or None when they are plain wording."""
    filled = [text for text in texts if text.strip()][:200]
    if not filled:
        return None
    best: tuple[int, str, Counter[str]] | None = None
    for separator in _SEPARATORS:
        keys: Counter[str] = Counter()
        keyed = 0
        for text in filled:
            matches = [m for part in text.split(separator) if (m := _KEY.match(part))]
            keys.update(_fold(m[1]) for m in matches)
            keyed += len(matches) >= 2
        if best is None or keyed > best[0]:
            best = (keyed, separator, keys)
    if best is None or best[0] < _LEAST_SHARE * len(filled):
        return None
    _, separator, keys = best
    meanings = {heading: code for heading, (code, _, _) in HEADINGS.items()}
    common = [key for key, count in keys.most_common(12) if count >= 0.1 * len(filled)]
    rule = {key: meanings.get(fold_heading(key), "") for key in common}
    if "wording" not in rule.values() and common:
        # The first key that is not known otherwise carries the words.
        free = next((key for key in common if not rule[key]), None)
        if free is not None:
            rule[free] = "wording"
    return FieldRule(separator=separator, keys=rule)


def _fold(key: str) -> str:
    return re.sub(r"[\s_.#-]+", " ", key).strip().casefold()
