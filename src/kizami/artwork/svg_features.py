"""What an SVG drawing uses that is not followed, so that a logo never comes out wrong in silence."""

from __future__ import annotations

import re
from collections.abc import Iterator
from xml.etree.ElementTree import Element

import svgelements as se

__all__ = ["not_followed"]

#: Properties, in attributes, styles and rules, and what they are called.
_PROPERTIES = {
    "clip-path": "clipping", "mask": "masking", "filter": "filters", "mix-blend-mode": "blending",
    "marker": "markers", "marker-start": "markers", "marker-mid": "markers", "marker-end": "markers",
}  # fmt: skip
_NOTHING = ("", "none", "normal", "initial", "unset", "inherit")
_DECLARATION = re.compile(r"([-a-zA-Z]+)\s*:\s*([^;}]+)")
_RULE = re.compile(r"([^{}]+)\{([^}]*)\}")
#: Rules that only name one element, class or id are followed.
_SIMPLE = re.compile(r"\s*(\*|[a-zA-Z][-\w]*|[.#][-\w]+)\s*")
_COMMENT = re.compile(r"/\*.*?\*/", re.DOTALL)
#: Lengths that may be written in percent of the window.
_LENGTHS = ("x", "y", "width", "height", "cx", "cy", "r", "rx", "ry", "x1", "y1", "x2", "y2", "stroke-width")
_GRADIENTS = ("linearGradient", "radialGradient")
_URL = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)")
#: Paint lighter than this is paper, darker is ink, as for plain colours.
_LIGHT = 0.75


def not_followed(root: Element) -> tuple[str, ...]:
    """Features of a drawing that are not followed, each once, in the order in which they come.

    >>> from xml.etree.ElementTree import fromstring
    >>> not_followed(fromstring('<svg><path d="M0 0h9v9z" style="clip-path:url(#a)"/></svg>'))
    ('clipping',)
    """
    return tuple(dict.fromkeys(_each(root)))


def _each(root: Element) -> Iterator[str]:
    by_id = {e.get("id"): e for e in root.iter() if e.get("id")}
    for element in root.iter():
        tag = _local(element.tag)
        if tag == "switch":
            yield "alternatives"
        if tag == "style":
            yield from _in_rules(_COMMENT.sub("", element.text or ""), by_id)
        said = {_local(key): value for key, value in element.attrib.items()}
        said |= dict(_DECLARATION.findall(said.get("style", "")))
        yield from _in_properties(said, by_id)
        if tag not in ("svg", "stop", *_GRADIENTS) and any("%" in said.get(key, "") for key in _LENGTHS):
            yield "lengths in percent"


def _in_rules(text: str, by_id: dict[str | None, Element]) -> Iterator[str]:
    for selector, declarations in _RULE.findall(text):
        said = dict(_DECLARATION.findall(declarations))
        if not all(_SIMPLE.fullmatch(one) for one in selector.split(",")):
            yield "style rules of several parts"
        if "!important" in declarations:
            yield "style rules that outrank others"
        yield from _in_properties(said, by_id)


def _in_properties(said: dict[str, str], by_id: dict[str | None, Element]) -> Iterator[str]:
    for key, called in _PROPERTIES.items():
        if said.get(key, "").strip() not in _NOTHING:
            yield called
    for key in ("fill", "stroke"):
        found = _URL.search(said.get(key, ""))
        target = by_id.get(found.group(1)) if found else None
        if target is None:
            continue
        if _local(target.tag) == "pattern":
            yield "patterns"
        elif _local(target.tag) in _GRADIENTS and _is_light_anywhere(target, by_id):
            yield "shades that run to white"


def _is_light_anywhere(gradient: Element, by_id: dict[str | None, Element]) -> bool:
    """Whether a run of colours becomes as light as paper, or as clear as glass; runs that refer to another
    take its colours."""
    seen: set[int] = set()
    while id(gradient) not in seen:
        seen.add(id(gradient))
        stops = [e for e in gradient if _local(e.tag) == "stop"]
        if stops:
            return any(_is_light(stop) for stop in stops)
        href = next((value for key, value in gradient.attrib.items() if _local(key) == "href"), "")
        gradient = by_id.get(href.lstrip("#"), gradient)
    return False


def _is_light(stop: Element) -> bool:
    said = {**stop.attrib, **dict(_DECLARATION.findall(stop.get("style", "")))}
    try:
        colour = se.Color(said.get("stop-color", "black").strip())
        clear = float(str(said.get("stop-opacity", "1")).strip()) < 1.0 - _LIGHT
    except (ValueError, TypeError):
        return False
    if colour.value is None:
        return False
    return clear or (0.2126 * colour.red + 0.7152 * colour.green + 0.0722 * colour.blue) / 255.0 > _LIGHT


def _local(tag: object) -> str:
    return str(tag).rsplit("}", 1)[-1]
