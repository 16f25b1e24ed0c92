"""From readable rows to lines that can be made: product, size and wording resolved."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from rapidfuzz import fuzz, process

from kizami.artwork.artwork import Artwork
from kizami.artwork.shelf import EMPTY_SHELF, Shelf
from kizami.artwork.square_codes import square_code
from kizami.errors import ArtworkError, RowError
from kizami.lettering.shipped import shipped_typefaces
from kizami.lettering.typeface import Typeface
from kizami.pieces.inputs import Inputs
from kizami.products.product import Catalogue, Product, Word, fold_code
from kizami.setting.setting import AS_THE_PRODUCT, Setting
from kizami.sizes import RingSize
from kizami.standards import shipped_standards
from kizami.wording.cleaning import Wording
from kizami.wording.order_list import OrderRow
from kizami.wording.plan import Settled, WordingKind
from kizami.wording.settling import settle

__all__ = [
    "Line",
    "asked_for",
    "codes_for",
    "inputs_of",
    "names_of",
    "nearest_codes",
    "piece_name",
    "resolve_row",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Line:
    """One line of an order, ready to be made `row.quantity` times.

    Attributes
    ----------
    row : as read
    settled : its words as the product wants them, with every change, a proposal and an open question
    product : as the catalogue has it
    choices : typeface, material and finish that the row asks for, by code
    inputs : what the piece is made from
    """

    row: OrderRow
    settled: Settled
    product: Product
    choices: Mapping[Word, str]
    inputs: Inputs

    @property
    def wording(self) -> Wording:
        """Its words with every change."""
        return self.settled.wording

    @property
    def proposal(self) -> str:
        """A better form of the words that only a person may take, or ""."""
        return self.settled.proposal


def resolve_row(
    row: OrderRow, catalogue: Catalogue, *, logos: Shelf | None = EMPTY_SHELF, above: str = ""
) -> Line:
    """Find the product, the size and what else a row asks for, and clean its wording.

    What the product has no place for leaves a question, which holds the line.

    Parameters
    ----------
    above : the words of the row above, for “see above”
    logos : where logos are looked for; None when only the words matter, as in a comparison

    Raises
    ------
    RowError : no such product, size, typeface, material or finish; names the nearest
    """
    product = catalogue.find(row.product)
    if product is None:
        near = nearest_codes(row.product, catalogue)
        hint = f"Did you mean {' or '.join(near)}?" if near else "Add it to the catalogue."
        raise RowError(f"There is no product “{row.product[:40]}”. {hint}", column="product")
    faults: list[RowError] = []
    size: RingSize | None = None
    try:
        size = product.read_size(row.size)
    except RowError as fault:
        faults.append(fault)
    choices = asked_for(row, product, catalogue, faults)
    if faults:
        raise RowError.together(faults)
    settled = settle(
        row.wording,
        product.wording,
        placeholders=catalogue.placeholders,
        day_first=row.day_first,
        language=row.language,
        most_lines=product.most_lines,
        above=above,
    )
    settled = _with_questions(settled, list(_without_place(row, product, choices)))
    inputs = inputs_of(
        product.chosen(choices),
        settled,
        second=row.second,
        logo=row.logo,
        logos=logos,
        size=size,
        second_day_first=row.second_day_first,
        language=row.language,
    )
    return Line(row=row, settled=settled, product=product, choices=choices, inputs=inputs)


def _with_questions(settled: Settled, questions: Sequence[str]) -> Settled:
    """Held for these as well; what has no wording is held already."""
    if not questions:
        return settled
    return replace(settled, open_question=" ".join(filter(None, (settled.open_question, *questions))))


def _without_place(row: OrderRow, product: Product, choices: Mapping[Word, str]) -> Iterator[str]:
    """What the row says and the product has no place for: nothing of it is dropped without a word."""
    if row.size and product.size_system is None:
        yield f"The row has the size “{row.size[:20]}”, but {product.name} has no sizes."
    if row.logo and not product.takes_logo:
        yield f"The row names the logo “{row.logo[:40]}”, but {product.name} takes none."
    if row.second and product.second_plan is None:
        yield f"The row has a second wording, “{row.second[:40]}”, for which {product.name} has no place."
    for word, text in _asked_words(row):
        if word not in choices:
            offered = _offered(product, product.choices(word))
            yield f"The row asks for the {word.value} “{text[:40]}”. {offered}"
    if row.colour and not any(word in choices for word in _BY_COLOUR):
        own = {product.body_colour.casefold(), product.lettering_colour.casefold()} - {""}
        if row.colour.casefold() not in own:
            yield f"The row asks for the colour “{row.colour[:40]}”; {product.name} has none to choose from."


def _asked_words(row: OrderRow) -> Iterator[tuple[Word, str]]:
    asked = ((Word.TYPEFACE, row.typeface), (Word.MATERIAL, row.material), (Word.FINISH, row.finish))
    return ((word, text) for word, text in asked if text)


#: A shop's colour is often its metal or its finish.
_BY_COLOUR = (Word.MATERIAL, Word.FINISH)


def inputs_of(
    product: Product,
    settled: Settled,
    *,
    second: str,
    logo: str,
    logos: Shelf | None,
    size: RingSize | None,
    typeface: Typeface | None = None,
    height_cap_mm: float | None = None,
    second_day_first: bool | None = None,
    language: str = "",
    setting: Setting = AS_THE_PRODUCT,
) -> Inputs:
    """What a piece is made from: the settled wording with its second part and its logo or code."""
    question = settled.open_question
    artwork: Artwork | None = None
    try:
        if product.wording.kind in _CODES and settled.wording.text:
            artwork = square_code(settled.wording.text, kind=product.wording.kind.value)
        elif logo and product.takes_logo and logos is not None:
            artwork = logos.find(logo)
            question = question or ("" if artwork else logos.why_not(logo))
    except ArtworkError as error:
        question = question or str(error)
    plan = product.second_plan
    other = None
    if setting.second is not None:
        second = setting.second
    if plan is not None and second:
        other = settle(second, plan, day_first=second_day_first, language=language)
    if other is not None and other.open_question:
        question = question or f"Second wording: {other.open_question}"
    said = other.wording.text if other is not None else ""
    if setting.second is not None:
        setting = replace(setting, second=said)
    return Inputs(
        product=product,
        wording=settled.wording.text,
        size=size,
        second=said,
        artwork=artwork,
        typeface=typeface,
        height_cap_mm=height_cap_mm,
        open_question=question,
        setting=setting,
    )


_CODES = (WordingKind.QR_CODE, WordingKind.DATA_MATRIX)


def asked_for(
    row: OrderRow, product: Product, catalogue: Catalogue, faults: list[RowError]
) -> dict[Word, str]:
    """Typeface, material and finish that a row asks for, by code; what it leaves open is absent.

    Parameters
    ----------
    faults : gets words that stand for nothing, where the product leaves a choice
    """
    found = {}
    for word, text in _asked_words(row):
        names = names_of(word, catalogue)
        key = fold_code(text)
        code = catalogue.aliases.get((word, key)) or names.get(key)
        offered = product.choices(word)
        if code is None and word is Word.FINISH:
            code = next((c for c in offered if fold_code(c) == key), None)
        if code in offered:
            found[word] = code
        elif code is None and len(offered) > 1:
            # A word that stands for nothing yet may be given its meaning, for all rows that have it.
            known = {**names, **({fold_code(c): c for c in offered} if word is Word.FINISH else {})}
            near = _nearest(key, known)
            hint = f"Did you mean {' or '.join(near)}?" if near else _offered(product, offered)
            faults.append(RowError(f"There is no {word.value} “{text[:40]}”. {hint}", column=word.value))
    if row.colour:
        for word in _BY_COLOUR:
            names = names_of(word, catalogue)
            key = fold_code(row.colour)
            code = catalogue.aliases.get((word, key)) or names.get(key)
            if word not in found and code is not None and code in product.choices(word):
                found[word] = code
                break
    return found


def _offered(product: Product, offered: Sequence[str]) -> str:
    return f"{product.name} comes in {', '.join(offered) if offered else 'one way'} only."


def names_of(word: Word, catalogue: Catalogue) -> dict[str, str]:
    """Folded names and codes by which the shop knows its typefaces, materials or finishes."""
    if word is Word.TYPEFACE:
        named = {code: row.name for code, row in shipped_typefaces().items()} | dict(catalogue.typeface_names)
    elif word is Word.MATERIAL:
        named = {code: material.name for code, material in shipped_standards().materials.items()}
        for product in catalogue.products.values():
            named |= {material.code: material.name for material in product.stock}
    else:
        named = {}
        for product in catalogue.products.values():
            named |= {code: code for code in product.choices(Word.FINISH)}
    return {fold_code(name): code for code, name in named.items()} | {fold_code(code): code for code in named}


def nearest_codes(word: str, catalogue: Catalogue, *, most: int = 2) -> list[str]:
    """Product codes that a word may have meant: like the code or like the product's name."""
    choices: dict[str, str] = {}
    for product in catalogue.products.values():
        choices[product.code.casefold()] = product.code
        choices[product.name.casefold()] = product.code
    return _nearest(word, choices, most=most)


def codes_for(word: str, stands_for: Word, catalogue: Catalogue) -> list[str]:
    """Codes that a word may be given the meaning of, the likeliest first."""
    if stands_for is Word.PRODUCT:
        known = {p.code.casefold(): p.code for p in catalogue.products.values()}
        near = nearest_codes(word, catalogue)
    else:
        known = names_of(stands_for, catalogue)
        near = _nearest(fold_code(word), known)
    return list(dict.fromkeys((*near, *sorted(known.values()))))


def _nearest(word: str, choices: Mapping[str, str], *, most: int = 2) -> list[str]:
    found = process.extract(
        word.casefold(), choices.keys(), scorer=fuzz.WRatio, score_cutoff=60, limit=2 * most
    )
    return list(dict.fromkeys(choices[match[0]] for match in found))[:most]


_UNSAFE = re.compile(r"[^A-Za-z0-9._-]+")


def piece_name(order: str, line: str, number: int) -> str:
    """The file name of a piece, `<order>-<line>-<n>`, safe on every system.

    Where characters had to be replaced a short mark of the original is added, so that two orders
    never share a name. An order may have dashes, a line may not: read from the right the name is
    never in doubt.

    >>> piece_name("A-104", "2", 1)
    'A-104-2-1'
    >>> piece_name("A", "104-2", 1) != piece_name("A-104", "2", 1)
    True
    >>> piece_name("../x", "1", 1) != piece_name("./x", "1", 1)
    True
    """
    return f"{_safe(order)}-{_safe(line, dash='_')}-{number}"


def _safe(text: str, *, dash: str = "-") -> str:
    cleaned = _UNSAFE.sub("_", text).replace("-", dash).strip("._-")[:60] or "_"
    if cleaned == text:
        return cleaned
    return f"{cleaned}~{hashlib.sha256(text.encode()).hexdigest()[:6]}"
