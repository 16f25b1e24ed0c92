"""Pictures: a rendered known outline comes back within half a pixel, and what has no edge is refused."""

from __future__ import annotations

import gzip
import io
import math
import struct
import zlib
from collections.abc import Callable

import numpy as np
import pytest
import shapely
import skimage.data
from PIL import Image, ImageDraw, ImageFilter

from kizami.artwork.artwork import Artwork
from kizami.artwork.pictures import LARGEST_PIXELS, read_picture
from kizami.artwork.shelf import read_logo
from kizami.errors import ArtworkError

_FINER = 8


def png(picture: Image.Image, kind: str = "PNG") -> bytes:
    out = io.BytesIO()
    picture.save(out, format=kind)
    return out.getvalue()


def drawn(
    shape: shapely.MultiPolygon, side: int, *, mode: str = "L", ink: int = 0, paper: int = 255
) -> Image.Image:
    """A shape in pixels, drawn eight times as fine and reduced, so that its edge is soft as printed ones are."""
    large = Image.new("L", (side * _FINER, side * _FINER), paper)
    pen = ImageDraw.Draw(large)
    for body in shape.geoms:
        pen.polygon([(x * _FINER - 0.5, y * _FINER - 0.5) for x, y in body.exterior.coords], fill=ink)
        for hole in body.interiors:
            pen.polygon([(x * _FINER - 0.5, y * _FINER - 0.5) for x, y in hole.coords], fill=paper)
    soft = large.resize((side, side), Image.Resampling.BOX)
    return soft if mode == "L" else soft.point(lambda v: 255 * (v > 127)).convert(mode)


def star(middle: float, outer: float, inner: float, points: int = 7) -> shapely.Polygon:
    angles = np.linspace(0, 2 * math.pi, 2 * points, endpoint=False)
    reach = np.where(np.arange(2 * points) % 2, inner, outer)
    return shapely.Polygon(
        np.column_stack((middle + reach * np.cos(angles), middle + reach * np.sin(angles)))
    )


SHAPES: dict[str, shapely.Polygon] = {
    "disc": shapely.Point(128, 128).buffer(90, quad_segs=64),
    "ring": shapely.Point(128, 128).buffer(90, 64).difference(shapely.Point(128, 128).buffer(55, 64)),
    "turned square": shapely.Polygon([(94, 52), (204, 94), (162, 204), (52, 162)]),
    "star": star(128, 100, 60),
}


def back_in_pixels(artwork: Artwork, shape: shapely.Geometry) -> shapely.MultiPolygon:
    """The artwork where the shape was in its picture: y down, in pixels."""
    low_x, low_y, high_x, high_y = shape.bounds
    scale = artwork.pixels_high
    # Placed by its middle, as the two boxes may differ by the very error that is measured.
    middle = np.array([(low_x + high_x) / 2, (low_y + high_y) / 2])
    own = np.array([artwork.width / 2, 0.5])
    return shapely.transform(artwork.shape, lambda xy: (xy - own) * (scale, -scale) + middle)


def wander(artwork: Artwork, shape: shapely.Geometry) -> np.ndarray:
    """How far points along the followed edge lie from the true one, pixels."""
    found = back_in_pixels(artwork, shape)
    dense = shapely.segmentize(found.boundary, 0.5)
    return shapely.distance(shapely.points(shapely.get_coordinates(dense)), shape.boundary)


@pytest.mark.parametrize("name", list(SHAPES))
def test_a_soft_edge_comes_back_within_half_a_pixel(name: str) -> None:
    shape = SHAPES[name]
    artwork = read_picture(png(drawn(shapely.MultiPolygon([shape]), 256)), name="x.png")
    off = wander(artwork, shape)
    # Corners are rounded by the pixels themselves; edges are far better.
    assert np.quantile(off, 0.99) < 0.5
    assert np.quantile(off, 0.9) <= artwork.wander_pixels == 0.35
    assert artwork.pixels_high == pytest.approx(shape.bounds[3] - shape.bounds[1], abs=2.0)
    assert len(artwork.shape.geoms[0].interiors) == len(shape.interiors)


@pytest.mark.parametrize("name", list(SHAPES))
def test_a_hard_edge_comes_back_within_a_pixel_and_says_so(name: str) -> None:
    shape = SHAPES[name]
    picture = drawn(shapely.MultiPolygon([shape]), 256, mode="1")
    artwork = read_picture(png(picture), name="x.png")
    off = wander(artwork, shape)
    assert np.quantile(off, 0.99) < 1.0
    assert np.quantile(off, 0.9) <= artwork.wander_pixels == 0.65


@pytest.mark.parametrize(
    "kind",
    [
        pytest.param(lambda p: png(p), id="grey"),
        pytest.param(lambda p: png(p.convert("RGB"), "JPEG"), id="JPEG"),
        pytest.param(lambda p: png(Image.merge("RGBA", (*[Image.new("L", p.size, 20)] * 3, p.point(lambda v: 255 - v)))), id="ink on nothing"),
        pytest.param(lambda p: png(Image.merge("RGB", (p, p.point(lambda v: v // 2 + 100), p.point(lambda v: v // 2 + 60)))), id="colour"),
        pytest.param(lambda p: png(p.quantize(16)), id="palette"),
        pytest.param(lambda p: png(p.filter(ImageFilter.GaussianBlur(1.5))), id="blurred"),
    ],
)  # fmt: skip
def test_every_kind_of_file_gives_the_same_shape(kind: Callable[[Image.Image], bytes]) -> None:
    shape = SHAPES["star"]
    artwork = read_picture(kind(drawn(shapely.MultiPolygon([shape]), 256)), name="x")
    assert artwork.shape.area * artwork.pixels_high**2 == pytest.approx(shape.area, rel=0.03)


def test_light_on_dark_is_recognised_and_said() -> None:
    dark = drawn(shapely.MultiPolygon([SHAPES["star"]]), 256, ink=240, paper=15)
    artwork = read_picture(png(dark), name="x.png")
    assert np.quantile(wander(artwork, SHAPES["star"]), 0.99) < 0.5
    assert any("light" in note for note in artwork.notes)


def test_the_threshold_is_said_and_can_be_set() -> None:
    """A grey ring round a black disc: the lower threshold takes the disc alone."""
    picture = Image.new("L", (200, 200), 255)
    pen = ImageDraw.Draw(picture)
    pen.ellipse((20, 20, 180, 180), fill=150)
    pen.ellipse((60, 60, 140, 140), fill=0)
    high = read_picture(png(picture), name="x", threshold=0.8)
    low = read_picture(png(picture), name="x", threshold=0.3)
    assert (high.pixels_high, low.pixels_high) == pytest.approx((160, 80), abs=2)
    assert any("80 %" in note for note in high.notes)


def test_specks_are_dropped_and_counted() -> None:
    picture = drawn(shapely.MultiPolygon([SHAPES["disc"]]), 256)
    for x, y in ((5, 5), (250, 9), (12, 240)):
        picture.putpixel((x, y), 0)
    artwork = read_picture(png(picture), name="x.png")
    assert len(artwork.shape.geoms) == 1
    assert any(note.startswith("3 specks") for note in artwork.notes)


@pytest.mark.parametrize(
    "name", ["astronaut", "brick", "camera", "cat", "clock", "coffee", "coins", "moon", "rocket"]
)
def test_a_photo_is_said_to_be_one_and_not_followed(name: str) -> None:
    """Photographs inside the scikit-image package."""
    photo = Image.fromarray(getattr(skimage.data, name)()).convert("RGB")
    with pytest.raises(ArtworkError, match="photo"):
        read_picture(png(photo, "JPEG"), name="x.jpg")


def test_a_drawn_sign_of_the_same_collection_is_followed() -> None:
    """The horse of scikit-image is a black figure on white."""
    horse = Image.fromarray(skimage.data.horse())
    artwork = read_picture(png(horse), name="horse.png")
    assert len(artwork.shape.geoms) == 1


def test_a_texture_is_not_followed_to_confetti() -> None:
    dots = np.full((320, 320), 255, dtype=np.uint8)
    for dx, dy in np.ndindex(4, 4):
        dots[2 + dx :: 10, 2 + dy :: 10] = 0
    with pytest.raises(ArtworkError, match="1024 parts"):
        read_picture(png(Image.fromarray(dots)), name="x.png")


def test_a_scan_with_noise_and_a_sign_in_three_tones_are_no_photos() -> None:
    noise = np.random.default_rng(7).normal(0, 6, (256, 256))
    clean = drawn(shapely.MultiPolygon([SHAPES["star"]]), 256).filter(ImageFilter.GaussianBlur(1))
    scan = Image.fromarray(np.clip(np.asarray(clean) * 0.8 + 25 + noise, 0, 255).astype(np.uint8))
    artwork = read_picture(png(scan, "JPEG"), name="scan.jpg")
    assert len(artwork.shape.geoms) == 1
    assert np.quantile(wander(artwork, SHAPES["star"]), 0.9) < 0.5


def lying_png(width: int, height: int) -> bytes:
    """A PNG that says it has this size, in a few bytes."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(bytes(1000)))
        + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("data", "says"),
    [
        pytest.param(lying_png(30_000, 30_000), "900 million pixels", id="30,000 x 30,000"),
        pytest.param(lying_png(LARGEST_PIXELS // 100 + 1, 100), "million", id="just too large"),
        pytest.param(lying_png(100, 100), "whole", id="cut short"),
        pytest.param(png(Image.new("L", (20, 400), 0)), "20 × 400", id="too few pixels"),
        pytest.param(png(Image.new("L", (100, 100), 255)), "blank", id="white"),
        pytest.param(png(Image.new("L", (100, 100), 128)), "blank", id="grey"),
        pytest.param(b"\x89PNG nothing", "whole", id="no picture"),
        pytest.param(b"GIF89a" + bytes(50), "PNG, JPEG, GIF or WebP", id="a damaged GIF"),
        pytest.param(b"\x89PNG" + bytes(17 * 1024 * 1024), "17 MB", id="too many bytes"),
    ],
)
def test_what_can_not_be_followed_is_refused_with_its_reason(data: bytes, says: str) -> None:
    with pytest.raises(ArtworkError, match=says):
        read_picture(data, name="x.png")


SIGN = shapely.MultiPolygon([star(60.0, 50.0, 24.0), shapely.box(4.0, 4.0, 30.0, 14.0)])


def followed(data: bytes, name: str = "sign") -> Artwork:
    return read_logo(data, name=name)


def apart(one: Artwork, other: Artwork) -> float:
    """Area in which two differ, as a share of the one."""
    return float(one.shape.symmetric_difference(other.shape).area / one.shape.area)


@pytest.mark.parametrize("kind", ["GIF", "WEBP"])
def test_other_kinds_of_picture_are_read_as_well(kind: str) -> None:
    plain = drawn(SIGN, 120)
    out = io.BytesIO()
    plain.save(out, kind, **({"lossless": True} if kind == "WEBP" else {}))
    assert apart(followed(png(plain)), followed(out.getvalue())) < 0.02


@pytest.mark.parametrize("turn", [3, 6, 8])
def test_a_picture_of_a_telephone_stands_as_it_was_seen(turn: int) -> None:
    """EXIF orientation (0x0112): 3 is half a turn, 6 a quarter clockwise, 8 anticlockwise to be seen upright."""
    plain = drawn(SIGN, 120)
    stored = plain.rotate({3: 180, 6: 90, 8: -90}[turn], expand=True)
    exif = Image.Exif()
    exif[0x0112] = turn
    out = io.BytesIO()
    stored.save(out, "JPEG", quality=98, exif=exif)
    assert apart(followed(png(plain)), followed(out.getvalue())) < 0.03


def test_sixteen_bits_are_not_cut_off() -> None:
    plain = drawn(SIGN, 120)
    deep = Image.fromarray((np.asarray(plain).astype(np.uint16) * 257).astype(np.uint16))
    assert apart(followed(png(plain)), followed(png(deep))) < 0.005


def test_white_on_clear_is_seen() -> None:
    plain = drawn(SIGN, 120)
    white = Image.new("RGBA", plain.size, (255, 255, 255, 0))
    white.putalpha(plain.point(lambda v: 255 - v))
    found = followed(png(white))
    assert apart(followed(png(plain)), found) < 0.02
    assert any("clear" in note for note in found.notes)
    # What is dark on clear stays dark on white.
    dark = Image.new("RGBA", plain.size, (0, 0, 0, 0))
    dark.putalpha(plain.point(lambda v: 255 - v))
    assert not any("clear" in note for note in followed(png(dark)).notes)


def test_of_several_pictures_the_first_is_taken_and_said() -> None:
    first, second = drawn(SIGN, 120), drawn(shapely.MultiPolygon([shapely.box(10, 10, 100, 20)]), 120)
    out = io.BytesIO()
    first.save(out, "GIF", save_all=True, append_images=[second])
    found = followed(out.getvalue())
    assert apart(followed(png(first)), found) < 0.02
    assert any("first of its 2" in note for note in found.notes)


@pytest.mark.parametrize("side", [24, 32, 48, 64])
def test_a_tiny_sign_is_no_photo(side: int) -> None:
    """Most of what is small and softly drawn is edge."""
    small = shapely.transform(SIGN, lambda xy: xy * side / 120.0)
    found = followed(png(drawn(small, side)))
    assert len(found.shape.geoms) >= 1


def test_a_packed_drawing_is_unpacked() -> None:
    drawing = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M0 0h9v9H0z"/></svg>'
    assert followed(gzip.compress(drawing)).shape.equals(followed(drawing).shape)
    with pytest.raises(ArtworkError, match="damaged"):
        followed(gzip.compress(drawing)[:-20][:30])
    # A packed drawing that would be larger than any may be is not unpacked further.
    with pytest.raises(ArtworkError, match="MB"):
        followed(gzip.compress(b"<svg>" + b" " * (64 * 1024 * 1024) + b"</svg>"))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"%PDF-1.7 ...", "PDF"), (b"II*\x00" + bytes(40), "TIFF"), (b"BM" + bytes(40), "BMP"), (b"", "no drawing"),
        (b"8BPS" + bytes(9), "layered"), (b"hello", "SVG, PNG"),
    ],
)  # fmt: skip
def test_what_is_sent_instead_is_named(data: bytes, says: str) -> None:
    with pytest.raises(ArtworkError, match=says):
        followed(data)
