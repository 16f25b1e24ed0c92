"""What every blank offers, and how turned bodies are made."""

from __future__ import annotations

from typing import Protocol

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area, KeepOut
from kizami.surfaces.chords import facets_of
from kizami.surfaces.protocol import FloatArray, Surface

__all__ = ["Blank", "polygon_of", "round_area", "seam_keep_outs", "sector_area", "turned_body"]


class Blank(Protocol):
    """A body before lettering, with the areas that may carry some."""

    @property
    def areas(self) -> tuple[Area, ...]:
        """The areas, the usual one first."""
        ...

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The body, chords within `sagitta_mm` of its curves."""
        ...


def turned_body(section: FloatArray, *, sagitta_mm: float) -> m3.Manifold:
    """A section (r, z) turned about z, as a body.

    Parameters
    ----------
    section : closed, anticlockwise, (n, 2) mm, r from 0 up
    """
    widest = float(section[:, 0].max())
    facets = facets_of(radius_mm=widest, sagitta_mm=sagitta_mm)
    body = m3.Manifold.revolve(m3.CrossSection([section]), facets)
    body.num_tri()  # built now, as results are otherwise worked out on first use
    return body


def seam_keep_outs(turn_mm: float, low_v: float, high_v: float, seam_mm: float) -> tuple[KeepOut, ...]:
    """The sizing seam of a ring, half of it at either end of the unrolled turn."""
    half = seam_mm / 2.0
    if half <= 0:
        return ()
    boxes = (shapely.box(0.0, low_v, half, high_v), shapely.box(turn_mm - half, low_v, turn_mm, high_v))
    return tuple(KeepOut(name="sizing seam", outline=box) for box in boxes)


def round_area(
    name: str,
    surface: Surface,
    *,
    low_v: float,
    high_v: float,
    wall_mm: float,
    thickest_mm: float = 0.0,
    seam_mm: float = 0.0,
    back: str = "",
) -> Area:
    """One full turn of a surface that closes on itself."""
    turn = surface.period_mm
    assert turn is not None
    return Area(
        name=name,
        surface=surface,
        outline=shapely.box(0.0, low_v, turn, high_v),
        keep_outs=seam_keep_outs(turn, low_v, high_v, seam_mm),
        anchor=(turn / 2.0, (low_v + high_v) / 2.0),
        wall_mm=wall_mm,
        thickest_mm=thickest_mm,
        back=back,
    )


def sector_area(
    name: str,
    surface: Surface,
    outline: FloatArray,
    *,
    anchor_v: float,
    wall_mm: float,
    thickest_mm: float = 0.0,
    back: str = "",
) -> Area:
    """An unrolled cone: a sector about its apex, centred at the front."""
    return Area(
        name=name,
        surface=surface,
        outline=shapely.Polygon(outline),
        keep_outs=(),
        anchor=(0.0, anchor_v),
        wall_mm=wall_mm,
        thickest_mm=thickest_mm,
        back=back,
    )


def polygon_of(*lines: FloatArray) -> FloatArray:
    """Lines end to end as one closed section, doubled corners left out."""
    points = np.vstack(lines)
    distinct = np.hypot(*(points - np.roll(points, 1, axis=0)).T) > 1e-9
    section: FloatArray = points[distinct]
    return section
