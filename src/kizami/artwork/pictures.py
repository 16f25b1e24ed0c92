"""Logos from pictures: the edge between dark and light is followed, between pixels.

The edge is the line of equal grey at the threshold, found by marching squares on the greys
themselves (Lorensen and Cline 1987, in two dimensions), so that a softly drawn edge comes back to
a fraction of a pixel. What has no clear edge, such as a photo, is not followed at all.
"""

from __future__ import annotations

import io
import math
import re
import warnings
from dataclasses import replace

import numpy as np
import numpy.typing as npt
import shapely
from contourpy import contour_generator
from PIL import Image, ImageOps, UnidentifiedImageError
from scipy import ndimage

from kizami.artwork.artwork import Artwork, artwork_of
from kizami.errors import ArtworkError
from kizami.outlines.curves import FloatArray, polygons_from_contours

__all__ = ["LARGEST_PICTURE_BYTES", "LARGEST_PIXELS", "read_picture"]

LARGEST_PICTURE_BYTES = 16 * 1024 * 1024
LARGEST_PIXELS = 40_000_000
_LEAST_SIDE = 24
#: Larger pictures are reduced to this side: finer than any process can make.
_WORKING_SIDE = 2400
#: Specks smaller than this share of the picture, or than nine pixels, are dust.
_SPECK_SHARE, _SPECK_PIXELS = 2e-5, 9.0
#: Beyond this share of shaded pixels a picture of many greys is a photo, and beyond this number of
#: parts one of stars or grain. Measured on photographs, and on drawn signs with a scanner's noise:
#: photographs have 0.2 to 0.8 and at least 15 greys, signs at most 0.14.
_MOST_SHADED, _FEW_GREYS, _MOST_PARTS = 0.18, 12, 800
#: A grey is off when it differs from the usual dark or light by more than this share of their distance.
_OFF_SHARE = 0.12
_TINY_SIDE = 120
_SIMPLIFY_PIXELS = 0.12

_FORMATS = ("PNG", "JPEG", "GIF", "WEBP")
#: Of 255: what is lighter can't be told from white paper.
_LIGHT = 200

_Grey = npt.NDArray[np.float64]


def read_picture(data: bytes, *, name: str, threshold: float | None = None) -> Artwork:
    """Follow the edges of a picture.

    Parameters
    ----------
    threshold : grey between 0 (black) and 1 (white) that parts ink from paper; None to find it

    Returns
    -------
    Artwork with `pixels_high` and `wander_pixels`, and notes that say what was decided

    Raises
    ------
    ArtworkError : no picture, too large, too small, blank, or a photo
    """
    grey, is_hard, read_notes = _read(data, name)
    notes = list(read_notes)
    cut = _otsu(grey) if threshold is None else threshold
    _refuse_blank(grey, cut, name)
    if threshold is None:
        # Who sets the threshold by hand has seen what there is to follow.
        _refuse_photo(grey, cut, name)
    on_dark = _is_light_on_dark(grey, cut)
    if on_dark:
        grey, cut = 1.0 - grey, 1.0 - cut
        notes.append("It is light on dark: the light part was taken")
    notes.append(f"Parted at {(1.0 - cut if on_dark else cut) * 100:.0f} % grey")
    if is_hard:
        # Stairs of whole pixels are softened by less than a pixel, so that their edge runs smoothly.
        grey = ndimage.gaussian_filter(grey, 0.8)
    shape, specks = _follow(grey, cut)
    if shape.is_empty:
        raise ArtworkError(f"“{name}” is blank: there is nothing darker than its ground.")
    if len(shape.geoms) > _MOST_PARTS:
        raise ArtworkError(
            f"“{name}” falls into {len(shape.geoms)} parts, as a photo or a texture does. "
            "Ask for the drawn logo."
        )
    if specks:
        notes.append(f"{specks} specks were left out")
    artwork = artwork_of(shape, name=name, notes=tuple(notes))
    pixels_high = shape.bounds[3] - shape.bounds[1]
    # Soft edges come back within a third of a pixel, hard ones within two thirds (measured, see
    # tests/kizami/artwork/test_pictures.py).
    return replace(artwork, pixels_high=round(pixels_high, 2), wander_pixels=0.65 if is_hard else 0.35)


def _read(data: bytes, name: str) -> tuple[_Grey, bool, tuple[str, ...]]:
    """Greys from 0 to 1 over white, whether the picture knows only two of them, and what was decided."""
    if len(data) > LARGEST_PICTURE_BYTES:
        raise ArtworkError(
            f"“{name}” has {len(data) / 1024 / 1024:.0f} MB; a picture may have "
            f"{LARGEST_PICTURE_BYTES // 1024 // 1024} MB."
        )
    try:
        with warnings.catch_warnings():
            # Pillow warns of what we refuse by our own, lower limit.
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(data), formats=_FORMATS) as picture:
                width, height = picture.size
                if width * height > LARGEST_PIXELS:
                    raise ArtworkError(
                        f"“{name}” is {width} × {height} pixels; at most {LARGEST_PIXELS // 1_000_000} "
                        "million can be read. Make it smaller."
                    )
                if min(width, height) < _LEAST_SIDE:
                    raise ArtworkError(
                        f"“{name}” is only {width} × {height} pixels: too few to tell its edges. "
                        "Ask for a larger picture or an SVG."
                    )
                notes = []
                if (several := getattr(picture, "n_frames", 1)) > 1:
                    notes.append(f"The first of its {several} pictures was taken")
                # Cameras and telephones store which way is up beside the picture.
                rgba = _in_colours(ImageOps.exif_transpose(picture))
    except Image.DecompressionBombError as error:
        pixels = next(iter(re.findall(r"\d+", str(error))), "")
        raise ArtworkError(
            f"“{name}” has {int(pixels or 0) / 1e6:.0f} million pixels; at most "
            f"{LARGEST_PIXELS // 1_000_000} million can be read. Make it smaller."
        ) from error
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise ArtworkError(f"“{name}” is not a whole PNG, JPEG, GIF or WebP picture.") from error
    if max(rgba.size) > _WORKING_SIDE:
        factor = _WORKING_SIDE / max(rgba.size)
        sides = (max(1, round(side * factor)) for side in rgba.size)
        rgba = rgba.resize((next(sides), next(sides)), Image.Resampling.BOX)
    ground = Image.new("RGBA", rgba.size, "black" if _is_light_on_clear(rgba) else "white")
    if _is_light_on_clear(rgba):
        notes.append("It is light on a clear ground: it was laid on black")
    grey = np.asarray(Image.alpha_composite(ground, rgba).convert("L"), dtype=np.float64) / 255.0
    return grey, len(np.unique(grey)) <= 2, tuple(notes)


def _in_colours(picture: Image.Image) -> Image.Image:
    """Eight bits a colour with cover; of sixteen bits the upper ones, which Pillow would cut off."""
    if picture.mode.startswith("I"):
        deep = np.asarray(picture, dtype=np.float64)
        top = 65535.0 if deep.max() > 255 else 255.0
        picture = Image.fromarray(np.round(255.0 * np.clip(deep / top, 0.0, 1.0)).astype(np.uint8))
    elif picture.mode == "F":
        raise ValueError("greys without bounds")
    return picture.convert("RGBA")


def _is_light_on_clear(rgba: Image.Image) -> bool:
    """Whether all that covers its ground is light, so that on white nothing would be seen."""
    pixels = np.asarray(rgba)
    cover = pixels[:, :, 3] > 127
    if cover.all() or not cover.any():
        return False
    light = np.asarray(rgba.convert("L"))[cover]
    return bool(np.quantile(light, 0.05) > _LIGHT)


def _otsu(grey: _Grey) -> float:
    """The threshold that parts the greys best (Otsu 1979)."""
    counts, edges = np.histogram(grey, bins=256, range=(0.0, 1.0))
    middles = (edges[:-1] + edges[1:]) / 2.0
    below = np.cumsum(counts)
    above = below[-1] - below
    sums = np.cumsum(counts * middles)
    with np.errstate(divide="ignore", invalid="ignore"):
        between = below * above * (sums / below - (sums[-1] - sums) / above) ** 2
    between = np.nan_to_num(between)
    # Between two spikes every grey parts equally well; the middle of them is meant.
    best = np.flatnonzero(between >= between.max() * (1 - 1e-9))
    return float(middles[best].mean())


def _refuse_blank(grey: _Grey, cut: float, name: str) -> None:
    dark, light = grey[grey <= cut], grey[grey > cut]
    if not len(dark) or not len(light) or light.mean() - dark.mean() < 0.08:
        raise ArtworkError(f"“{name}” is blank: there is nothing darker than its ground.")


def _refuse_photo(grey: _Grey, cut: float, name: str) -> None:
    """Shading is what a photo has and a drawn sign has not: greys off the usual dark and light.

    A few flat tints are no shading. Grain is taken away first, so that a scan of a drawing passes.
    """
    counts = np.sort(np.bincount(np.round(grey * 255.0).astype(int).ravel(), minlength=256))[::-1]
    greys = int(np.searchsorted(np.cumsum(counts), 0.8 * grey.size)) + 1
    if greys <= _FEW_GREYS:
        return
    away = np.ones(grey.shape, dtype=bool)
    if min(grey.shape) <= _TINY_SIDE:
        # Edges are grey in every soft picture, and in a tiny one they are most of it.
        inked = grey <= cut
        both = (ndimage.binary_dilation(part, iterations=2) for part in (inked, ~inked))
        away = ~(next(both) & next(both))
    smooth = ndimage.median_filter(grey, 7 if min(grey.shape) > _TINY_SIDE else 3)
    low, high = float(np.median(grey[grey <= cut])), float(np.median(grey[grey > cut]))
    off = np.where(smooth <= cut, np.abs(smooth - low), np.abs(smooth - high))
    shaded = float(((off > _OFF_SHARE * (high - low)) & away).mean())
    if shaded > _MOST_SHADED:
        raise ArtworkError(
            f"“{name}” looks like a photo: {shaded * 100:.0f} % of it is shaded, so it has no clear edges. "
            "Ask for the drawn logo."
        )


def _is_light_on_dark(grey: _Grey, cut: float) -> bool:
    border = np.concatenate((grey[0], grey[-1], grey[:, 0], grey[:, -1]))
    return bool((border <= cut).mean() > 0.5)


def _follow(grey: _Grey, cut: float) -> tuple[shapely.MultiPolygon, int]:
    """Outlines of the dark part in pixels, and how many specks were left out."""
    # A margin of paper, so that ink that reaches the edge of the picture is closed there.
    padded = np.pad(grey, 1, constant_values=1.0)
    lines = contour_generator(z=padded).lines(cut)
    least = max(_SPECK_PIXELS, _SPECK_SHARE * grey.size)
    rings: list[FloatArray] = []
    specks = 0
    for line in lines:
        points: FloatArray = np.asarray(line, dtype=np.float64)[:-1]
        if len(points) < 3 or shapely.Polygon(points).area < least:
            specks += 1
            continue
        ring = shapely.simplify(shapely.Polygon(points), _SIMPLIFY_PIXELS)
        rings.append(np.asarray(ring.exterior.coords)[:-1] + 0.5)
    shape = polygons_from_contours(rings)
    if not shape.is_valid:
        parts = [p for p in shapely.get_parts(shapely.make_valid(shape)) if isinstance(p, shapely.Polygon)]
        shape = shapely.MultiPolygon(parts)
    assert math.isfinite(shape.area)
    return shape, specks
