"""What a typeface can do beside its usual letters: small capitals, swashes, old figures and the like."""

from __future__ import annotations

from collections.abc import Iterable

from kizami.lettering.typeface import Typeface

__all__ = ["FEATURE_CALLED", "feature_called", "offered_features"]

#: What the registry of OpenType layout tags calls them, in plain words (from memory of the OpenType
#: specification, "Registered features"). Only those that somebody chooses: what a shaper always does is none.
FEATURE_CALLED: dict[str, str] = {
    "smcp": "small capitals for small letters",
    "c2sc": "small capitals for capitals",
    "swsh": "swashes",
    "cswh": "swashes where they fit",
    "titl": "capitals drawn for titles",
    "salt": "other forms of letters",
    "hist": "historical forms",
    "dlig": "letters joined for show",
    "hlig": "historical joined letters",
    "onum": "figures that rise and fall",
    "lnum": "figures as high as capitals",
    "tnum": "figures of one width",
    "pnum": "figures of their own widths",
    "zero": "a zero with a stroke",
    "frac": "fractions",
    "ordn": "raised endings of numbers",
    "sups": "raised figures",
    "case": "signs that suit capitals",
    "ornm": "ornaments for letters",
    "unic": "small forms for all letters",
}
_SET, _VARIANT = "ss", "cv"


def feature_called(tag: str) -> str:
    """A feature in plain words; its tag where there are none.

    >>> feature_called("smcp"), feature_called("ss03"), feature_called("liga")
    ('small capitals for small letters', 'other forms, set 3', 'liga')
    """
    if tag in FEATURE_CALLED:
        return FEATURE_CALLED[tag]
    number = tag[2:]
    if number.isdigit() and tag.startswith(_SET):
        return f"other forms, set {int(number)}"
    if number.isdigit() and tag.startswith(_VARIANT):
        return f"another form of a letter, {int(number)}"
    return tag


def offered_features(typeface: Typeface) -> tuple[str, ...]:
    """Tags that somebody may choose of those that a typeface has, the well-known ones first."""
    tags = typeface.substitutions
    return (*(tag for tag in FEATURE_CALLED if tag in tags), *sorted(_numbered(tags)))


def _numbered(tags: Iterable[str]) -> Iterable[str]:
    return (tag for tag in tags if tag[:2] in (_SET, _VARIANT) and tag[2:].isdigit())
