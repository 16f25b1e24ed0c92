"""A value of a product as its page shows it: its name, its words, and how it is filled in."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from workshop.catalogue.field_words import CALLED, CHOICE_CALLED, MEANS, UNITS

__all__ = ["YES_NO", "ProductField", "choices_of", "field_of"]

YES_NO = (("no", "no"), ("yes", "yes"))
#: Fields whose choices are seen on the face, by what their names begin with.
_DRAWN = (
    "blank.", "area", "typeface", "arrangement.", "soundness.", "treatment.", "wording.kind",
    "wording.date_form",
)  # fmt: skip
_NOT_DRAWN = ("arrangement.direction", "blank.follow_edges", "arrangement.turn.when_wide")


@dataclass(frozen=True, kw_only=True, slots=True)
class ProductField:
    """One value.

    Attributes
    ----------
    name : of the form field: where it stands in the table, and its key
    part, label, unit, means : for people
    value : as it stands; of several words a list
    choices : (value, label) for words; empty for numbers
    is_number, is_vector, is_text, is_several, is_ordered, is_colour, is_list : how it is filled in; several
        words by ticks or in an order, a list of one's own words with commas between
    is_on_trial : it stands otherwise than the product is kept
    low, high : bounds of a number
    """

    name: str
    part: str
    label: str
    unit: str
    value: Any
    means: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    is_number: bool = False
    is_vector: bool = False
    is_text: bool = False
    is_several: bool = False
    is_ordered: bool = False
    is_colour: bool = False
    is_list: bool = False
    is_on_trial: bool = False
    low: float = 0.0
    high: float = 0.0

    @property
    def is_measure(self) -> bool:
        """A length that has a place in the drawings of the piece."""
        return self.is_number and self.name.startswith(("blank.", "treatment."))

    @property
    def is_drawn(self) -> bool:
        """Its choices look different, so that each can be drawn."""
        is_choice = bool(self.choices) and not self.name.endswith(".new")
        return is_choice and self.name.startswith(_DRAWN) and self.name not in _NOT_DRAWN

    @property
    def is_cut(self) -> bool:
        """Its choices are seen where the piece is cut through, not from above."""
        return self.name.startswith("treatment.")

    @property
    def as_list(self) -> str:
        """A list of one's own words as it is typed."""
        return ", ".join(self.value)

    @property
    def in_order(self) -> list[tuple[int, str]]:
        """One place for each word that could be chosen, with the words that are; counted from one."""
        chosen = [*self.value, *[""] * (len(self.choices) - len(self.value))]
        return list(enumerate(chosen, start=1))


def field_of(key: str, value: Any, *, part: str, prefix: str, **more: Any) -> ProductField:
    """The field of a key: named as the trade does, with its unit and what it means."""
    label, unit, means = _said_of(key, prefix)
    return ProductField(
        name=f"{prefix}{key}", part=part, label=label, unit=unit, value=value, means=means, **more
    )


# A page asks for a hundred fields at every change, and what they are called never changes.
@cache
def _said_of(key: str, prefix: str) -> tuple[str, str, str]:
    """Label, unit and meaning."""
    words = key.split("_")
    unit = UNITS.get(words[-1], "")
    label = " ".join(words[:-1] if unit else words)
    # A height of letters, one of the blank and one of an ornament are three things.
    where = prefix.rstrip(".").split(".")
    table = next((step for step in reversed(where) if step and not step.isdigit()), "")
    label, unit = CALLED.get(f"{table}.{key}", CALLED.get(key, (label, unit)))
    return label, unit, MEANS.get(f"{table}.{key}", MEANS.get(key, ""))


def choices_of(words: Sequence[str]) -> tuple[tuple[str, str], ...]:
    """Words with what a page says for each."""
    return tuple((word, CHOICE_CALLED.get(word, word)) for word in words)
