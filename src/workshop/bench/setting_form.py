"""The fields of a setting as the Bench shows them, in groups, each with the product's own value beside it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import islice
from typing import Any

from kizami.as_made.treatment import CutOut
from kizami.errors import AdjustmentError
from kizami.lettering.line_breaks import broken_at, every_way_to_break
from kizami.lettering.shipped import shipped_typefaces
from kizami.products.product import FurtherArea, Product, Word
from kizami.setting.on_blank import thickness_of, width_of
from kizami.setting.setting import depth_of, on_area
from kizami.setting.typed import unit_of
from kizami.setting.values import (
    BOUNDS,
    DIRECTIONS,
    GAPS,
    LABELS,
    MOST_LINES,
    MOST_TIMES,
    SHAPES,
    TIES,
    TREATMENTS,
)
from kizami.sizes import RingSize
from workshop.catalogue.models import ShopTypeface, retired_typefaces

__all__ = ["FieldGroup", "SettingField", "known_typeface", "lines_field", "setting_groups"]


@dataclass(frozen=True, kw_only=True, slots=True)
class SettingField:
    """One value.

    Attributes
    ----------
    kind : “number”, “choice”, “text”, “flag” or “lines”, a choice that follows the wording
    unit : shown behind a number
    own : the product's own, in words
    bounds : of a number, in words
    options : of a choice: groups of codes with their names
    """

    name: str
    label: str
    kind: str
    value: Any
    unit: str = ""
    own: str = ""
    bounds: str = ""
    options: tuple[tuple[str, tuple[tuple[str, str], ...]], ...] = ()

    @property
    def key(self) -> str:
        """The name where it may have no spaces."""
        return "-".join(self.name.split())


@dataclass(frozen=True, kw_only=True, slots=True)
class FieldGroup:
    """Fields that belong together; open when one of them is set."""

    title: str
    fields: tuple[SettingField, ...]
    is_set: bool


#: What a number is shown in, where its name does not say.
_UNITS = {
    "tracking": "× height", "word_space": "× height", "tightest": "× height", "narrowest": "× width",
    "leading": "× height", "shape_amount": "mm or %",
}  # fmt: skip


def setting_groups(
    product: Product,
    choices: Mapping[str, Any],
    *,
    wording: str = "",
    has_second: bool,
    size: RingSize | None = None,
) -> list[FieldGroup]:
    """Everything that may be set, whatever the product offers.

    Parameters
    ----------
    product : as the product has it, with what the list asks for
    choices : what is set already
    wording : whose lines may be broken otherwise
    size : as received
    """
    groups = [
        *_groups_of(product, choices, wording=wording, has_second=has_second, size=size),
        *(_group_on(product, further, choices) for further in product.also),
    ]
    return [
        FieldGroup(
            title=title, fields=tuple(fields), is_set=any(one.value not in ("", False) for one in fields)
        )
        for title, fields in groups
    ]


def _number(name: str, own: float | str, choices: Mapping[str, Any]) -> SettingField:
    low, high = BOUNDS[name]
    return SettingField(
        name=name, label=LABELS[name], kind="number", value=choices.get(name, ""),
        unit=_UNITS.get(name, unit_of(name)), own=own if isinstance(own, str) else f"{own:.2f}",
        bounds=f"{low:g} to {high:g}",
    )  # fmt: skip


def _choice(
    name: str, codes: Mapping[str, str] | tuple[str, ...], choices: Mapping[str, Any], own: str = ""
) -> SettingField:
    named = tuple((c, c) for c in codes) if isinstance(codes, tuple) else tuple(codes.items())
    return SettingField(
        name=name, label=LABELS[name], kind="choice", value=choices.get(name, ""), own=own,
        options=(("", named),),
    )  # fmt: skip


def _flag(name: str, choices: Mapping[str, Any]) -> SettingField:
    return SettingField(name=name, label=LABELS[name], kind="flag", value=bool(choices.get(name)))


def _counts(most: int) -> tuple[str, ...]:
    return tuple(str(count) for count in range(1, most + 1))


def _group_on(
    product: Product, further: FurtherArea, choices: Mapping[str, Any]
) -> tuple[str, list[SettingField]]:
    """What may be set otherwise on a further area, as if it were the only one."""
    there: Mapping[str, Any] = choices.get("further", {}).get(further.area, {})
    plan, depth = further.plan, depth_of(further.treatment)
    named = {code: face.name for code, face in shipped_typefaces().items()}
    gone = retired_typefaces() - {there.get("typeface", "")}
    own = further.typeface or product.typeface
    fields = [
        _choice("typeface", {c: n for c, n in named.items() if c not in gone}, there, named.get(own, own)),
        _number("height_mm", plan.greatest_height_mm, there),
        _number("lowest_mm", plan.lowest_height_mm, there),
        _number("tracking", plan.tracking, there),
        _number("narrowest", plan.narrowest, there),
        _number("thicken_by_mm", further.soundness.thicken_by_mm, there),
        _choice("gaps", GAPS, there, further.soundness.gaps),
        _number("along_mm", "0.00", there),
        _number("across_mm", "0.00", there),
        _number("turned_deg", "0", there),
        _choice(
            "most_lines", _counts(MOST_LINES), there, str(max(plan.most_lines, 1 + further.text.count("\n")))
        ),
        _number("leading", plan.leading, there),
        _flag("upside_down", there),
        _choice("treatment", TREATMENTS, there, further.treatment.kind),
        *([_number("depth_mm", depth, there)] if depth else []),
    ]
    return f"On the {further.area}", [replace(one, name=on_area(further.area, one.name)) for one in fields]


def _groups_of(
    product: Product, choices: Mapping[str, Any], *, wording: str, has_second: bool, size: RingSize | None
) -> list[tuple[str, list[SettingField]]]:
    """Of the wording's own area and of the blank."""
    plan, soundness = product.plan, product.soundness

    def number(name: str, own: float | str) -> SettingField:
        return _number(name, own, choices)

    def choice(name: str, codes: Mapping[str, str] | tuple[str, ...], own: str = "") -> SettingField:
        return _choice(name, codes, choices, own)

    letters = [
        _typeface(product, choices),
        number("height_mm", plan.greatest_height_mm),
        number("lowest_mm", plan.lowest_height_mm),
        number("tracking", plan.tracking),
        number("word_space", product.arrangement.word_space),
        number("tightest", plan.tightest),
        number("narrowest", plan.narrowest),
        number("thicken_by_mm", soundness.thicken_by_mm),
        choice("gaps", GAPS, soundness.gaps),
        _flag("capitals", choices),
    ]
    form = [
        choice("most_lines", _counts(MOST_LINES), str(product.most_lines)),
        lines_field(wording, choices),
        number("leading", plan.leading),
        choice("shape", tuple(SHAPES)),
        number("shape_amount", "usual"),
        choice("direction", DIRECTIONS, product.arrangement.direction or "as its first letter"),
        _flag("upside_down", choices),
        *([_flag("without_second", choices)] if has_second else []),
    ]
    depth = depth_of(product.treatment)
    made = [
        *_offered(product, choices),
        *([number("depth_mm", depth)] if depth else []),
        choice("one_piece", {tie: "stay loose" if tie == "no" else tie for tie in TIES}, soundness.one_piece),
        number("bridge_mm", soundness.bridge_mm),
        number("overlap_mm", soundness.overlap_mm),
        *_of_the_blank(product, number, size=size, chosen=choices.get("size", "")),
    ]
    groups = [("Letters", letters), ("Lines and form", form), ("Making", made)]
    if not isinstance(product.treatment, CutOut):
        place = [
            number("along_mm", "0.00"),
            number("across_mm", "0.00"),
            number("turned_deg", "0"),
            choice("times", _counts(MOST_TIMES)),
        ]
        made.insert(0, choice("treatment", TREATMENTS, product.treatment.kind))
        groups.insert(1, ("Place", place))
    return groups


#: So many ways of breaking a wording are offered; whoever wants another one breaks it in the wording itself.
_MOST_BREAKS = 24


def lines_field(wording: str, choices: Mapping[str, Any]) -> SettingField:
    """Where a wording is broken into lines, each way as it would stand; without any where it can't be."""
    ways = list(islice(every_way_to_break(wording, MOST_LINES), _MOST_BREAKS))
    named = {
        " ".join(map(str, parts)): (broken_at(wording, parts) or "").replace("\n", " / ")
        for parts in (ways if len(ways) > 1 else ())
    }
    value = choices.get("breaks", "")
    if value:
        # What was set of other words stays to be seen, and to be taken out.
        named.setdefault(value, f"{value} (of other words)")
    return replace(_choice("breaks", named, choices), kind="lines")


def _of_the_blank(
    product: Product, number: Callable[[str, float], SettingField], *, size: RingSize | None, chosen: str
) -> Iterator[SettingField]:
    """Its thickness, width and size, where it has them."""
    for name, measure in (("body_mm", thickness_of), ("band_mm", width_of)):
        own = measure(product.blank)
        if own is not None:
            yield number(name, own)
    if product.size_system is not None:
        yield SettingField(name="size", label=LABELS["size"], kind="text", value=chosen, own=str(size or ""))


def known_typeface(code: str) -> None:
    """Refuse a typeface that there is not.

    Raises
    ------
    AdjustmentError : that is so
    """
    if code and code not in shipped_typefaces() and not ShopTypeface.objects.filter(code=code).exists():
        raise AdjustmentError(f"There is no typeface “{code[:40]}”; choose another.")


def _typeface(product: Product, choices: Mapping[str, Any]) -> SettingField:
    """Every typeface, those that the product offers first."""
    named = {code: face.name for code, face in shipped_typefaces().items()}
    named |= dict(ShopTypeface.objects.values_list("code", "name"))
    offered = product.choices(Word.TYPEFACE)
    value = choices.get("typeface", "")
    if value and value not in named:
        # One that is gone since stays what this piece is set in until somebody chooses another.
        named[value] = f"{value} (gone)"
    inside = tuple((code, named.get(code, code)) for code in offered)
    gone = retired_typefaces() - {value}
    outside = tuple((code, name) for code, name in named.items() if code not in offered and code not in gone)
    return SettingField(
        name="typeface", label=LABELS["typeface"], kind="choice", value=value,
        own=named.get(product.typeface, product.typeface),
        options=(("Of the product", inside), ("Outside the product", outside)),
    )  # fmt: skip


def _offered(product: Product, choices: Mapping[str, Any]) -> Iterator[SettingField]:
    """Material and finish where the product leaves a choice."""
    names = {Word.MATERIAL: {m.code: m.name for m in product.stock}, Word.FINISH: {}}
    for word, named in names.items():
        codes = product.choices(word)
        if len(codes) > 1:
            own = product.material if word is Word.MATERIAL else product.finish
            yield SettingField(
                name=word.value, label=LABELS[word.value], kind="choice", value=choices.get(word.value, ""),
                own=named.get(own, own),
                options=(("", tuple((code, named.get(code, code)) for code in codes)),),
            )  # fmt: skip
