"""When the lettering as a whole can't be built: letter by letter, so that one bad letter costs only itself.

Each letter is built on its own and measured against the volume that its outline predicts. One that
fails is tried again by other methods; one that fails them all is named, and the rest is built.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import manifold3d as m3
import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import InRecess
from kizami.errors import SolidError
from kizami.outlines.clean import clean, mend_slits
from kizami.outlines.curves import bodies_of
from kizami.solids.lettering_bodies import flat_lettering, pointed_lettering, recess_of
from kizami.solids.lettering_solid import lay_on
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
    index : its place among the parts as they are made
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
    made: AsMade,
    *,
    sagitta_mm: float,
    lay: Lay | None = None,
) -> Letters:
    """Build what can be built of a lettering, part by part.

    Parameters
    ----------
    body : the blank; None where the lettering is the piece
    lay : how one part is made; by default as `kizami.solids.by_booleans` does

    Raises
    ------
    SolidError : not one part could be built
    """
    make = lay or _laying(made)
    built: list[m3.Manifold] = []
    mended, lost = [], []
    for index, part in enumerate(made.parts):
        if part.kind == "frame":
            continue
        # As finished: what bridges and loops took out of the letters stays out.
        shape = bodies_of(part.outline.intersection(made.outlines))
        if shape.is_empty:
            continue
        solid, said = _one(shape, make, partial(_expected_mm3, made, sagitta_mm), sagitta_mm)
        if solid is None:
            lost.append(Outcome(index=index, said=said))
            continue
        built.append(solid)
        if said != METHODS[0][0]:
            mended.append(Outcome(index=index, said=said))
    if not built:
        raise SolidError("Not one letter could be built.")
    lettering = m3.Manifold.batch_boolean(built, m3.OpType.Add)
    if body is None:
        whole = lettering
    elif isinstance(made.treatment, InRecess):
        whole = body - recess_of(made, sagitta_mm=sagitta_mm) + lettering
    else:
        whole = body - lettering if made.treatment.sinks else body + lettering
    if whole.status() != m3.Error.NoError or whole.is_empty():
        raise SolidError("The letters could be built, but not joined with the piece.")
    return Letters(solid=whole, mended=tuple(mended), lost=tuple(lost))


def _laying(made: AsMade) -> Lay:
    def lay(shape: shapely.MultiPolygon, sagitta_mm: float) -> m3.Manifold:
        if made.is_pointed:
            return pointed_lettering(made, shape, sagitta_mm=sagitta_mm)
        flat = flat_lettering(made, shape)
        if flat is None:
            return m3.Manifold()
        return lay_on(flat, made.area.surface, sagitta_mm=sagitta_mm, pull=made.pull)

    return lay


def _one(
    shape: shapely.MultiPolygon,
    lay: Lay,
    expected: Callable[[shapely.MultiPolygon], float | None],
    sagitta_mm: float,
) -> tuple[m3.Manifold | None, str]:
    """The part and the method that made it, or None and why the last one failed."""
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


def _expected_mm3(made: AsMade, sagitta_mm: float, shape: shapely.MultiPolygon) -> float | None:
    """As much larger or smaller than the flat part as an upright layer of its outline is."""
    if made.is_pointed:
        # A lid of its own above the roof.
        return None
    flat = flat_lettering(made, shape)
    if flat is None:
        return None
    low, high = flat.span_mm
    laid = layer_volume_mm3(made.area.surface, shape, low, high, pull=made.pull)
    level = lay_on(flat, Plane(), sagitta_mm=sagitta_mm)
    return float(level.volume() * laid / (shape.area * (high - low)))


def _wrong(solid: m3.Manifold) -> str:
    if solid.status() != m3.Error.NoError:
        return "it does not close"
    if solid.is_empty() or solid.volume() <= 0:
        return "nothing comes of it"
    return ""
