"""Two ways of one piece, or two pieces, beside each other at one scale, with the measures that differ."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import dataclass, replace

from django.http import Http404

from kizami.as_made.treatment import CutOut
from kizami.drawing.paths import path_data
from kizami.drawing.unrolled import Drawing, unrolled_drawing
from kizami.lettering.shipped import shipped_typefaces
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made
from kizami.remedies.remedy import Moved, moved_between
from kizami.setting.setting import AS_THE_PRODUCT, Setting
from kizami.setting.values import TREATMENTS
from workshop.bench.trials import trial
from workshop.catalogue.models import retired_typefaces
from workshop.making.models import Revision
from workshop.orders.models import OrderLine

__all__ = ["Compared", "Side", "choices_of", "compared", "piece_named", "side_of"]

_WIDTH_PX, _HEIGHT_PX = 560.0, 230.0
#: What the rule under a drawing takes.
_RULE_PX, _FIGURE_PX = 44.0, 13.0
#: An earlier revision, or another line.
_NUMBERED = re.compile(r"(?P<what>r|line)(?P<number>[0-9]{1,9})")
_MOST_REVISIONS = 12


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Side:
    """One of the two.

    Attributes
    ----------
    code : as addresses name it
    said : in words
    inputs : what it is made from
    """

    code: str
    said: str
    inputs: Inputs


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Drawn:
    """A side as it is drawn."""

    side: Side
    made: Made
    drawing: Drawing
    width_px: int
    height_px: int


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Compared:
    """Both sides.

    Attributes
    ----------
    sides : at one scale
    over : the second one's letters as an outline over the first one; "" where their areas differ
    differ : measures that differ, the second one's against the first one's
    """

    sides: tuple[Drawn, Drawn]
    over: str
    differ: tuple[Moved, ...]


#: Strokes are compared thicker or thinner by so much on each side, mm.
_STROKES_MM = (-0.1, -0.05, 0.05, 0.1)


def _settings(own: Inputs) -> dict[str, tuple[str, Setting]]:
    """Ways of setting a piece that may be looked at beside it, by their codes."""
    now = own.setting
    found = {
        f"strokes{mm:+g}": (
            f"strokes {abs(mm):g} mm {'thicker' if mm > 0 else 'thinner'}",
            replace(now, thicken_by_mm=(now.thicken_by_mm or 0.0) + mm),
        )
        for mm in _STROKES_MM
    }
    product = own.as_set.product
    if not isinstance(product.treatment, CutOut):
        found |= {
            f"made-{kind}": (kind, replace(now, treatment=kind))
            for kind in TREATMENTS
            if kind != product.treatment.kind
        }
    return found


def choices_of(line: OrderLine, chosen: Collection[str] = ()) -> list[tuple[str, list[tuple[str, str]]]]:
    """All that may stand on a side, in groups of codes with words.

    Parameters
    ----------
    chosen : codes that stand there now; pieces of other orders are among the choices while they do
    """
    revisions = line.revisions.only("number", "why")[:_MOST_REVISIONS]
    others = OrderLine.objects.beside(line)
    beside = {f"line{one.pk}" for one in others}
    far = [code for code in chosen if code.startswith("line") and code not in beside]
    settings, gone = _settings(line.to_inputs()), retired_typefaces()
    return [
        ("This piece", [("now", "as it is kept"), ("product", "as the product has it")]),
        ("Earlier", [(f"r{one.number}", f"{one.number}: {one.why}"[:60]) for one in revisions]),
        ("Beside it", [(f"line{one.pk}", f"{one.line}: {one.wording}"[:60]) for one in others]),
        ("Of another order", [(code, side_of(code, line).said[:60]) for code in far]),
        ("Set otherwise", [(code, said) for code, (said, _) in settings.items()]),
        (
            "In another typeface",
            [(f"in-{code}", f.name) for code, f in shipped_typefaces().items() if code not in gone],
        ),
    ]


def piece_named(written: str) -> OrderLine | None:
    """The newest line whose ticket code is this, such as “E-2101-2”."""
    order, _, number = written.strip().rpartition("-")
    return OrderLine.objects.filter(order__iexact=order, line=number).order_by("-pk").first()


def side_of(code: str, line: OrderLine) -> Side:
    """What a code stands for.

    Raises
    ------
    Http404 : nothing
    """
    own = line.to_inputs()
    if code == "now":
        return Side(code=code, said="As it is kept", inputs=own)
    if code == "product":
        return Side(code=code, said="As the product has it", inputs=replace(own, setting=AS_THE_PRODUCT))
    if code.startswith("in-") and (face := shipped_typefaces().get(code.removeprefix("in-"))):
        setting = replace(own.setting, typeface=face.code)
        return Side(code=code, said=f"In {face.name}", inputs=replace(own, setting=setting))
    otherwise = _settings(own).get(code)
    if otherwise is not None:
        said, setting = otherwise
        return Side(code=code, said=said.capitalize(), inputs=replace(own, setting=setting))
    numbered = _NUMBERED.fullmatch(code)
    if numbered is not None and numbered["what"] == "r":
        revision = Revision.objects.filter(line=line, number=int(numbered["number"])).first()
        if revision is not None:
            return Side(code=code, said=f"{revision.number}: {revision.why}", inputs=revision.to_inputs())
    elif numbered is not None:
        other = OrderLine.objects.select_related("product").filter(pk=int(numbered["number"])).first()
        if other is not None:
            return Side(code=code, said=f"{other}: {other.wording}", inputs=other.to_inputs())
    raise Http404("There is nothing of this name to be put beside it.")


def compared(one: Side, other: Side) -> Compared:
    """Both made and measured, and drawn at one scale."""
    made = trial(one.inputs), trial(other.inputs)
    boxes = [m.laid_out.area.bounds for m in made]
    scale = min(
        _WIDTH_PX / max(box[2] - box[0] for box in boxes),
        (_HEIGHT_PX - _RULE_PX) / max(box[3] - box[1] for box in boxes),
    )
    over = ""
    if boxes[0] == boxes[1]:
        over = path_data(made[1].laid_out.layout.outlines, top_mm=boxes[0][3])
    return Compared(
        sides=(_drawn(one, made[0], scale), _drawn(other, made[1], scale)),
        over=over,
        differ=moved_between(made[0].findings, made[1].findings),
    )


def _drawn(side: Side, made: Made, scale: float) -> Drawn:
    laid = made.laid_out
    drawing = unrolled_drawing(laid.area, laid.layout, (), text_mm=_FIGURE_PX / scale)
    _, _, width_mm, height_mm = drawing.view_box
    return Drawn(
        side=side,
        made=made,
        drawing=drawing,
        width_px=round(width_mm * scale),
        height_px=round(height_mm * scale),
    )
