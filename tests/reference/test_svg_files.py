"""SVG reading against an independent renderer: rsvg-convert of Debian's librsvg2-bin, on open icons.

The icons are stand-ins for logos, from six open sets with their licences beside them: strokes
(ISC, MIT), arcs and even-odd fills (MIT), packed arc flags (MIT), transforms (MIT), plain (CC0).
"""

from __future__ import annotations

import io
import json
import re
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw

from kizami.artwork.svg_files import read_svg

FOLDER = Path(__file__).parent / "data" / "icons"
SETS = sorted(path.stem for path in FOLDER.glob("*.json"))
_SIDE, _FINER = 256, 4


def icons(name: str) -> dict[str, str]:
    return json.loads((FOLDER / f"{name}.json").read_text("utf-8"))


def test_there_are_enough_of_every_kind() -> None:
    assert sum(len(icons(name)) for name in SETS) >= 300
    assert len(SETS) >= 5


def framed(svg: str) -> tuple[str, float]:
    """The icon with a small mark in two corners of its view box, so that both renderers see the same box."""
    box = re.search(r'viewBox="([^"]+)"', svg)
    if box:
        x, y, width, height = (float(v) for v in re.split(r"[\s,]+", box[1].strip()))
    else:
        x = y = 0.0
        width, height = (float(re.search(rf'{k}="([\d.]+)', svg)[1]) for k in ("width", "height"))
    side = width * 0.01
    marks = (
        f'<rect x="{x}" y="{y}" width="{side}" height="{side}" fill="#000" stroke="none"/>'
        f'<rect x="{x + width - side}" y="{y + height - side}" width="{side}" height="{side}" '
        'fill="#000" stroke="none"/>'
    )
    return svg.replace("</svg>", marks + "</svg>"), width / height


def by_rsvg(svg: str, width: int, height: int) -> np.ndarray:
    done = subprocess.run(
        ["rsvg-convert", "-w", str(width), "-h", str(height), "-b", "white"],
        input=svg.encode(),
        capture_output=True,
        check=True,
    )
    return np.asarray(Image.open(io.BytesIO(done.stdout)).convert("L"), dtype=float) / 255.0


def by_us(svg: str, width: int, height: int) -> np.ndarray:
    artwork = read_svg(svg.encode(), name="icon")
    scale = height * _FINER
    picture = Image.new("L", (width * _FINER, height * _FINER), 255)
    pen = ImageDraw.Draw(picture)
    for body in artwork.outlines(sagitta=2e-4).geoms:
        rings = [(body.exterior, 0), *((hole, 255) for hole in body.interiors)]
        for ring, grey in rings:
            points = np.asarray(ring.coords) * scale
            pen.polygon([(x - 0.5, scale - y - 0.5) for x, y in points], fill=grey)
    small = picture.resize((width, height), Image.Resampling.BOX)
    return np.asarray(small, dtype=float) / 255.0


@pytest.mark.parametrize("name", SETS)
def test_icons_look_as_an_independent_renderer_draws_them(name: str) -> None:
    worst: dict[str, float] = {}
    for icon, svg in icons(name).items():
        marked, aspect = framed(svg)
        width, height = _SIDE, round(_SIDE / aspect)
        ours, theirs = by_us(marked, width, height), by_rsvg(marked, width, height)
        # Of 418 icons 417 stay below 0.0004; one fine cogwheel of strokes takes the bound to 0.002.
        # A pixel differs when it is more than half a grey away: it is ink here and paper there.
        worst[icon] = float((np.abs(ours - theirs) > 0.5).mean())
    bad = {icon: share for icon, share in worst.items() if share > 0.002}
    assert not bad, bad
