"""Logos from SVG files: shapes, strokes and fills become outlines; whatever could act is refused.

What is painted light over dark is cut out again, as the eye sees it, so that a logo drawn with
white shapes on black ones comes out right.
"""

from __future__ import annotations

import io
import math
import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from xml.etree.ElementTree import Element, ParseError, tostring

import manifold3d as m3
import pathops
import shapely
import svgelements as se
from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from kizami.artwork.artwork import FINEST, Artwork, artwork_of
from kizami.artwork.svg_unfolding import CLIPS, REGION, TooManyShapes, opacity_of, unfold
from kizami.errors import ArtworkError
from kizami.outlines.curves import flatten

__all__ = ["LARGEST_SVG_BYTES", "MOST_SHAPES", "read_svg", "svg_paths"]

LARGEST_SVG_BYTES = 4 * 1024 * 1024
MOST_SHAPES = 4000
MOST_CHARACTERS_OF_PATH = 1_000_000

_REFUSED = {
    "script": "a script",
    "foreignObject": "content of another kind",
    "image": "a picture inside; send the picture itself",
    "animate": "an animation",
    "animateTransform": "an animation",
    "animateMotion": "an animation",
    "set": "an animation",
    "iframe": "a page inside",
}
_DRAWN = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "use"}
_HREF = ("href", "{http://www.w3.org/1999/xlink}href")
#: Curves are worked on at this size, for which the path library's tolerances are made.
_WORKING_SIZE = 2000.0
#: Paint lighter than this is paper, darker is ink.
_LIGHT = 0.75
#: Paint that covers less is a tint over what is below, not ink.
_TINT = 0.5


def read_svg(data: bytes, *, name: str) -> Artwork:
    """Read a logo.

    Raises
    ------
    ArtworkError : too large, broken, unsafe, or without anything that has an area
    """
    root, texts = _checked(data, name)
    with _read_as_svg(name):
        drawing, elements, not_followed = _shapes(root)
        ink = _ink(elements, name)
    window = _window(drawing)
    if window is not None:
        # What lies outside the drawing's own window is not seen, and so not meant.
        scale = _working_scale(elements, name)
        ink = ink.intersection(shapely.box(*(scale * side for side in window)))
    return artwork_of(ink, name=name, changed=(*texts, *not_followed))


def svg_paths(data: bytes, *, name: str) -> list[se.Path]:
    """What is drawn in a file as lines, whatever its paint, moved to where it stands; 96 units an inch.

    Raises
    ------
    ArtworkError : too large, broken or unsafe
    """
    root, _ = _checked(data, name)
    with _read_as_svg(name):
        _, elements, _ = _shapes(root)
        return [abs(se.Path(one)) for one in elements if not one.values.get(REGION)]


def _shapes(root: Element) -> tuple[se.SVG, list[Any], tuple[str, ...]]:
    """The drawing, its shapes, and what of it is not followed."""
    unfolded = unfold(root, most=4 * MOST_SHAPES)
    for path in unfolded.root.iter("path"):
        path.set("d", _reflected_right(path.get("d", "")))
    drawing = se.SVG.parse(io.BytesIO(tostring(unfolded.root)), reify=False, ppi=96.0)
    shapes = [e for e in drawing.elements() if isinstance(e, se.Shape)]
    return drawing, shapes, unfolded.not_followed


@contextmanager
def _read_as_svg(name: str) -> Iterator[None]:
    """What the reader stumbles over is a drawing that is not one."""
    try:
        yield
    except TooManyShapes as error:
        raise ArtworkError(f"“{name}” unfolds to more than {4 * MOST_SHAPES} shapes. Simplify it.") from error
    except (
        ValueError,
        TypeError,
        AttributeError,
        IndexError,
        KeyError,
        ZeroDivisionError,
        OverflowError,
        RecursionError,
    ) as error:
        raise ArtworkError(f"“{name}” is not drawn as SVG asks and can't be read.") from error


# -- what is refused before anything is drawn


def _checked(data: bytes, name: str) -> tuple[Element, list[str]]:
    """The drawing, and the texts that were taken out of it."""
    if len(data) > LARGEST_SVG_BYTES:
        raise ArtworkError(
            f"“{name}” has {len(data) / 1024 / 1024:.1f} MB; a logo may have "
            f"{LARGEST_SVG_BYTES // 1024 // 1024} MB. Simplify it."
        )
    try:
        root: Element = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException as error:
        raise ArtworkError(
            f"“{name}” declares XML entities, which no logo needs. It was not opened."
        ) from error
    except (ParseError, ValueError, LookupError) as error:
        raise ArtworkError(f"“{name}” is not a whole SVG file: {error}.") from error
    if _local(root.tag) != "svg":
        raise ArtworkError(f"“{name}” is XML but not an SVG drawing.")
    texts = _walk(root, name)
    _bounded_uses(root, name)
    return root, texts


def _walk(root: Element, name: str) -> list[str]:
    """Look at every element once: refuse what acts or reaches out, take out text and name it."""
    texts: list[str] = []
    count = path_characters = 0
    for parent in list(root.iter()):
        for child in list(parent):
            tag = _local(child.tag)
            if tag == "text":
                texts.append(" ".join("".join(child.itertext()).split()))
                parent.remove(child)
    for element in root.iter():
        tag = _local(element.tag)
        if tag in _REFUSED:
            raise ArtworkError(f"“{name}” has {_REFUSED[tag]}. It was not taken.")
        if tag in _DRAWN:
            count += 1
            path_characters += len(element.get("d", "")) + len(element.get("points", ""))
        if tag == "style":
            _check_style(element.text or "", name)
        for key, value in element.attrib.items():
            _check_attribute(_local(key), value, name)
    if count > MOST_SHAPES or path_characters > MOST_CHARACTERS_OF_PATH:
        raise ArtworkError(
            f"“{name}” has {count} shapes; a logo that can be made has at most {MOST_SHAPES}. Simplify it."
        )
    return [f"the text “{'”, “'.join(t[:30] for t in texts[:3])}”"] if texts else []


def _check_attribute(key: str, value: str, name: str) -> None:
    if key.lower().startswith("on"):
        raise ArtworkError(f"“{name}” has a script in “{key}”. It was not taken.")
    if key == "href" and not value.strip().startswith("#"):
        raise ArtworkError(f"“{name}” refers to something outside the file. It was not taken.")
    if key == "style":
        _check_style(value, name)
    if "url(" in value and not re.search(r"url\(\s*['\"]?#", value):
        raise ArtworkError(f"“{name}” refers to something outside the file. It was not taken.")


def _check_style(text: str, name: str) -> None:
    if "@import" in text or re.search(r"url\(\s*['\"]?(?!#)", text):
        raise ArtworkError(f"“{name}” refers to something outside the file. It was not taken.")


def _bounded_uses(root: Element, name: str) -> None:
    """Refuse a drawing that uses itself, or that unfolds to more than can be made."""
    by_id = {e.get("id"): e for e in root.iter() if e.get("id")}
    sizes: dict[int, int] = {}

    def size(element: Element, above: frozenset[int], depth: int) -> int:
        key = id(element)
        if key in above or depth > 60:
            raise ArtworkError(f"“{name}” uses a part within itself. It was not taken.")
        if key not in sizes:
            total = 1
            for child in element:
                total += size(child, above | {key}, depth + 1)
            if _local(element.tag) == "use":
                target = by_id.get(
                    next((element.get(h, "") for h in _HREF if element.get(h)), "").lstrip("#")
                )
                if target is not None:
                    total += size(target, above | {key}, depth + 1)
            sizes[key] = total
        return sizes[key]

    if size(root, frozenset(), 0) > 4 * MOST_SHAPES:
        raise ArtworkError(f"“{name}” unfolds to more than {4 * MOST_SHAPES} shapes. Simplify it.")


def _local(tag: Any) -> str:
    return str(tag).rsplit("}", 1)[-1]


# -- drawing


def _reflected_right(d: str) -> str:
    """A path whose smooth curves are parted by a line of no length from curves of another kind before them:
    only curves of their own kind are reflected (SVG 1.1, 8.3; from memory), which not every reader knows.

    >>> _reflected_right("M0 0T9 9S1 1 2 2"), _reflected_right("M0 0S1 1 2 2")
    ('M0 0l0 0T9 9l0 0S1 1 2 2', 'M0 0l0 0S1 1 2 2')
    """
    if not re.search("[sStT]", d):
        return d
    parts, before = [], ""
    for part in re.split("([a-df-zA-DF-Z])", d):
        kind = part.lower()
        if kind in ("s", "t") and before not in (("c", "s") if kind == "s" else ("q", "t")):
            parts.append("l0 0")
        if len(part) == 1 and part.isalpha():
            before = kind
        parts.append(part)
    return "".join(parts)


def _ink(elements: list[Any], name: str) -> shapely.MultiPolygon:
    """All ink as bodies with holes at the working size.

    Shapes are joined as polygons far finer than anything that is made: joining curves fails now
    and then on ordinary drawings.
    """
    scale = _working_scale(elements, name)
    regions = _regions([e for e in elements if e.values.get(REGION)], scale)
    ink = m3.CrossSection()
    # Neighbours of one kind of paint are joined all at once: one by one, every dot meets all before it.
    alike: list[Any] = []
    so_far: tuple[bool, str] = (False, "")
    for element in elements:
        if element.values.get(REGION):
            continue
        clips = str(element.values.get(CLIPS) or "")
        for path, is_light in _painted(element, scale):
            if (is_light, clips) != so_far:
                ink, alike = _laid_over(ink, alike, so_far, regions), []
                so_far = (is_light, clips)
            alike.append(_section(path))
    ink = _laid_over(ink, alike, so_far, regions)
    bodies = []
    for part in ink.decompose():
        rings = [shapely.Polygon(ring) for ring in part.to_polygons()]
        if not rings:
            continue  # a line has no area
        outer = max(rings, key=lambda ring: ring.area)
        bodies.append(shapely.Polygon(outer.exterior, [r.exterior for r in rings if r is not outer]))
    return shapely.MultiPolygon(bodies)


def _section(path: pathops.Path) -> Any:
    rule = m3.FillRule.EvenOdd if path.fillType == pathops.FillType.EVEN_ODD else m3.FillRule.NonZero
    path.convertConicsToQuads(_WORKING_SIZE * FINEST / 4.0)
    return m3.CrossSection(flatten(path, sagitta=_WORKING_SIZE * FINEST), rule)


def _regions(elements: list[Any], scale: float) -> dict[str, Any]:
    """The regions that something is seen in, by number."""
    shapes: dict[str, list[Any]] = {}
    for element in elements:
        shapes.setdefault(element.values[REGION], []).append(element)
    found: dict[str, Any] = {}

    def region(number: str) -> Any:
        # A region never refers to itself: unfolding has walked down to its ends.
        if number not in found:
            found[number] = m3.CrossSection()
            by_clips: dict[str, list[Any]] = {}
            for element in shapes.get(number, ()):
                of_same = by_clips.setdefault(str(element.values.get(CLIPS) or ""), [])
                of_same.extend(_section(path) for path, _ in _painted(element, scale))
            for clips, sections in by_clips.items():
                seen = m3.CrossSection.batch_boolean(sections, m3.OpType.Add)
                for other in clips.split():
                    seen = seen ^ region(other)
                found[number] = found[number] + seen
        return found[number]

    for number in shapes:
        region(number)
    return found


def _laid_over(ink: Any, sections: list[Any], how: tuple[bool, str], regions: dict[str, Any]) -> Any:
    """Ink with more ink, or with paper, where it is seen: on bare paper that changes nothing."""
    if not sections:
        return ink
    is_light, clips = how
    together = m3.CrossSection.batch_boolean(sections, m3.OpType.Add)
    for number in clips.split():
        together = together ^ regions.get(number, m3.CrossSection())
    return ink - together if is_light else ink + together


def _window(drawing: Any) -> tuple[float, float, float, float] | None:
    """The drawing's window in its own units after its view box was applied, or None when it has none."""
    if drawing.viewbox is None:
        return None
    box, matrix = drawing.viewbox, se.Matrix(drawing.viewbox_transform)
    try:
        corners = [
            matrix.point_in_matrix_space((box.x + share * box.width, box.y + share * box.height))
            for share in (0.0, 1.0)
        ]
    except (TypeError, ValueError, AttributeError):
        return None
    sides = (corners[0].x, corners[0].y, corners[1].x, corners[1].y)
    return sides if all(math.isfinite(side) for side in sides) and sides[2] > sides[0] else None


def _working_scale(elements: list[Any], name: str) -> float:
    sizes = []
    for element in elements:
        try:
            box = _box_of(element)
        except (ValueError, TypeError, ZeroDivisionError, OverflowError):
            box = None
        if box is not None and all(v is not None and math.isfinite(v) for v in box):
            sizes.append(max(box[2] - box[0], box[3] - box[1]))
    largest = max(sizes, default=0.0)
    if not largest > 0 or not math.isfinite(largest):
        raise ArtworkError(f"“{name}” draws nothing that has a size, so there is nothing to make of it.")
    return _WORKING_SIZE / largest


def _box_of(element: Any) -> Any:
    """The box round an element; of round ones from their middle, not from their arcs one by one."""
    if not isinstance(element, se.Circle | se.Ellipse):
        return element.bbox(transformed=True, with_stroke=True)
    m, width = element.transform, _number(element.values.get("stroke-width"), 1.0)
    wide = math.hypot(m.a * element.rx, m.c * element.ry) + width * _stroke_scale(m)
    high = math.hypot(m.b * element.rx, m.d * element.ry) + width * _stroke_scale(m)
    x, y = (m.a * element.cx + m.c * element.cy + m.e, m.b * element.cx + m.d * element.cy + m.f)
    return (x - wide, y - high, x + wide, y + high)


def _painted(element: Any, scale: float) -> Iterator[tuple[pathops.Path, bool]]:
    """What an element paints, fill first: outlines at the working size, and whether it is light."""
    values = element.values
    if values.get("display") == "none" or values.get("visibility") in ("hidden", "collapse"):
        return
    matrix = element.transform
    local = _stroke_scale(matrix) * scale
    is_round = isinstance(element, se.Circle | se.Ellipse)
    path = _round_path(element, local) if is_round else _path_of(se.Path(element), local)
    if path is None:
        return
    back = (matrix.a, matrix.b, matrix.c, matrix.d, matrix.e, matrix.f)
    fill = _paint(element.fill, values.get("fill"), values, "fill-opacity")
    painted = []
    if fill is not None:
        filled = pathops.Path(path)
        filled.fillType = (
            pathops.FillType.EVEN_ODD if values.get("fill-rule") == "evenodd" else pathops.FillType.WINDING
        )
        painted.append((_placed(filled, local, back, scale), fill))
    stroke = _paint(element.stroke, values.get("stroke"), values, "stroke-opacity")
    width = _number(values.get("stroke-width"), 1.0)
    if stroke is not None and values.get("stroke") not in (None, "none") and width > 0:
        line = pathops.Path(path)
        line.stroke(
            width * local,
            _CAPS.get(str(values.get("stroke-linecap", "butt")), pathops.LineCap.BUTT_CAP),
            _JOINS.get(str(values.get("stroke-linejoin", "miter")), pathops.LineJoin.MITER_JOIN),
            _number(values.get("stroke-miterlimit"), 4.0),
            **_dashes(values, local),
        )
        line.fillType = pathops.FillType.WINDING
        painted.append((_placed(line, local, back, scale), stroke))
    order = str(values.get("paint-order") or "normal")
    yield from reversed(painted) if order.strip().startswith("stroke") else painted


_CAPS = {
    "butt": pathops.LineCap.BUTT_CAP,
    "round": pathops.LineCap.ROUND_CAP,
    "square": pathops.LineCap.SQUARE_CAP,
}
_JOINS = {
    "miter": pathops.LineJoin.MITER_JOIN,
    "round": pathops.LineJoin.ROUND_JOIN,
    "bevel": pathops.LineJoin.BEVEL_JOIN,
}


def _dashes(values: Any, local: float) -> dict[str, Any]:
    text = str(values.get("stroke-dasharray") or "none")
    if text == "none":
        return {}
    lengths = [_number(part, 0.0) * local for part in re.split(r"[\s,]+", text.strip()) if part]
    if not lengths or sum(lengths) <= 0:
        return {}
    return {
        "dash_array": lengths if len(lengths) % 2 == 0 else lengths * 2,
        "dash_offset": _number(values.get("stroke-dashoffset"), 0.0) * local,
    }


def _number(text: Any, usual: float) -> float:
    if text is None:
        return usual
    try:
        value = float(se.Length(str(text)).value(ppi=96.0))
    except (ValueError, TypeError, AttributeError):
        return usual
    return value if math.isfinite(value) else usual


def _paint(color: Any, written: Any, values: Any, opacity: str) -> bool | None:
    """True for light paint, False for dark, None for no paint at all or a mere tint."""
    if written == "none" or (color is not None and color.value is None):
        return None
    cover = opacity_of(values.get("opacity")) * opacity_of(values.get(opacity))
    if color is not None and color.value is not None and color.alpha is not None:
        cover *= color.alpha / 255.0
    if cover < _TINT:
        return None
    if color is None or color.value is None or written in (None, "currentColor"):
        return False
    if str(written).startswith("url("):
        return False
    return bool((0.2126 * color.red + 0.7152 * color.green + 0.0722 * color.blue) / 255.0 > _LIGHT)


def _stroke_scale(matrix: Any) -> float:
    return math.sqrt(abs(matrix.a * matrix.d - matrix.b * matrix.c)) or 1.0


def _path_of(shape: Any, factor: float) -> pathops.Path | None:
    """The element's own curves, untransformed but enlarged; None when a number is none."""
    path = pathops.Path()
    pen = path.getPen()
    is_open = False

    def point(p: Any) -> tuple[float, float]:
        return (float(p.x) * factor, float(p.y) * factor)

    try:
        for segment in shape.segments(transformed=False):
            if isinstance(segment, se.Move):
                if is_open:
                    pen.endPath()
                pen.moveTo(point(segment.end))
                is_open = True
            elif isinstance(segment, se.Close):
                if is_open:
                    pen.closePath()
                is_open = False
            else:
                if not is_open:
                    pen.moveTo(point(segment.start))
                    is_open = True
                _segment(pen, segment, point)
        if is_open:
            pen.endPath()
    except (AttributeError, TypeError, ValueError, OverflowError):
        return None
    return _if_finite(path)


def _if_finite(path: pathops.Path) -> pathops.Path | None:
    """A path whose numbers are numbers; the path library tells no bounds of others."""
    bounds = path.bounds
    return path if bounds is not None and all(math.isfinite(b) for b in bounds) else None


def _round_path(element: Any, factor: float) -> pathops.Path | None:
    """A circle or an ellipse, untransformed but enlarged, from its right end on as SVG asks.

    Eight cubics a turn leave it by less than 5e-6 of its radius. Thousands of dots are drawn so at once,
    where general arcs would be worked out one by one.
    """
    cx, cy, rx, ry = (float(v) * factor for v in (element.cx, element.cy, element.rx, element.ry))
    reach = 4.0 / 3.0 * math.tan(math.pi / 16.0)
    path = pathops.Path()
    pen = path.getPen()
    pen.moveTo((cx + rx, cy))
    for place in range(8):
        a, b = place * math.pi / 4.0, (place + 1) * math.pi / 4.0
        pen.curveTo(
            (cx + rx * (math.cos(a) - reach * math.sin(a)), cy + ry * (math.sin(a) + reach * math.cos(a))),
            (cx + rx * (math.cos(b) + reach * math.sin(b)), cy + ry * (math.sin(b) - reach * math.cos(b))),
            (cx + rx * math.cos(b), cy + ry * math.sin(b)),
        )
    pen.closePath()
    return _if_finite(path)


def _segment(pen: Any, segment: Any, point: Any) -> None:
    if isinstance(segment, se.Line):
        pen.lineTo(point(segment.end))
    elif isinstance(segment, se.QuadraticBezier):
        pen.qCurveTo(point(segment.control), point(segment.end))
    elif isinstance(segment, se.CubicBezier):
        pen.curveTo(point(segment.control1), point(segment.control2), point(segment.end))
    elif isinstance(segment, se.Arc):
        if segment.rx == 0 or segment.ry == 0:
            pen.lineTo(point(segment.end))
            return
        # Eight cubics a turn leave an ellipse by less than 5e-6 of its radius.
        for cubic in segment.as_cubic_curves(
            arc_required=max(1, math.ceil(abs(segment.sweep) / (math.pi / 4)))
        ):
            pen.curveTo(point(cubic.control1), point(cubic.control2), point(cubic.end))


def _placed(path: pathops.Path, local: float, matrix: tuple[float, ...], scale: float) -> pathops.Path:
    """From the enlarged own coordinates to the working size of the whole drawing."""
    a, b, c, d, e, f = matrix
    back = scale / local
    return path.transform(a * back, b * back, c * back, d * back, e * scale, f * scale)
