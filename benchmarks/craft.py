"""Group `craft`: lettering as an engraver looks at it, on shipped typefaces and on twelve that are not."""

from __future__ import annotations

import itertools
import time
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from typing import TypeVar

import numpy as np
import shapely

from benchmarks.figure import Figure, percentile
from benchmarks.names import names
from benchmarks.other_faces import other_scripts, other_typefaces
from benchmarks.sample import catalogue
from benchmarks.shaping import shaped_otherwise
from kizami.blanks.area import Area
from kizami.blanks.band_ring import BandRing
from kizami.blanks.round_things import BallBead, Sleeve
from kizami.checks.finding import Finding, Level
from kizami.drawing.looking import FROM_ABOVE
from kizami.drawing.picture import Ground, picture
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.fit_plan import FitPlan
from kizami.lettering.fitting import Request, fit
from kizami.lettering.layout import Layout
from kizami.lettering.optical import evenings
from kizami.lettering.round_about import Spread
from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.lettering.typeface import Style, Typeface
from kizami.outlines.narrow import axis_of, sampled
from kizami.pieces.forecast import tried
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.products.product import Product
from kizami.products.product_file import product_from_table

__all__ = ["figures"]

_GROUP = "craft"
_Asked = TypeVar("_Asked")
_SCRIPTS = ("pacifico", "sacramento", "dancing-script-bold", "great-vibes")
#: A name to hang round a neck, cast in silver.
_NECK = {
    "code": "NECK",
    "name": "A name on a chain",
    "blank": {"kind": "name piece", "length_mm": 48.0, "height_mm": 30.0},
    "treatment": {"kind": "cut-out", "thickness_mm": 1.2},
    "process": "lost-wax",
    "material": "sterling-silver",
    "typeface": "pacifico",
    "fit": {"greatest_height_mm": 10.0, "lowest_height_mm": 4.0, "clearance_mm": 0.2},
    "wording": {"kind": "name"},
    "soundness": {
        "thicken": "where needed", "gaps": "opened", "most_departure_mm": 0.3, "one_piece": "bridges",
        "bridge_mm": 0.8, "overlap_mm": 0.3, "loop": "ends", "loop_hole_mm": 1.6, "loop_wall_mm": 0.8,
    },
}  # fmt: skip
#: Pairs that leave holes or run together where nobody kerns them (common practice, no source).
_HARD = (
    "AV", "VA", "LT", "TA", "AT", "To", "Ty", "Va", "Ye", "LY", "TT", "LA", "VV", "AA", "WA", "RT", "FA",
    "PA", "OO", "HH", "HO", "rt", "ry", "ov", "vo", "yo", "av", "wa", "kt", "LL", "EL", "IL", "KO", "TJ",
    "VE", "AW", "CO", "DA", "rn", "oc", "zz", "vy",
)  # fmt: skip


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    for face in other_typefaces():
        # Fetched once, before several processes want it.
        assert face.cap_height_upem > 0
    # One after the other: what is timed has a core for itself.
    shipped = _alone(_hung, _SCRIPTS)
    others = _alone(_hung_other, range(len(other_scripts())))
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        yield from _of_hung("shipped", [one for several in shipped for one in several])
        yield from _of_hung("others", [one for several in others for one in several])
        for label, ratio in pool.submit(_spacing).result().items():
            yield Figure(
                group=_GROUP, name=f"white of hard pairs, variance evened against the face's own, {label}",
                value=ratio, unit="ratio", target=0.5,
            )  # fmt: skip
        for label, gap in zip(_ROUND, pool.map(_closing, _ROUND), strict=True):
            yield _at_most(f"closing gap against the same letters within, {label}, worst", gap, "mm", 0.05)
        yield from pool.submit(_filled).result()
        differ, count = pool.submit(shaped_otherwise).result()
        name = f"of {count} names in 12 scripts, shaped otherwise than by HarfBuzz's own command"
        yield _at_most(name, differ, "", 0)
        times = pool.submit(_pictures).result()
        yield _at_most("a picture of 640 x 480, p95", percentile(times, 0.95), "ms", 400.0)


def _alone(measured: Callable[[_Asked], list[_Hung]], asked: Iterable[_Asked]) -> list[list[_Hung]]:
    """What is measured of each in one process of its own, that starts with nothing at hand."""
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        return list(pool.map(measured, asked))


def _at_most(name: str, value: float, unit: str, target: float) -> Figure:
    return Figure(group=_GROUP, name=name, value=value, unit=unit, target=target)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Hung:
    """What is measured of one name piece."""

    bodies: int
    passes: bool
    failing: str
    links: tuple[float, ...]
    loops: tuple[float, ...]
    departure: float
    ms: float


def _neck() -> Product:
    return product_from_table(_NECK)


def _first_names(count: int) -> tuple[str, ...]:
    single = [name for name in names() if " " not in name and len(name) <= 12]
    return tuple(single[:count])


def _hung(code: str) -> list[_Hung]:
    return [_one(replace(_neck(), typeface=code), name, None) for name in _first_names(75)]


def _hung_other(place: int) -> list[_Hung]:
    return [_one(_neck(), name, other_scripts()[place]) for name in _first_names(20)]


def _one(product: Product, name: str, face: Typeface | None) -> _Hung:
    inputs = replace(tried(product, name).inputs, typeface=face)
    start = time.perf_counter()
    laid = lay_out(inputs)
    spent = 1000.0 * (time.perf_counter() - start)
    layout = laid.layout
    failing = next((f.code for f in laid.findings if f.level is Level.FAILS), "")
    by_code = {f.code: f for f in laid.findings}
    return _Hung(
        bodies=len(layout.outlines.geoms),
        passes=not failing,
        failing=failing,
        # A character that the face lacks is no letter that a stroke could lead to.
        links=() if by_code["missing-character"].level is Level.FAILS else tuple(_links(layout)),
        loops=tuple(_loops(by_code)),
        departure=layout.departure_mm / max(layout.height_mm, 1e-9),
        ms=spent,
    )


def _links(layout: Layout) -> Iterator[float]:
    """How far the middle of each added stroke runs between what it joins, in x-heights.

    Not of those that carry loops. A stroke that draws a fine end over is seen beside that end as well, which
    is no way between letters.
    """
    rings = shapely.union_all([a.outline for a in layout.added if a.kind == "loop"])
    letters = shapely.union_all([s for s in layout.shapes if not s.is_empty])
    for added in layout.added:
        if added.kind == "bridge" and not added.outline.intersects(rings):
            half = max(shapely.maximum_inscribed_circle(part).length for part in added.outline.geoms)
            middle = added.outline.buffer(-_NEARLY_HALF * half, quad_segs=8)
            seen = shapely.get_parts(middle.difference(letters))
            yield max((_length(part) for part in seen), default=0.0) / _x_height(layout)


#: Of half the width of a stroke: without so much on either side its middle is left.
_NEARLY_HALF = 0.9


def _x_height(layout: Layout) -> float:
    face = layout.marks[0].source
    assert isinstance(face, Typeface)
    (glyph,) = face.shape("x")
    outline = face.outline(glyph.glyph, sagitta_upem=face.cap_height_upem / 200).polygons
    return float(outline.bounds[3]) / face.cap_height_upem * layout.height_mm


def _length(outline: shapely.Geometry) -> float:
    """The longer side of the smallest box round a shape."""
    box = shapely.minimum_rotated_rectangle(outline)
    if not isinstance(box, shapely.Polygon) or box.is_empty:
        return 0.0
    corners = np.asarray(box.exterior.coords)
    return float(np.hypot(*np.diff(corners[:3], axis=0).T).max())


def _loops(by_code: dict[str, Finding]) -> Iterator[float]:
    """1 for every finding on loops that passes, 0 for one that does not."""
    for code in ("loops-level", "loop-place", "loop-hold"):
        if code in by_code:
            yield float(by_code[code].level is not Level.FAILS)


def _of_hung(label: str, found: list[_Hung]) -> Iterator[Figure]:
    count = len(found)
    yield Figure(
        group=_GROUP, name=f"names in one body, of {count}, {label}",
        value=float(sum(one.bodies == 1 for one in found)), unit="", target=float(count), at_most=False,
    )  # fmt: skip
    yield Figure(
        group=_GROUP, name=f"flat checks passed, {label}",
        value=100.0 * sum(one.passes for one in found) / count, unit="%",
    )  # fmt: skip
    links = [length for one in found for length in one.links]
    short = 100.0 * sum(length < 0.35 for length in links) / max(len(links), 1)
    yield Figure(
        group=_GROUP, name=f"added strokes shorter than 0.35 x-heights, of {len(links)}, {label}",
        value=short, unit="%", target=98.0, at_most=False,
    )  # fmt: skip
    loops = [one for several in found for one in several.loops]
    yield Figure(
        group=_GROUP, name=f"loops level, near the ends and held, {label}",
        value=100.0 * sum(loops) / max(len(loops), 1), unit="%", target=100.0, at_most=False,
    )  # fmt: skip
    thin = sum(one.failing == "neck-width" for one in found)
    yield _at_most(f"necks under the process's stroke, {label}", float(thin), "", 0.0)
    departures = [100.0 * one.departure for one in found]
    yield _at_most(f"departure of the height, median, {label}", percentile(departures, 0.5), "%", 3.0)
    yield _at_most(f"departure of the height, p99, {label}", percentile(departures, 0.99), "%", 8.0)
    yield _at_most(
        f"layout of a name piece with flat checks, p95, {label}",
        percentile([one.ms for one in found], 0.95), "ms", 150.0,
    )  # fmt: skip


def _spacing() -> dict[str, float]:
    """How much of the variance of the white is left, each pair against the usual white of its kind."""
    faces = {
        "shipped": [shipped_typeface(code) for code in shipped_typeface_codes()],
        "others": list(other_typefaces()),
    }
    out = {}
    for label, several in faces.items():
        own, evened = 0.0, 0.0
        for face in several:
            pairs = [e for pair in _HARD for e in evenings(pair, face, Style(evened=True))]
            if pairs:
                own += float(np.var([e.white / e.usual for e in pairs]))
                evened += float(np.var([(e.white + e.move) / e.usual for e in pairs]))
        out[label] = evened / own
    return out


def _round() -> dict[str, tuple[Area, FitPlan]]:
    ring = BandRing(bore_mm=18.0, width_mm=7.0, wall_mm=1.8, seam_mm=0.0)
    small = FitPlan(greatest_height_mm=4.0, lowest_height_mm=1.0, clearance_mm=0.6)
    return {
        "band": (next(a for a in ring.areas if a.name == "outside"), small),
        "taper": (
            Sleeve(low_mm=40.0, high_mm=28.0, length_mm=40.0).areas[0],
            FitPlan(greatest_height_mm=6.0, lowest_height_mm=1.0, clearance_mm=1.0),
        ),
        "bead": (BallBead(diameter_mm=18.0, hole_mm=5.0).areas[0], small),
    }


_ROUND = ("band", "taper", "bead")


def _closing(label: str) -> float:
    """Words set twice in a row meet at the join as they do in the middle; measured in space."""
    area, plan = _round()[label]
    faces = ("noto-sans-bold", "vollkorn-bold", "comfortaa-bold")
    worst = 0.0
    for place, name in enumerate(_first_names(167)):
        text = name.upper() if place % 2 else name
        layout = fit(
            Request(
                text=text * 2,
                typeface=shipped_typeface(faces[place % 3]),
                arrangement=Arrangement(turn=Spread()),
            ),
            area=area, plan=plan, sagitta_mm=0.005,
        )  # fmt: skip
        if not layout.fits or layout.text != text * 2:
            continue
        by_letter: dict[int, list[shapely.MultiPolygon]] = {}
        for mark, shape in zip(layout.marks, layout.shapes, strict=True):
            if not shape.is_empty:
                by_letter.setdefault(mark.cluster, []).append(shape)
        placed = []
        for cluster in sorted(by_letter):
            uv = shapely.get_coordinates([shapely.segmentize(s.boundary, 0.05) for s in by_letter[cluster]])
            placed.append(area.surface.place(uv, np.zeros(len(uv))))
        if len(placed) != 2 * len(text):
            continue
        middle, join = (
            float(np.min(np.linalg.norm(a[:, None] - b[None], axis=2)))
            for a, b in ((placed[len(text) - 1], placed[len(text)]), (placed[-1], placed[0]))
        )
        worst = max(worst, abs(middle - join))
    return worst


def _filled() -> list[Figure]:
    """Names of up to six letters in the demo's ring frame."""
    product = catalogue().find("BUOY-FRAME")
    assert product is not None
    spread, passed, tried_names = [], 0, [n for n in _first_names(400) if 3 <= len(n) <= 6][:60]
    for name in tried_names:
        laid = lay_out(tried(product, name).inputs)
        passed += all(f.level is not Level.FAILS for f in laid.findings)
        weights = []
        for shape in laid.layout.shapes:
            axis = axis_of(sampled(shape, 0.08)) if not shape.is_empty else None
            if axis is None:
                continue
            shapely.prepare(shape)
            long = axis.path > 4.0 * axis.width
            inside = shapely.contains_xy(shape, axis.centres[:, 0], axis.centres[:, 1])
            # Where strokes meet the axis tells the joint's width, never less than theirs.
            weights.append(float(np.quantile(axis.width[long & inside], 0.25)))
        spread.append(100.0 * (max(weights) / min(weights) - 1.0))
    return [
        _at_most("stroke weight of a name in a round, heaviest letter over lightest", max(spread), "%", 15.0),
        Figure(
            group=_GROUP,
            name="names of 3 to 6 letters that fill a ring frame",
            value=100.0 * passed / len(tried_names),
            unit="%",
        ),
    ]


def _pictures() -> list[float]:
    times = []
    for code, name in itertools.product(
        ("GATE-TAG", "CREW-TAG", "CHOIR-RING", "SHORE-BEAD"), ("Ida", "Ottoline")
    ):
        product = catalogue().find(code)
        assert product is not None
        solid = make_piece(tried(product, name).inputs).solid
        assert solid is not None
        for _ in range(3):
            start = time.perf_counter()
            picture(solid, look=FROM_ABOVE, colour="#c9c9c4", size_px=(640, 480), ground=Ground.FLOORS)
            times.append(1000.0 * (time.perf_counter() - start))
    return times
