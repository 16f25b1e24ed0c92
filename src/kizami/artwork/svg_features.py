"""What an SVG drawing uses that is not followed, so that a logo never comes out wrong in silence."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from xml.etree.ElementTree import Element

import svgelements as se

__all__ = ["LENGTHS", "features_of", "in_letters"]

#: Properties, and what they are called.
_PROPERTIES = {
    "mask": "masking", "filter": "filters", "mix-blend-mode": "blending", "zoom": "zooming",
    "marker": "markers", "marker-start": "markers", "marker-mid": "markers", "marker-end": "markers",
}  # fmt: skip
_NOTHING = ("", "none", "normal", "initial", "unset", "inherit")
_DECLARATION = re.compile(r"([-a-zA-Z]+)\s*:\s*([^;}]+)")
#: Of other units than a pixel's or a millimetre's.
_IN_LETTERS = re.compile(r"\d(em|ex|rem|ch|vw|vh|vmin|vmax)$", re.IGNORECASE)
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
#: A path as SVG writes it: letters of its commands, each with its numbers.
_PATH = re.compile(
    rf"\s*(?:[mM]\s*{_NUMBER}(?:\s*,?\s*{_NUMBER})+\s*"
    rf"(?:[zZ]\s*|[mMlLhHvVcCsSqQtTaA]\s*{_NUMBER}(?:\s*,?\s*{_NUMBER})*\s*)*)?"
)
#: Lengths that may be written in percent of the window.
LENGTHS = ("x", "y", "width", "height", "cx", "cy", "r", "rx", "ry", "x1", "y1", "x2", "y2", "stroke-width")
_GRADIENTS = ("linearGradient", "radialGradient")
_URL = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)")
#: Paint lighter than this is paper, darker is ink, as for plain colours.
_LIGHT = 0.75


def features_of(element: Element, said: dict[str, str], by_id: Mapping[str | None, Element]) -> Iterator[str]:
    """What a drawn element uses that is not followed.

    Parameters
    ----------
    said : its properties
    by_id : elements that it may refer to

    >>> from xml.etree.ElementTree import fromstring
    >>> path = fromstring('<path d="M0 0h9v9z" mask="url(#a)"/>')
    >>> list(features_of(path, dict(path.attrib), {}))
    ['masking']
    """
    tag = _local(element.tag)
    if tag == "switch" or said.get("requiredExtensions") or said.get("systemLanguage"):
        yield "alternatives"
    if said.get("vector-effect", "none") == "non-scaling-stroke" and said.get("stroke", "none") != "none":
        yield "lines that keep their width"
    yield from _in_properties(said, by_id)
    lengths = [said.get(key, "").strip() for key in LENGTHS]
    if tag != "svg" and any("%" in value for value in lengths):
        yield "lengths in percent"
    if any(in_letters(value) for value in lengths):
        yield "lengths in letters"
    if "slice" in said.get("preserveAspectRatio", "") and tag == "svg":
        yield "a window that cuts"
    if tag == "path" and not _PATH.fullmatch(said.get("d", "")):
        in_style = said.get("d", "").strip().startswith("path(")
        yield "paths in styles" if in_style else "paths that break off"
    if any("var(" in value for value in said.values()):
        yield "variables in styles"


def in_letters(length: str) -> bool:
    """Whether a length depends on letters or on the window that it is shown in.

    >>> in_letters("2em"), in_letters("2mm")
    (True, False)
    """
    return bool(_IN_LETTERS.search(length.strip()))


def _in_properties(said: dict[str, str], by_id: Mapping[str | None, Element]) -> Iterator[str]:
    clip = said.get("clip-path", "").strip()
    if clip not in _NOTHING and not clip.startswith("url("):
        yield "clipping by a basic shape"
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


def _is_light_anywhere(gradient: Element, by_id: Mapping[str | None, Element]) -> bool:
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
