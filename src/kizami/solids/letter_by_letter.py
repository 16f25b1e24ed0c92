"""When the lettering as a whole can't be built: letter by letter, so that one bad letter costs only itself.

Each letter is built on its own and measured against the volume that its outline predicts. One that
fails is tried again by other methods; one that fails them all is named, and the rest is built.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.errors import SolidError
from kizami.outlines.clean import clean, mend_slits
from kizami.outlines.curves import FloatArray
from kizami.solids.lettering_solid import lay_on
from kizami.solids.treat import flat_lettering, recess_of
from kizami.solids.treatment import InRecess, Treatment
from kizami.surfaces.layer import layer_volume_mm3
from kizami.surfaces.plane import Plane

__all__ = ["METHODS", "Lay", "Letters", "Outcome", "build_letters"]

#: Makes one letter on the area from its outline, with chords within the given tolerance.
Lay = Callable[[shapely.MultiPolygon, float], m3.Manifold]

#: A letter whose volume misses its prediction by more than this was not built right.
_VOLUME_SHARE = 0.1
_CLEANER_MM = 0.004
_SHIFT_MM = 0.0007


@dataclass(frozen=True, kw_only=True, slots=True)
class Outcome:
    """What became of a letter that could not be built as it was drawn.

    Attributes
    ----------
    index : its place among the letters
    said : why it is lost, or by which method it was built after all
    """

    index: int
    said: str


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Letters:
    """A body with all letters that could be built."""

    solid: m3.Manifold
    mended: tuple[Outcome, ...]
    lost: tuple[Outcome, ...]


def _as_drawn(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
    return shape


def _cleaner(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
    return clean(mend_slits(shape, width=4 * _CLEANER_MM), tolerance=_CLEANER_MM, least_area=_CLEANER_MM**2)


def _moved(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
    return shapely.transform(shape, lambda uv: uv + np.array([_SHIFT_MM, _SHIFT_MM / 3.0]))


#: In words, what is done to the outline, and to what share of the tolerance it is divided.
METHODS: tuple[tuple[str, Callable[[shapely.MultiPolygon], shapely.MultiPolygon], float], ...] = (
    ("as it was drawn", _as_drawn, 1.0),
    ("from a cleaner outline", _cleaner, 1.0),
    ("divided more finely", _as_drawn, 0.4),
    (f"moved by {_SHIFT_MM} mm", _moved, 1.0),
)


def build_letters(
    body: m3.Manifold | None,
    letters: Sequence[shapely.MultiPolygon],
    *,
    area: Area,
    treatment: Treatment,
    sagitta_mm: float,
    pull: FloatArray | None = None,
    lay: Lay | None = None,
) -> Letters:
    """Build what can be built of a lettering.

    Parameters
    ----------
    body : the blank; None where the lettering is the piece
    letters : outlines, unrolled mm, one a letter; empty ones are spaces
    lay : how one letter is made; by default as `kizami.solids.treat` does

    Raises
    ------
    SolidError : not one letter could be built
    """
    make = lay or _laying(area, treatment, pull)
    expected = _expecting(area, treatment, pull, sagitta_mm)
    made: list[m3.Manifold] = []
    mended, lost = [], []
    for index, shape in enumerate(letters):
        if shape.is_empty:
            continue
        solid, said = _one(shape, make, expected, sagitta_mm)
        if solid is None:
            lost.append(Outcome(index=index, said=said))
            continue
        made.append(solid)
        if said != METHODS[0][0]:
            mended.append(Outcome(index=index, said=said))
    if not made:
        raise SolidError("Not one letter could be built.")
    lettering = m3.Manifold.batch_boolean(made, m3.OpType.Add)
    if body is None:
        whole = lettering
    elif isinstance(treatment, InRecess):
        outlines = shapely.MultiPolygon([p for shape in letters for p in shape.geoms])
        whole = body - recess_of(outlines, treatment, area, sagitta_mm=sagitta_mm, pull=pull) + lettering
    else:
        whole = body - lettering if treatment.sinks else body + lettering
    if whole.status() != m3.Error.NoError or whole.is_empty():
        raise SolidError("The letters could be built, but not joined with the body.")
    return Letters(solid=whole, mended=tuple(mended), lost=tuple(lost))


def _laying(area: Area, treatment: Treatment, pull: FloatArray | None) -> Lay:
    def lay(shape: shapely.MultiPolygon, sagitta_mm: float) -> m3.Manifold:
        flat = flat_lettering(shape, treatment, through_mm=area.through_mm)
        if flat is None:
            return m3.Manifold()
        return lay_on(flat, area.surface, sagitta_mm=sagitta_mm, pull=pull)

    return lay


def _one(
    shape: shapely.MultiPolygon,
    lay: Lay,
    expected: Callable[[shapely.MultiPolygon], float | None],
    sagitta_mm: float,
) -> tuple[m3.Manifold | None, str]:
    """The letter and the method that made it, or None and why the last one failed."""
    said = ""
    for name, change, share in METHODS:
        changed = change(shape)
        if changed.is_empty:
            said = "nothing is left of its outline"
            continue
        try:
            solid, volume = lay(changed, sagitta_mm * share), expected(changed)
        except SolidError as error:
            said = str(error).rstrip(".").lower()
            continue
        said = _wrong(solid)
        if not said and volume is not None and abs(solid.volume() - volume) > _VOLUME_SHARE * volume:
            said = f"its volume is {solid.volume():.3f} mm3 where {volume:.3f} were predicted"
        if not said:
            return solid, name
    return None, said


def _expecting(
    area: Area, treatment: Treatment, pull: FloatArray | None, sagitta_mm: float
) -> Callable[[shapely.MultiPolygon], float | None]:
    """As much larger or smaller than the flat letter as an upright layer of its outline is."""

    def expected(shape: shapely.MultiPolygon) -> float | None:
        flat = flat_lettering(shape, treatment, through_mm=area.through_mm)
        if flat is None:
            return None
        low, high = flat.span_mm
        laid = layer_volume_mm3(area.surface, shape, low, high, pull=pull)
        level = lay_on(flat, Plane(), sagitta_mm=sagitta_mm)
        return float(level.volume() * laid / (shape.area * (high - low)))

    return expected


def _wrong(solid: m3.Manifold) -> str:
    if solid.status() != m3.Error.NoError:
        return "it does not close"
    if solid.is_empty() or solid.volume() <= 0:
        return "nothing comes of it"
    return ""
