"""Generated drawings: every element, property and way of writing that a logo's file may come with.

Each is checked by `tests/browser/test_svg_cases.py` against an independent renderer. They are made up here, from
the list of
elements and properties of SVG 1.1 (W3C Recommendation, chapters 5 to 14; from memory).
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator

__all__ = ["cases"]

_SHAPES = {
    "rect": '<rect x="20" y="25" width="50" height="40" {}/>',
    "rounded": '<rect x="20" y="25" width="50" height="40" rx="12" {}/>',
    "rounded both": '<rect x="20" y="25" width="50" height="40" rx="30" ry="5" {}/>',
    "circle": '<circle cx="50" cy="45" r="28" {}/>',
    "ellipse": '<ellipse cx="50" cy="50" rx="35" ry="18" {}/>',
    "line": '<line x1="15" y1="20" x2="80" y2="70" stroke="black" stroke-width="6" {}/>',
    "polyline": '<polyline points="10,80 40,20 60,60 90,15" {}/>',
    "polygon": '<polygon points="50 10 90 90 10 40 90 40 10 90" {}/>',
    "path": '<path d="M20 20H70V50Q70 80 40 80T20 50S10 30 20 20z" {}/>',
    "two rings": '<path d="M10 10H90V90H10zM30 30H70V70H30z" {}/>',
}
_PROPERTIES = {
    "plain": "", "red": 'fill="#b00"', "none and line": 'fill="none" stroke="#000" stroke-width="5"',
    "white": 'fill="white"', "light grey": 'fill="#f4f4f4"', "dark grey": 'fill="rgb(60,60,60)"',
    "percent colour": 'fill="rgb(10%, 20%, 5%)"', "hsl": 'fill="hsl(120, 80%, 20%)"', "alpha hex": 'fill="#000000ff"',
    "clear hex": 'fill="#00000000"', "transparent": 'fill="transparent"', "named": 'fill="darkslateblue"',
    "even-odd": 'fill-rule="evenodd"', "round caps": 'fill="none" stroke="#000" stroke-width="9" stroke-linecap="round" stroke-linejoin="round"',
    "square caps": 'fill="none" stroke="#000" stroke-width="9" stroke-linecap="square" stroke-linejoin="bevel"',
    "mitre": 'fill="none" stroke="#000" stroke-width="7" stroke-miterlimit="10"',
    "dashes": 'fill="none" stroke="#000" stroke-width="5" stroke-dasharray="12 5 3"',
    "dashes moved": 'fill="none" stroke="#000" stroke-width="5" stroke-dasharray="12,6" stroke-dashoffset="5"',
    "dashes in px": 'fill="none" stroke="#000" stroke-width="5px" stroke-dasharray="12px, 6px"',
    "line over fill": 'fill="#222" stroke="#fff" stroke-width="6"', "line first": 'fill="#fff" stroke="#000" stroke-width="8" paint-order="stroke"',
    "no scaling line": 'fill="none" stroke="#000" stroke-width="4" vector-effect="non-scaling-stroke" transform="scale(2 1) translate(-20 0)"',
    "faint": 'opacity="0.2"', "faint fill": 'fill-opacity="10%"', "half": 'opacity=".7"', "hidden": 'visibility="hidden"', "undrawn": 'display="none"',
    "style": 'style="fill:none;stroke:black;stroke-width:4"', "style beats": 'fill="white" style="fill:#111"',
    "turned": 'transform="rotate(25 50 50)"', "sheared": 'transform="skewX(20) translate(-15,0)"', "mirrored": 'transform="matrix(-1 0 0 1 100 0)"',
    "scaled line": 'fill="none" stroke="#000" stroke-width="3" transform="translate(10 10) scale(1.5 .7)"',
    "current colour": 'color="#fff" fill="currentColor"', "inherit": 'fill="inherit"',
    "clip": 'clip-path="url(#clip)"', "mask": 'mask="url(#mask)"', "gradient": 'fill="url(#dark)"', "to white": 'fill="url(#white)"',
    "pattern": 'fill="url(#dots)"', "marker": 'stroke="#000" marker-end="url(#arrow)"', "filter": 'filter="url(#blur)"',
    "clip style": 'style="clip-path:url(#clip)"', "clip class": 'class="clipped"', "important": 'class="loud" style="fill:white"',
    "two classes": 'class="a b"', "dash class": 'class="dashed"', "missing paint": 'fill="url(#nowhere)"', "missing paint, other": 'fill="url(#nowhere) none"',
    "clip shape": 'style="clip-path:circle(20px at 50px 50px)"', "transform in style": 'style="transform:rotate(20deg)"',
    "bad fill": 'fill="blurple"', "bad width": 'stroke="#000" stroke-width="wide"', "negative width": 'stroke="#000" stroke-width="-3"', "zero width": 'stroke="#000" stroke-width="0"',
    "stroke only": 'stroke="#000"', "em width": 'stroke="#000" stroke-width="0.5em"', "mm width": 'stroke="#000" stroke-width="1mm"', "percent width": 'stroke="#000" stroke-width="5%"',
}  # fmt: skip
#: What drawings refer to, each added only where it is named: what is merely defined may be named as not followed.
_DEFINED = {
    "#clip)": '<clipPath id="clip"><circle cx="45" cy="45" r="22"/></clipPath>',
    "#mask)": '<mask id="mask"><rect width="50" height="100" fill="white"/></mask>',
    "#dark)": '<linearGradient id="dark"><stop stop-color="#000"/><stop offset="1" stop-color="#333"/></linearGradient>',
    "#white)": '<linearGradient id="white"><stop stop-color="#000"/><stop offset="1" stop-color="#fff"/></linearGradient>',
    "#dots)": '<pattern id="dots" width="8" height="8" patternUnits="userSpaceOnUse"><circle cx="4" cy="4" r="2"/></pattern>',
    "#arrow)": '<marker id="arrow" markerWidth="4" markerHeight="4" refX="2" refY="2"><path d="M0 0L4 2L0 4z"/></marker>',
    "#blur)": '<filter id="blur"><feGaussianBlur stdDeviation="4"/></filter>',
    "clipped": '<style>.clipped{clip-path:url(#clip)}</style><clipPath id="clip"><circle cx="45" cy="45" r="22"/></clipPath>',
    "loud": "<style>.loud{fill:#000 !important}</style>", '"a b"': "<style>.a{fill:white} .b{fill:black}</style>",
    "dashed": "<style>.dashed{fill:none;stroke:#000;stroke-width:5;stroke-dasharray:8 4}</style>",
}  # fmt: skip
_WHOLE = {
    "use": '<defs><path id="u" d="M0 0h20v20z"/></defs><use href="#u" x="10" y="10"/><use xlink:href="#u" transform="translate(60 50) rotate(30)"/>',
    "use of a group": '<defs><g id="u" transform="scale(2)"><rect width="9" height="9"/><circle cx="15" cy="5" r="4" fill="white" stroke="#000"/></g></defs><use href="#u" x="20" y="30" fill="#222"/>',
    "use of use": '<defs><rect id="r" width="9" height="9"/><g id="u"><use href="#r"/><use href="#r" x="15"/></g></defs><use href="#u" x="20" y="30"/>',
    "symbol": '<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="5"/></symbol><use href="#s" x="20" y="20" width="60" height="40"/>',
    "symbol without size": '<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="5"/></symbol><use href="#s"/>',
    "symbol without box": '<symbol id="s"><circle cx="25" cy="25" r="15"/></symbol><use href="#s" x="10"/>',
    "symbol clipped": '<symbol id="s" viewBox="0 0 10 10"><circle cx="10" cy="5" r="5"/></symbol><use href="#s" x="10" y="10" width="40" height="40"/>',
    "nested svg": '<svg x="20" y="20" width="50" height="50" viewBox="0 0 10 10"><rect width="10" height="10" rx="3"/></svg>',
    "nested svg, clipped": '<svg x="20" y="20" width="40" height="40"><rect width="80" height="20"/></svg>',
    "nested svg, sliced": '<svg x="10" y="20" width="70" height="30" viewBox="0 0 10 10" preserveAspectRatio="xMidYMid slice"><circle cx="5" cy="5" r="5"/></svg>',
    "nested svg, stretched": '<svg x="10" y="20" width="70" height="30" viewBox="0 0 10 10" preserveAspectRatio="none"><circle cx="5" cy="5" r="5"/></svg>',
    "group": '<g fill="none" stroke="#000" stroke-width="4" transform="translate(20 20)"><g transform="rotate(10)"><rect width="50" height="30"/></g></g>',
    "group faint": '<g opacity=".2"><rect x="20" y="20" width="50" height="30"/></g><circle cx="50" cy="70" r="20"/>',
    "group faint over": '<rect x="10" y="10" width="80" height="80"/><g opacity=".3"><circle cx="50" cy="50" r="20" fill="#fff"/></g>',
    "group hidden, child shown": '<g visibility="hidden"><rect x="20" y="20" width="30" height="30"/><rect x="60" y="20" width="30" height="30" visibility="visible"/></g>',
    "group undrawn, child shown": '<g display="none"><rect x="20" y="20" width="30" height="30" display="inline"/></g><rect x="60" y="60" width="9" height="9"/>',
    "group clipped": '<g clip-path="url(#clip)"><rect x="20" y="20" width="60" height="60"/></g>',
    "clip with transform": '<clipPath id="c2"><rect width="40" height="40" transform="rotate(45 20 20)"/></clipPath><g clip-path="url(#c2)"><rect width="90" height="90"/></g>',
    "clip in box units": '<clipPath id="c2" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".5"/></clipPath><rect x="10" y="10" width="80" height="50" clip-path="url(#c2)"/>',
    "clip of clip": '<clipPath id="c2" clip-path="url(#clip)"><rect width="40" height="90"/></clipPath><rect width="90" height="90" clip-path="url(#c2)"/>',
    "clip even-odd": '<clipPath id="c2"><path clip-rule="evenodd" d="M10 10H90V90H10zM30 30H70V70H30z"/></clipPath><rect width="90" height="90" clip-path="url(#c2)"/>',
    "clip rule of the group": '<clipPath id="c2" clip-rule="evenodd"><path d="M10 10H90V90H10zM30 30H70V70H30z"/></clipPath><rect width="90" height="90" clip-path="url(#c2)"/>',
    "clip by use": '<defs><circle id="o" cx="50" cy="50" r="30"/></defs><clipPath id="c2"><use href="#o"/></clipPath><rect width="90" height="90" clip-path="url(#c2)"/>',
    "clip of nothing": '<clipPath id="c2"/><rect width="90" height="90" clip-path="url(#c2)"/><rect x="90" y="90" width="9" height="9"/>',
    "clip missing": '<rect x="9" y="9" width="60" height="60" clip-path="url(#absent)"/>',
    "mask black": '<mask id="m2"><rect width="100" height="100" fill="white"/><circle cx="50" cy="50" r="20"/></mask><rect width="90" height="90" mask="url(#m2)"/>',
    "mask with grey": '<mask id="m2"><rect width="100" height="100" fill="#444"/></mask><rect width="90" height="90" mask="url(#m2)"/>',
    "switch": '<switch><rect systemLanguage="xx" width="90" height="20"/><rect y="50" width="90" height="20"/></switch>',
    "link": '<a href="#x"><rect x="20" y="20" width="30" height="30"/></a>',
    "unknown element": '<thing><rect x="20" y="20" width="30" height="30"/></thing><rect x="60" y="60" width="9" height="9"/>',
    "defs unused": '<defs><rect width="90" height="90"/></defs><rect x="60" y="60" width="9" height="9"/>',
    "rules by element": "<style>rect{fill:white}</style><rect x='1' y='1' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules by id": "<style>#x{fill:white}</style><rect id='x' x='1' y='1' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules in two": "<style>.p{fill:white}.q{fill:black}</style><rect class='q p' width='30' height='30'/><circle class='p q' cx='60' cy='60' r='20'/>",
    "rules of rank": "<style>.p{fill:black}rect{fill:white}</style><rect class='p' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules of id rank": "<style>#x{fill:black}.p{fill:white}</style><rect id='x' class='p' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules against attribute": "<style>rect{fill:black}</style><rect fill='white' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules descendant": "<style>g rect{fill:white}</style><g><rect width='30' height='30'/></g><circle cx='60' cy='60' r='20'/>",
    "rules child": "<style>g>rect{fill:white}</style><g><rect width='30' height='30'/></g><circle cx='60' cy='60' r='20'/>",
    "rules both": "<style>rect.p{fill:white}</style><rect class='p' width='30' height='30'/><circle class='p' cx='60' cy='60' r='20'/>",
    "rules list": "<style>.p, .q{fill:white}</style><rect class='p' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules star": "<style>*{fill:none;stroke:#000}</style><rect x='5' y='5' width='30' height='30'/>",
    "rules media": "<style>@media print{rect{fill:white}}</style><rect width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules cdata": "<style><![CDATA[rect{fill:white}]]></style><rect width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules variable": "<style>:root{--c:white}rect{fill:var(--c)}</style><rect width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "rules nth": "<style>rect:nth-child(2){fill:white}</style><rect width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "style upper case": "<rect style='FILL:white' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "namespace": "<s:rect xmlns:s='http://www.w3.org/2000/svg' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "foreign namespace": "<s:rect xmlns:s='urn:x' width='30' height='30'/><circle cx='60' cy='60' r='20'/>",
    "marker all": '<polyline points="10 10 50 50 90 10" fill="none" stroke="#000" stroke-width="3" marker="url(#arrow)"/>',
    "width by rule": "<style>rect{width:40px;height:20px}</style><rect x='9' y='9' width='5' height='5'/><circle cx='60' cy='60' r='20'/>",
    "path by rule": "<style>path{d:path('M0 0h50v50z')}</style><path d='M0 0h9v9z'/><circle cx='60' cy='60' r='20'/>",
    "radius by rule": "<style>circle{r:5px}</style><circle cx='60' cy='60' r='20'/>",
    "font units": '<g font-size="20"><rect x="1em" y="1em" width="2em" height="1ex"/></g><circle cx="60" cy="60" r="20"/>',
    "group clip, moved": '<g transform="translate(10 20)" clip-path="url(#clip)"><rect width="60" height="60"/></g>',
    "paint by line": '<rect x="20" y="20" width="50" height="50" fill="none" stroke="url(#white)" stroke-width="10"/>',
    "context": '<rect x="20" y="20" width="50" height="50" fill="context-fill"/>',
    "blend": '<rect width="90" height="90"/><circle cx="50" cy="50" r="20" fill="#fff" style="mix-blend-mode:multiply"/>',
    "isolate": '<g style="isolation:isolate"><rect x="9" y="9" width="50" height="50"/></g>',
    "overflow": '<svg x="20" y="20" width="40" height="40" overflow="visible"><rect width="80" height="20"/></svg>',
    "zoomed": '<g style="zoom:2"><rect width="20" height="20"/></g>',
    "shape-rendering": '<rect x="20.5" y="20.5" width="40" height="40" shape-rendering="crispEdges"/>',
    "conditional": '<rect requiredExtensions="http://x" width="50" height="50"/><circle cx="60" cy="60" r="20"/>',
    "language": '<rect systemLanguage="xx" width="50" height="50"/><circle cx="60" cy="60" r="20"/>',
    "view": '<view id="v" viewBox="0 0 10 10"/><circle cx="60" cy="60" r="20"/>',
    "title": '<title>circle</title><desc>x</desc><metadata><rect width="90" height="90"/></metadata><circle cx="60" cy="60" r="20"/>',
}  # fmt: skip
#: Ways of writing a path.
_PATHS = {
    "packed flags": "M10 50a20 20 0 0150 20 20 20 0 11-30-10z", "no spaces": "M10-0L90.5.5L50 90z", "exponents": "M1e1 1E1H9e1V9e+1z",
    "many after move": "M10 10 90 10 90 90 10 90z", "relative many": "m10 10 80 0 0 80-80 0z", "two moves": "M10 10H40V40H10zm40 40H80V80H60z",
    "after close": "M10 10H50V50zL80 80V10z", "open": "M10 10H90V90", "T after S": "M10 80S30 10 50 50T90 20V90z", "T alone": "M10 10T50 80T90 10z",
    "S after Q": "M10 80Q30 10 50 50S80 90 90 20V90z", "arc of nothing": "M10 10A0 0 0 0 1 90 90V10z", "arc too small": "M10 50A5 5 0 0 1 90 50z",
    "arc negative": "M10 50A-45 -30 0 0 1 90 50z", "arc turned": "M20 50A30 15 45 1 0 80 50z", "arc to itself": "M50 50A20 20 0 1 1 50 50L90 90V50z",
    "broken end": "M10 10H90V90H10zM20 20L", "broken number": "M10 10H90V90H10zM20 20L3 x", "starts wrong": "L10 10H90V90z", "empty": "",
    "commas": "M,10,10L90,10,,90,90z", "lower z many": "M10 10h80v80zzz", "curve back": "M10 90C10 -60 90 160 90 10V90z", "cusp": "M10 90C120 10 -20 10 90 90z",
    "self crossing": "M10 10L90 90H10L90 10z", "opposite holes": "M10 10H90V90H10zM30 30V70H70V30z", "same holes": "M10 10H90V90H10zM30 30H70V70H30z",
     "large": "M-1000 -1000H1100V1100H-1000zM20 20V80H80V20z",
}  # fmt: skip
_FRAMES = {
    "no box": 'width="100" height="100"', "box only": 'viewBox="0 0 100 100"', "moved box": 'viewBox="-10 -20 120 130"',
    "mm": 'width="50mm" height="50mm" viewBox="0 0 100 100"', "in": 'width="2in" height="2in"', "percent": 'width="100%" height="100%" viewBox="0 0 100 100"',
    "stretched": 'width="100" height="50" viewBox="0 0 100 100" preserveAspectRatio="none"', "meet": 'width="100" height="50" viewBox="0 0 100 100"',
    "slice": 'width="100" height="50" viewBox="0 0 100 100" preserveAspectRatio="xMinYMax slice"', "root transform": 'viewBox="0 0 100 100" transform="rotate(10)"',
    "root style": 'viewBox="0 0 100 100" style="fill:none;stroke:#000;stroke-width:3"', "root fill": 'viewBox="0 0 100 100" fill="none" stroke="#000"',
    "comma box": 'viewBox="0,0,100,100"', "root x": 'x="20" y="30" viewBox="0 0 100 100"', "root clear": 'viewBox="0 0 100 100" opacity="0.2"',
    "root clip": 'viewBox="0 0 100 100" clip-path="url(#clip)"', "root clip, style": 'viewBox="0 0 100 100" style="clip-path:url(#clip)"',
    "root overflow": 'viewBox="20 20 50 50" overflow="visible"',
}  # fmt: skip
_HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'


def cases() -> Iterator[tuple[str, str]]:
    """Every drawing with what it is called."""
    for (shape, text), (name, said) in itertools.product(_SHAPES.items(), _PROPERTIES.items()):
        # Said twice, an attribute is no XML.
        keys = [part.split("=")[0] for part in said.split('" ')]
        if any(f" {key}=" in text for key in keys if key):
            continue
        yield f"{shape}, {name}", _whole('viewBox="0 0 100 100"', _PAPER + text.format(said))
    for name, text in _WHOLE.items():
        yield name, _whole('viewBox="0 0 100 100"', text)
    for name, d in _PATHS.items():
        rest = '<rect x="2" y="2" width="5" height="5"/>'
        yield f"path, {name}", _whole('viewBox="0 0 100 100"', f'<path d="{d}"/>{rest}')
    for name, frame in _FRAMES.items():
        yield (
            f"frame, {name}",
            _whole(frame, '<path d="M20 20H80V40H40V80H20z"/><circle cx="70" cy="70" r="15"/>'),
        )


#: Half of every drawing is black below, so that light paint is seen.
_PAPER = '<path d="M0 55H100V100H0z" fill="#000"/>'


def _whole(frame: str, body: str) -> str:
    defined = "".join(text for name, text in _DEFINED.items() if name in frame + body)
    return f"<svg {_HEAD} {frame}><defs>{defined}</defs>{body}</svg>"
