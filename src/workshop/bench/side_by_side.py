"""Two ways of one piece, or two pieces, beside each other at one scale, with the measures that differ."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from django.http import Http404

from kizami.drawing.paths import path_data
from kizami.drawing.unrolled import Drawing, unrolled_drawing
from kizami.lettering.shipped import shipped_typefaces
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made
from kizami.remedies.remedy import Moved, moved_between
from kizami.setting.setting import AS_THE_PRODUCT
from workshop.bench.trials import trial
from workshop.making.models import Revision
from workshop.orders.models import OrderLine

__all__ = ["Compared", "Side", "choices_of", "compared", "side_of"]

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


def choices_of(line: OrderLine) -> list[tuple[str, list[tuple[str, str]]]]:
    """All that may stand on a side, in groups of codes with words."""
    revisions = line.revisions.only("number", "why")[:_MOST_REVISIONS]
    others = OrderLine.objects.beside(line)
    return [
        ("This piece", [("now", "as it is kept"), ("product", "as the product has it")]),
        ("Earlier", [(f"r{one.number}", f"{one.number}: {one.why}"[:60]) for one in revisions]),
        ("Beside it", [(f"line{one.pk}", f"{one.line}: {one.wording}"[:60]) for one in others]),
        ("In another typeface", [(f"in-{code}", face.name) for code, face in shipped_typefaces().items()]),
    ]


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
