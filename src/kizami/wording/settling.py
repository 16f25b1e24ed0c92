"""How the words of a list are brought to what the product asks.

Reducing a full name to initials is done without asking, as the product's rule; what has two
readings is left open for a person; what could be meant as it is, is only proposed.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from kizami.wording.capitals import is_stuck, propose_capitals
from kizami.wording.cleaning import PLACEHOLDERS, Wording, clean_received, clean_typed
from kizami.wording.coordinates import read_coordinates, write_coordinates
from kizami.wording.dates import read_date, write_date
from kizami.wording.doubts import doubt_about
from kizami.wording.initials import are_initials
from kizami.wording.no_words import Pointing
from kizami.wording.plan import Settled, WordingKind, WordingPlan, reworded
from kizami.wording.reducing import reduced

__all__ = ["settle"]

#: Kinds whose lines may stand as they were written.
_SET_IN_LINES = (WordingKind.AS_WRITTEN, WordingKind.NAME, WordingKind.PHRASE)
#: Kinds that are written in the product's own form, so that their lines say nothing.
_REFORMED = (WordingKind.DATE, WordingKind.YEAR, WordingKind.COORDINATES)
#: A code for machines holds whatever it is given.
_FOR_MACHINES = (WordingKind.QR_CODE, WordingKind.DATA_MATRIX)
_LETTERS = (WordingKind.INITIALS, WordingKind.MONOGRAM)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Rules:
    """What the words are brought to, and what is known of them."""

    plan: WordingPlan
    typed: bool
    day_first: bool | None
    language: str


def settle(
    original: str,
    plan: WordingPlan,
    *,
    typed: bool = False,
    placeholders: Iterable[str] | None = None,
    day_first: bool | None = None,
    language: str = "",
    most_lines: int = 1,
    above: str = "",
) -> Settled:
    """Clean wording and bring it to what the product asks.

    Parameters
    ----------
    typed : a person has just typed it; only what does not show is cleaned
    placeholders : words that mean “nothing was written”; None for the usual ones
    day_first : how the list writes 03/04/2026, where the product does not say
    language : that of the list, two letters, or "" where it is not known
    most_lines : lines that the product has room for
    above : the words of the row above in the list, for “see above”

    >>> settle("Dr. Ana Costa", WordingPlan(kind=WordingKind.INITIALS)).wording.text
    'AC'
    >>> settle("03/04/2026", WordingPlan(kind=WordingKind.DATE)).open_question
    '“03/04/2026” may be 2026-03-04 or 2026-04-03; write the one that is meant.'
    >>> settle("jOHN", WordingPlan()).proposal
    'John'
    >>> settle("Ana\\nTom", WordingPlan(), most_lines=2).wording.text
    'Ana\\nTom'
    """
    words = PLACEHOLDERS if placeholders is None else placeholders
    cleaned = clean_typed(original) if typed else clean_received(original, placeholders=words)
    if not cleaned.text:
        return Settled(wording=cleaned)
    if not typed:
        doubt = doubt_about(cleaned.text, received=cleaned.original, wording_kind=plan.kind.value)
        if doubt is not None and doubt.pointing is Pointing.ABOVE and above:
            meant = settle(
                above, plan, placeholders=words, day_first=day_first, language=language, most_lines=most_lines
            )
            return _pointed(cleaned, meant)
        if doubt is not None:
            return Settled(wording=cleaned, open_question=doubt.question, candidates=doubt.candidates)
    rules = _Rules(plan=plan, typed=typed, day_first=day_first, language=language)
    return _in_lines(cleaned, rules, most_lines) if "\n" in cleaned.text else _in_one(cleaned, rules)


def _pointed(cleaned: Wording, meant: Settled) -> Settled:
    """Words that point to the row above, with what stands there."""
    found = meant.candidates if meant.open_question else (meant.wording.text,)
    texts = tuple(text for text in found if text)
    shown = f"“{cleaned.text[:40]}” points to the row above"
    if not texts:
        return Settled(wording=cleaned, open_question=f"{shown}, which is not clear either; write the words.")
    named = " or ".join(f"“{text[:40]}”" for text in texts[:4])
    return Settled(wording=cleaned, open_question=f"{shown}: {named}. Is that meant?", candidates=texts)


def _in_lines(cleaned: Wording, rules: _Rules, most_lines: int) -> Settled:
    """Words that were written in several lines: that is kept, undone or asked about."""
    plan, lines = rules.plan, cleaned.text.split("\n")
    if plan.kind in _FOR_MACHINES:
        return Settled(wording=cleaned)
    may_stand = plan.kind in _SET_IN_LINES
    if may_stand and (rules.typed or (len(lines) <= most_lines and plan.line_breaks != "undone")):
        return _in_one(cleaned, rules)
    joined = _in_one(_joined(cleaned, lines, " "), rules)
    if rules.typed or plan.kind in _REFORMED or (may_stand and plan.line_breaks == "undone"):
        return joined
    shown = " / ".join(line[:30] for line in lines[:4])
    question = f"The words were written in {len(lines)} lines: {shown}. May they be set in one?"
    found = joined.candidates if joined.open_question else (joined.wording.text,)
    if plan.kind in _LETTERS:
        # Lines of letters are often those of several people.
        found = (*found, *reduced(_joined(cleaned, lines, " & "), plan, language=rules.language).candidates)
    return Settled(
        wording=joined.wording,
        proposal=joined.proposal,
        open_question=" ".join(filter(None, (question, joined.open_question))),
        candidates=tuple(dict.fromkeys(found)),
    )


def _joined(cleaned: Wording, lines: list[str], joint: str) -> Wording:
    return reworded(cleaned, joint.join(lines), code="lines", said=f"Set {len(lines)} lines in one")


def _in_one(cleaned: Wording, rules: _Rules) -> Settled:
    """Clean words as the product's kind has them."""
    plan = rules.plan
    if plan.kind in _LETTERS:
        if rules.typed and are_initials(cleaned.text, most=plan.most):
            return Settled(wording=cleaned)
        return reduced(cleaned, plan, language=rules.language)
    if plan.kind in (WordingKind.DATE, WordingKind.YEAR):
        return _date(cleaned, plan, rules.day_first)
    if plan.kind is WordingKind.COORDINATES:
        return _coordinates(cleaned, plan, rules.language)
    if plan.kind in _FOR_MACHINES:
        return Settled(wording=cleaned)
    if plan.kind is WordingKind.PHRASE and len(cleaned.text) > plan.longest:
        return Settled(
            wording=cleaned,
            open_question=f"The phrase has {len(cleaned.text)} characters; the product takes {plan.longest}.",
        )
    proposal = propose_capitals(cleaned.text, title_case=plan.title_case)
    if not rules.typed and is_stuck(cleaned.text):
        return Settled(
            wording=cleaned,
            proposal=proposal or "",
            open_question=f"“{cleaned.text[:40]}” looks as if the shift key was held the wrong way round.",
            candidates=(proposal,) if proposal else (),
        )
    return Settled(wording=cleaned, proposal=proposal or "")


def _date(cleaned: Wording, plan: WordingPlan, day_first: bool | None) -> Settled:
    reading = read_date(cleaned.text, day_first=day_first if plan.day_first is None else plan.day_first)
    is_year = plan.kind is WordingKind.YEAR
    if is_year and not reading.dates and cleaned.text.isdecimal() and len(cleaned.text) == 4:
        return Settled(wording=cleaned)
    forms = tuple(dict.fromkeys(write_date(d, "2026" if is_year else plan.date_form) for d in reading.dates))
    if len(forms) == 1:
        return Settled(wording=_reformed(cleaned, forms[0], plan))
    if forms:
        readings = " or ".join(write_date(d, "2026-05-04") for d in reading.dates)
        question = f"“{cleaned.text[:40]}” may be {readings}; write the one that is meant."
    else:
        question = f"“{cleaned.text[:40]}” can't be read as a date; write it as 2026-05-04."
    return Settled(wording=cleaned, open_question=question, candidates=forms)


def _coordinates(cleaned: Wording, plan: WordingPlan, language: str) -> Settled:
    reading = read_coordinates(cleaned.text, language=language)
    found = tuple(write_coordinates(one, decimals=plan.decimals) for one in reading.positions)
    if len(found) == 1 and not reading.question:
        return Settled(wording=_reformed(cleaned, found[0], plan))
    question = reading.question
    if len(found) > 1:
        question = f"“{cleaned.text[:40]}” may be {' or '.join(found[:4])}, as {question}; write the one that is meant."
    return Settled(wording=cleaned, open_question=question, candidates=found)


def _reformed(cleaned: Wording, text: str, plan: WordingPlan) -> Wording:
    return reworded(cleaned, text, code=plan.kind.value, said="Turned to the product's form")
