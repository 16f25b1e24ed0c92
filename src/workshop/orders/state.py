"""What a line is made from, as one value: it can be kept, compared, told in words and gone back to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any

from kizami.artwork.shelf import Shelf
from kizami.errors import TypefaceError
from kizami.lettering.typeface import Typeface
from kizami.pieces.inputs import Inputs
from kizami.pieces.lines import inputs_of
from kizami.setting.setting import Setting
from kizami.setting.telling import told
from kizami.wording.cleaning import Wording
from kizami.wording.plan import Settled
from kizami.wording.settling import settle
from workshop.catalogue.models import OWN, Product, typeface_named

__all__ = ["MOST_CANDIDATES", "LineState", "choices_in_words"]

#: Readings of a line's words that the bench offers, each for one key.
MOST_CANDIDATES = 4


@dataclass(frozen=True, kw_only=True, slots=True)
class LineState:
    """What a person or a list has decided of a line.

    The height that a set shares and the content of a logo are none of it: they follow from others.

    Attributes
    ----------
    product : a version of a product
    wording, changes, proposal, open_question, candidates : the words as settled, with what was done to them,
        what is proposed, and what is asked
    wording_received, second, size, typeface, material, finish, logo : as the list has them
    choices : what the bench has set otherwise
    """

    product: Product
    size: str = ""
    wording_received: str = ""
    wording: str = ""
    second: str = ""
    typeface: str = ""
    material: str = ""
    finish: str = ""
    logo: str = ""
    open_question: str = ""
    proposal: str = ""
    changes: list[str] = field(default_factory=list)
    candidates: list[str] = field(default_factory=list)
    choices: dict[str, Any] = field(default_factory=dict)

    @classmethod
    def of(cls, row: Any) -> LineState:
        """From anything that keeps these under their names."""
        return cls(**{name: getattr(row, name) for name in cls.names()})

    @classmethod
    def names(cls) -> tuple[str, ...]:
        """The names of all that belongs to it."""
        return tuple(one.name for one in fields(cls))

    @property
    def setting(self) -> Setting:
        """How the piece is set otherwise than its product."""
        return Setting.from_table(self.choices)

    def put_on(self, row: Any) -> None:
        """Give a row all of it; the row is not stored yet."""
        for name in self.names():
            setattr(row, name, getattr(self, name))

    def typed(self, text: str, choices: dict[str, Any] | None = None) -> LineState:
        """With words that somebody typed: they are what is meant, nothing better is proposed."""
        settled = settle(text, self.product.to_spec().wording, typed=True)
        meant = replace(self._settled(settled), proposal="")
        return meant if choices is None else replace(meant, choices=choices)

    def _settled(self, settled: Settled) -> LineState:
        return replace(
            self,
            wording=settled.wording.text,
            changes=[change.said for change in settled.wording.changes],
            proposal=settled.proposal,
            open_question=settled.open_question,
            candidates=list(settled.candidates[:MOST_CANDIDATES]),
        )

    def of_version(self, product: Product) -> LineState:
        """With another version of its product.

        Where that asks something else of its wording, words that nobody touched are read anew as they were
        received; what somebody typed stays as it is.
        """
        moved = replace(self, product=product)
        before, after = self.product.to_spec().wording, product.to_spec().wording
        if before == after:
            return moved
        if settle(self.wording_received, before).wording.text != self.wording:
            return moved.typed(self.wording)
        return moved._settled(settle(self.wording_received, after))

    def to_inputs(self, *, logos: Shelf, height_cap_mm: float | None) -> Inputs:
        """The core's inputs."""
        setting, product = self.setting, self.product.to_spec()
        typeface, question = _own_typeface(setting.typeface or product.typeface)
        if typeface is None and setting.typeface.startswith(OWN):
            setting = replace(setting, typeface="")
        kept = Wording(text=self.wording, original=self.wording_received)
        return inputs_of(
            product,
            Settled(wording=kept, open_question=self.open_question or question),
            second=self.second,
            logo=self.logo,
            logos=logos,
            size=product.read_size(self.size),
            typeface=typeface,
            height_cap_mm=height_cap_mm,
            setting=setting,
        )

    def told_from(self, before: LineState) -> list[str]:
        """What differs from another state, a sentence each."""
        said = []
        if before.product.pk != self.product.pk:
            said.append(f"product: {self.product}")
        if before.wording != self.wording:
            said.append(f"“{_short(before.wording)}” becomes “{_short(self.wording)}”")
        for name in ("size", "second", "logo"):
            now = getattr(self, name)
            if getattr(before, name) != now:
                title = "second wording" if name == "second" else name
                said.append(f"{title}: {_short(now) or 'none'}")
        said += choices_in_words(before.choices, self.choices)
        if not said and before.open_question != self.open_question:
            said.append("the question about it is open again" if self.open_question else "nothing is asked")
        return said


def _own_typeface(code: str) -> tuple[Typeface | None, str]:
    """One of the shop's own typefaces, or why it can't be had; None for one that ships."""
    if not code.startswith(OWN):
        return None, ""
    try:
        return typeface_named(code), ""
    except TypefaceError as error:
        return None, f"{error} Choose another for this piece."


_LONGEST_SAID = 60


def _short(text: str) -> str:
    one = text.replace("\n", " / ")
    return one if len(one) <= _LONGEST_SAID else f"{one[:_LONGEST_SAID]}…"


def choices_in_words(before: Mapping[str, Any], after: Mapping[str, Any]) -> list[str]:
    """What the bench chose otherwise, a few words each."""
    return told(Setting.from_table(before), Setting.from_table(after))
