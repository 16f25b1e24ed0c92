"""A drawing unfolded to plain groups and shapes, before its outlines are worked out.

What is used is put where it is used, symbols and drawings within drawings become groups with the transform
of their window, and clipping becomes regions: shapes that are marked with a number, and a list of numbers on
whatever is seen only within them. What is only defined, or belongs to another language, is left out.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from xml.etree.ElementTree import Element, SubElement

import svgelements as se

from kizami.artwork.svg_features import LENGTHS, features_of, in_letters
from kizami.artwork.svg_styles import properties_of, style_into_elements

__all__ = ["CLIPS", "REGION", "TooManyShapes", "Unfolded", "opacity_of", "unfold"]

#: Attributes of the unfolded drawing: the region that a shape belongs to, and those that a shape is seen in.
REGION, CLIPS = "data-region", "data-clips"
_SVG = "http://www.w3.org/2000/svg"
_SHAPES = frozenset(("path", "rect", "circle", "ellipse", "line", "polyline", "polygon"))
_GROUPS = frozenset(("g", "a", "svg", "switch"))
_URL = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)\s*(.*)", re.DOTALL)
#: Handled here, or said once for all shapes of a group.
_TAKEN_OVER = frozenset(("clip-path", "mask", "opacity", "id", "class", "style", "transform", "href"))
_GEOMETRY = frozenset(("x", "y", "width", "height", "viewBox", "preserveAspectRatio", "overflow", "version"))
#: A region is where its shapes are, however they would be painted.
_ALL_OF_IT = {"fill": "#000", "stroke": "none", "opacity": "1", "fill-opacity": "1"}
#: Far more than any logo has in depth.
_DEEPEST = 60


class TooManyShapes(Exception):
    """What is used again and again would unfold to more than is asked for."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Unfolded:
    """A drawing of plain groups and shapes.

    Attributes
    ----------
    root : it
    not_followed : what it uses that is not followed, each once
    """

    root: Element
    not_followed: tuple[str, ...]


def unfold(root: Element, *, most: int = 16_000) -> Unfolded:
    """Unfold a drawing; see the module.

    Raises
    ------
    TooManyShapes : it would have more than `most` groups and shapes

    >>> from xml.etree.ElementTree import fromstring
    >>> text = '<svg><defs><path id="p" d="M0 0h9v9z"/></defs><use href="#p" x="3"/></svg>'
    >>> found = unfold(fromstring(text))
    >>> [e.tag for e in found.root.iter()], found.root.find("g/g").get("transform")
    (['svg', 'g', 'g', 'path'], 'translate(3.0,0.0)')
    """
    notes = list(style_into_elements(root))
    by_id: dict[str | None, Element] = {e.get("id"): e for e in root.iter() if e.get("id")}
    one = _Unfolding(by_id=by_id, notes=notes, left=most)
    said = properties_of(root)
    plain = Element("svg", {k: v for k, v in said.items() if k in _GEOMETRY})
    one.notes.extend(features_of(root, said, one.by_id))
    if said.get("transform", "none") != "none":
        one.notes.append("a window that is turned")
    if said.get("clip-path", "none") != "none":
        one.notes.append("clipping of the whole window")
    said = {k: v for k, v in said.items() if k != "transform"}
    inside = SubElement(plain, "g", one.attributes(said))
    state = _State(clips=(), opacity=opacity_of(said.get("opacity")), depth=0)
    for child in root:
        one.build(child, inside, state)
    return Unfolded(root=plain, not_followed=tuple(dict.fromkeys(one.notes)))


@dataclass(frozen=True, kw_only=True, slots=True)
class _State:
    """What holds for everything in a group: regions it is seen in, how much it covers, how deep it lies, and
    the rule by which shapes of a region are filled."""

    clips: tuple[int, ...]
    opacity: float
    depth: int
    clip_rule: str = "nonzero"


@dataclass(frozen=True, kw_only=True, slots=True)
class _Box:
    """Where a window stands, and its size as it is written."""

    x: float = 0.0
    y: float = 0.0
    wide: str | None
    high: str | None


@dataclass(kw_only=True, slots=True)
class _Unfolding:
    """One unfolding: what may be referred to, what is not followed so far, how much more there may be,
    regions that neighbours share, and numbers for more."""

    by_id: Mapping[str | None, Element]
    notes: list[str]
    left: int
    shared: dict[tuple[int, int, str], tuple[int, Element]] = field(default_factory=dict)
    numbers: Iterator[int] = field(default_factory=lambda: itertools.count(1))

    def build(self, element: Element, into: Element, state: _State, *, region: int = 0) -> None:
        """Add an element, with all that it stands for, to a group."""
        tag = _local(element.tag)
        if not _is_svg(element):
            return
        if state.depth > _DEEPEST:
            self.notes.append("groups that lie very deep")
            return
        if tag not in _SHAPES and tag not in _GROUPS and tag != "use":
            return
        self.left -= 1
        if self.left < 0:
            raise TooManyShapes
        said = properties_of(element)
        if said.get("display") == "none":
            return
        self.notes.extend(features_of(element, said, self.by_id))
        into, said, state = self._clipped(said, into, state)
        state = replace(
            state,
            opacity=state.opacity * opacity_of(said.get("opacity")),
            depth=state.depth + 1,
            clip_rule=said.get("clip-rule", state.clip_rule),
        )
        if tag in _SHAPES:
            self._shape(tag, said, into, state, region)
        elif tag == "use":
            self._used(said, into, state, region)
        elif tag == "svg":
            box = _Box(
                x=_length(said.get("x")),
                y=_length(said.get("y")),
                wide=said.get("width"),
                high=said.get("height"),
            )
            self._windowed(element, said, into, state, box=box, region=region)
        else:
            self._group(element, self.attributes(said), into, state, region)

    def attributes(self, said: Mapping[str, str]) -> dict[str, str]:
        """What a group or a shape says, as attributes."""
        kept = {
            k: v
            for k, v in said.items()
            if k not in _TAKEN_OVER and k not in _GEOMETRY and not k.startswith("-")
        }
        kept |= {k: self._paint(kept[k]) for k in ("fill", "stroke") if k in kept}
        if said.get("transform", "none") != "none":
            kept["transform"] = said["transform"]
        return kept

    def _paint(self, value: str) -> str:
        """Paint that refers to nothing is what comes after it, or none (SVG 1.1, 11.2; from memory)."""
        found = _URL.match(value.strip())
        if found and found.group(1) not in self.by_id:
            return found.group(2).strip() or "none"
        return "none" if value.strip().startswith("context-") else value

    def _group(
        self, element: Element, said: dict[str, str], into: Element, state: _State, region: int
    ) -> None:
        group = SubElement(into, "g", said)
        for child in element:
            self.build(child, group, state, region=region)

    def _shape(self, tag: str, said: dict[str, str], into: Element, state: _State, region: int) -> None:
        plain = {k: v for k, v in said.items() if k in _GEOMETRY} | self.attributes(said)
        # They are told; a reader of shapes would stop at them.
        plain = {k: "0" if k in LENGTHS and in_letters(v) else v for k, v in plain.items()}
        plain["opacity"] = f"{state.opacity:.4f}"
        if state.clips:
            plain[CLIPS] = " ".join(map(str, state.clips))
        if region:
            plain |= _ALL_OF_IT | {REGION: str(region), "fill-rule": state.clip_rule}
        SubElement(into, tag, plain)

    def _used(self, said: dict[str, str], into: Element, state: _State, region: int) -> None:
        target = self.by_id.get(said.get("href", "").strip().lstrip("#"))
        if target is None:
            return
        x, y = _length(said.get("x")), _length(said.get("y"))
        group = SubElement(into, "g", self.attributes({k: v for k, v in said.items() if k not in _GEOMETRY}))
        moved = f"{said['transform']} " if said.get("transform", "none") != "none" else ""
        group.set("transform", f"{moved}translate({x},{y})")
        if _local(target.tag) in ("symbol", "svg"):
            inner = properties_of(target)
            wide, high = said.get("width", inner.get("width")), said.get("height", inner.get("height"))
            self.notes.extend(features_of(target, inner, self.by_id))
            self._windowed(target, inner, group, state, box=_Box(wide=wide, high=high), region=region)
        else:
            self.build(target, group, state, region=region)

    def _windowed(
        self,
        element: Element,
        said: dict[str, str],
        into: Element,
        state: _State,
        *,
        box: _Box,
        region: int,
    ) -> None:
        """A symbol or a drawing within a drawing: its content in its window."""
        wide, high = box.wide, box.high
        view = [float(v) for v in re.findall(r"[-+]?[\d.]+(?:[eE][-+]?\d+)?", said.get("viewBox", ""))]
        group = SubElement(into, "g", self.attributes(said))
        place = f"translate({box.x},{box.y})"
        group.set("transform", f"{group.get('transform', '')} {place}".strip())
        sized = all(size and not str(size).strip().endswith("%") for size in (wide, high))
        if sized and said.get("overflow", "hidden") not in ("visible", "auto"):
            number = next(self.numbers)
            edge = {"x": "0", "y": "0", "width": str(wide), "height": str(high), REGION: str(number)}
            SubElement(group, "rect", _ALL_OF_IT | edge)
            state = replace(state, clips=(*state.clips, number))
        if len(view) == 4 and view[2] > 0 and view[3] > 0:
            if not sized:
                self.notes.append("windows without a size")
            else:
                how = said.get("preserveAspectRatio", "xMidYMid meet")
                fitted = _fitted(view, _length(wide), _length(high), how)
                group = SubElement(group, "g", {"transform": fitted})
        for child in element:
            self.build(child, group, state, region=region)

    def _clipped(
        self, said: dict[str, str], into: Element, state: _State
    ) -> tuple[Element, dict[str, str], _State]:
        """An element that is clipped stands in a group with its transform, beside the region that it is seen
        in."""
        found = _URL.match(said.get("clip-path", "").strip())
        target = self.by_id.get(found.group(1)) if found else None
        if target is None or _local(target.tag) != "clipPath":
            return into, said, state
        clip = properties_of(target)
        if state.depth > _DEEPEST:
            raise TooManyShapes
        if clip.get("clipPathUnits") == "objectBoundingBox":
            self.notes.append("clipping in units of the shape")
            return into, said, state
        wrapper = SubElement(into, "g")
        if said.get("transform", "none") != "none":
            wrapper.set("transform", said["transform"])
        # Neighbours that are seen through the same window share it.
        key = (id(target), id(into), said.get("transform", ""))
        number, _ = self.shared.get(key, (0, into))
        if not number:
            number = next(self.numbers)
            # The group is kept with it, so that nothing else is ever taken for it.
            self.shared[key] = (number, into)
            rule = clip.get("clip-rule", "nonzero")
            around = _State(clips=(), opacity=1.0, depth=state.depth + 1, clip_rule=rule)
            at, clip, around = self._clipped(clip, wrapper, around)
            region = SubElement(at, "g", {"transform": clip["transform"]} if clip.get("transform") else {})
            for child in target:
                self.build(child, region, around, region=number)
            # A region of nothing shows nothing.
            SubElement(region, "rect", _ALL_OF_IT | {REGION: str(number), "width": "0", "height": "0"})
        clipped = replace(state, clips=(*state.clips, number))
        return wrapper, {k: v for k, v in said.items() if k != "transform"}, clipped


def _fitted(view: list[float], wide: float, high: float, how: str) -> str:
    """Transform of a view box into a window (SVG 1.1, 7.8; from memory)."""
    x, y, view_wide, view_high = view
    across, up = wide / view_wide, high / view_high
    if "none" in how:
        return f"scale({across},{up}) translate({-x},{-y})"
    scale = max(across, up) if "slice" in how else min(across, up)
    align = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    found = re.search(r"x(Min|Mid|Max)Y(Min|Mid|Max)", how)
    in_x, in_y = (align[found.group(1)], align[found.group(2)]) if found else (0.5, 0.5)
    move_x, move_y = (wide - view_wide * scale) * in_x, (high - view_high * scale) * in_y
    return f"translate({move_x},{move_y}) scale({scale}) translate({-x},{-y})"


def _is_svg(element: Element) -> bool:
    tag = element.tag
    return isinstance(tag, str) and (not tag.startswith("{") or tag.startswith(f"{{{_SVG}}}"))


def opacity_of(value: object) -> float:
    """An opacity, from 0 to 1.

    >>> opacity_of("20%"), opacity_of(".5"), opacity_of(None), opacity_of("faint")
    (0.2, 0.5, 1.0, 1.0)
    """
    try:
        text = str(value or "1").strip()
        number = float(text[:-1]) / 100.0 if text.endswith("%") else float(text)
    except ValueError:
        return 1.0
    return min(max(number, 0.0), 1.0)


def _length(value: str | None) -> float:
    """A length in user units; 0 for what is none."""
    try:
        return float(se.Length(value or "0").value(ppi=96.0))
    except (ValueError, TypeError, AttributeError):
        return 0.0


def _local(tag: object) -> str:
    return str(tag).rsplit("}", 1)[-1]
