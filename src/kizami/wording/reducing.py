"""Names brought to initials or a monogram; what names several people, or none, is asked about."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable

from kizami.wording.cleaning import Wording
from kizami.wording.digraphs import digraphs_of
from kizami.wording.initials import Choices, Initials, are_initials, is_given_name, monogram_of, read_initials
from kizami.wording.names import FamilyPlace, Readings, read_name
from kizami.wording.plan import Settled, WordingKind, WordingPlan, reworded

__all__ = ["reduced"]

#: What joins two people. Letters that are names as well join only whole names that are alike, see below.
_JOINT = re.compile(
    r"\s*[&+]\s*|\s+(?:and|und|et|och|og|en|ve|AND|UND|ET|OCH|OG|EN|VE)\s+|\s*[＆＋]\s*|(?<=[一-龯])\s*と\s*(?=[一-龯])"
)
_LETTER_JOINT = re.compile(r"\s+[yei]\s+")
_SLANG_JOINT = re.compile(r"\s+(?:u\.?|n|'n'|x|vs?\.?)\s+|\s*[/|♥❤💕]\ufe0f?\s*")
#: Words of a name that “and” joins within it: “von und zu”.
_WITHIN = {"von", "vom", "zu", "zum", "van", "de", "di", "do", "da"}
_HOUSEHOLD = re.compile(
    r"^(?:the|family|familie|fam\.?|famille|famiglia|familia|família|rodina|rodzina|familjen|familien|team|casa|house of|haus)"
    r"\s+\S|\s(?:family|familie|ailesi|家)$|^\S+家$",
    re.I,
)
#: What no name has: digits, brackets, signs.
_NO_NAME = re.compile(r"[^\w\s.,'’\-‐‑–·・&+!＆＋]|[\d_]")


def _sides(text: str) -> tuple[list[str], bool]:
    """The people of a text, and whether it is sure that they are several."""
    sides = [side for side in _JOINT.split(text) if side]
    if len(sides) > 1:
        within = any(
            one.split()[-1].casefold() in _WITHIN and other.split()[0].casefold() in _WITHIN
            for one, other in itertools.pairwise(sides)
        )
        return ([text], True) if within else (sides, True)
    sides = [side for side in _SLANG_JOINT.split(text) if side]
    if len(sides) > 1:
        return sides, True
    if re.fullmatch(r"[^\W\d_]+,\s*[^\W\d_]+", text):
        sides = [side.strip() for side in text.split(",")]
        # “Smith, John” is one person with the family name first, “Anna, Tom” may be two.
        is_one = is_given_name(sides[1]) and not is_given_name(sides[0])
        return ([text], True) if is_one else (sides, False)
    sides = _LETTER_JOINT.split(text)
    if len(sides) != 2 or text == text.lower():
        return [text], True
    one, other = (len(side.split()) for side in sides)
    # “José Ortega y Gasset” is one person, “Ana y Luis” are two.
    return sides, one == other


def reduced(cleaned: Wording, plan: WordingPlan, *, language: str = "") -> Settled:
    """The letters that a name is reduced to, or a question.

    Parameters
    ----------
    language : that of the list, or ""
    """
    sides, is_sure = _sides(cleaned.text)
    if _HOUSEHOLD.search(cleaned.text):
        last = cleaned.text.split()[-1]
        return _asked(cleaned, _single(last, plan, language).texts, "it names a household")
    if len(sides) == 1 and _NO_NAME.search(_bare(cleaned.text)):
        letters = _NO_NAME.sub(" ", cleaned.text)
        return _asked(cleaned, _single(letters, plan, language).texts, "not all of it is a name")
    one = cleaned.text if len(sides) == 1 else _LETTER_JOINT.sub(" ", cleaned.text)
    single = _single(one, plan, language)
    if len(sides) == 1:
        return _chosen(cleaned, plan, single.texts, single.why, single.found[0].note if single.found else "")
    firsts = [_first_of(side, plan, language) for side in sides]
    joined = "&".join(firsts) if all(firsts) and len(sides) <= max(plan.most, 2) else ""
    bare = [side for side in sides if len(side.strip(". ")) == 1]
    if (
        joined
        and is_sure
        and plan.kind is WordingKind.INITIALS
        and (plan.two_people == "joined" or bare == sides)
    ):
        said = "Reduced to the initials of each"
        return Settled(wording=reworded(cleaned, joined, code=plan.kind.value, said=said))
    candidates = [joined, "".join(firsts), *(read_initials(side, most=plan.most).texts[0] for side in sides)]
    if not is_sure:
        candidates = [*single.texts, *candidates]
    return _asked(cleaned, candidates, "it names two people" if is_sure else "it may name one person or two")


def _first_of(name: str, plan: WordingPlan, language: str) -> str:
    """The first letter that a name is reduced to, or ""."""
    digraphs = digraphs_of([code for code in plan.digraphs if code == language])
    letters = read_initials(name, most=4, family=plan.family, digraphs=digraphs).found[0].letters
    return letters[0] if letters else ""


def _single(text: str, plan: WordingPlan, language: str) -> Choices:
    """Letters of one person, as the product orders them."""
    kept = [code for code in plan.digraphs if code == language]
    found = _ordered(text, plan, language, digraphs_of(kept))
    if language:
        return found
    # Whose language the list is in is not known, so that two signs may be one letter or two.
    others = _ordered(text, plan, language, digraphs_of(plan.digraphs))
    if others.texts == found.texts:
        return found
    return Choices(
        found=tuple(dict.fromkeys((*found.found, *others.found))), why="two signs may be one letter or two"
    )


def _ordered(text: str, plan: WordingPlan, language: str, digraphs: tuple[str, ...]) -> Choices:
    found = read_initials(text, most=plan.most, family=plan.family, digraphs=digraphs)
    if plan.kind is not WordingKind.MONOGRAM:
        return found
    if are_initials(text, most=plan.most) and len(text) > 1:
        # Letters stand as they were ordered, and whose they are is not known.
        return found
    readings = read_name(text, family=plan.family)
    people = _family_first(text) if plan.family is FamilyPlace.BY_SCRIPT else ""
    if people:
        first = read_name(text, family=FamilyPlace.FIRST)
        parts = first.parts if people == language else (*first.parts, *readings.parts)
        readings = Readings(parts=parts, why="its family name may stand first")
    letters = [
        monogram_of(parts, family_in_middle=plan.family_in_middle, digraphs=digraphs).letters
        for parts in readings.parts
    ]
    every = tuple(Initials(letters=one, note="") for one in dict.fromkeys(letters))
    return Choices(found=every, why=readings.why if len(every) > 1 else "")


#: Frequent family names of peoples that write them first, as far as they are no given names (from memory).
_FAMILIES_FIRST = {
    "vi": {
        "nguyễn", "nguyen", "trần", "tran", "lê", "phạm", "pham", "huỳnh", "huynh", "hoàng", "hoang", "phan", "vũ", "võ",
        "đặng", "dang", "bùi", "đỗ", "hồ", "ngô", "dương", "lý",
    },
    "hu": {
        "nagy", "kovács", "tóth", "szabó", "horváth", "varga", "kiss", "kis", "molnár", "németh", "farkas", "balogh",
        "balog", "papp", "pap", "takács", "juhász", "lakatos", "mészáros", "oláh", "rácz", "fekete", "szilágyi", "török",
        "fehér", "gál", "szűcs", "kocsis", "pintér", "fodor", "orsós", "szalai", "sipos", "magyar", "gulyás", "bíró",
        "király", "katona", "bogdán", "boros", "fazekas", "somogyi", "váradi", "hegedűs", "veres", "soós", "bálint",
    },
}  # fmt: skip


def _family_first(text: str) -> str:
    """The people whose family name a name begins with, as a language, or ""."""
    words = text.casefold().split()
    if len(words) < 2:
        return ""
    return next((people for people, names in _FAMILIES_FIRST.items() if words[0] in names), "")


def _bare(text: str) -> str:
    """Without brackets or quotes around the whole, as letters are often given."""
    return text[1:-1] if len(text) > 2 and text[0] + text[-1] in ("()", "[]", '""', "''") else text


def _chosen(cleaned: Wording, plan: WordingPlan, texts: tuple[str, ...], why: str, note: str) -> Settled:
    found = [text for text in texts if text]
    if not found:
        return Settled(
            wording=cleaned,
            open_question=f"“{cleaned.text[:40]}” gives no initials; write the letters that are meant.",
        )
    if why:
        return _asked(cleaned, found, why)
    said = f"Reduced to {plan.kind.value}" + (f" ({note})" if note else "")
    return Settled(wording=reworded(cleaned, found[0], code=plan.kind.value, said=said))


def _asked(cleaned: Wording, candidates: Iterable[str], why: str) -> Settled:
    """Held, with what may be meant."""
    found = tuple(dict.fromkeys(one for one in candidates if one))
    named = " or ".join(f"“{one}”" for one in found[:4])
    return Settled(
        wording=cleaned,
        open_question=f"“{cleaned.text[:40]}” may be {named}, as {why}; write the letters that are meant.",
        candidates=found,
    )
