"""Shaping against HarfBuzz's own command, `hb-shape` of Debian's libharfbuzz-bin."""

from __future__ import annotations

import json
import subprocess
from importlib.resources import files
from pathlib import Path

import pytest
from bidi import get_display
from faker import Faker
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.lettering.bidi import embedding_levels, visual_runs
from kizami.lettering.shipped import shipped_typeface, shipped_typefaces
from kizami.lettering.typeface import PLAIN, Style

TEXTS = [
    "Ana", "AVATAR", "Ottoline", "fi fl ffi", "Zoë", "Z\u00e9lie", "Þórhildur", "Żółkiewska", "Владимир", "Γεωργία",
    "O'Brien", "16 · 01 · 27", "Guinevere & Ansel", "Queen Nº 4", "🙂 Ana", "e\u0301", "x" * 200,
]  # fmt: skip
#: One script a row; what each typeface is meant for.
SCRIPTS = {
    "noto-sans": ("Latn Grek Cyrl", ["Nguyễn Thị Ánh", "Ἀφροδίτη", "Владислава"]),
    "noto-kufi-arabic-bold": ("Arab", ["فاطمة", "محمد", "لالا", "يَزَن"]),
    "amiri-bold": ("Arab", ["عبد الله", "نور الهدى", "لا إله", "مُحَمَّد", "سلمى"]),
    "noto-sans-hebrew-bold": ("Hebr", ["שָׁלוֹם", "רחל", "יעקב", "אבגד"]),
    "m-plus-rounded-bold": ("Hira Kana Hani", ["さくら", "ジョン", "渡辺", "高橋"]),
    "pacifico": ("Latn", ["Ottoline", "Żaneta", "fjord"]),
    "allerta-stencil": ("Latn", ["AVATAR", "Tooth"]),
    "roboto-slab-bold": ("Latn", ["AVATAR 1989", "Zoë"]),
}
assert len({script for scripts, _ in SCRIPTS.values() for script in scripts.split()}) >= 8


def names() -> list[str]:
    """Names of several locales, from an open package (faker, MIT)."""
    found = []
    for locale in ("en_GB", "de_DE", "pl_PL", "tr_TR", "el_GR", "ru_RU", "is_IS", "vi_VN"):
        try:
            fake = Faker(locale)
        except AttributeError:
            continue
        fake.seed_instance(11)
        found += [fake.name() for _ in range(25)]
    return found


def hb_shape(
    code: str, texts: list[str], folder: Path, *options: str
) -> list[list[tuple[int, int, float, float]]]:
    """Glyphs, clusters and origins by HarfBuzz's own command."""
    lines = folder / "lines.txt"
    lines.write_text("\n".join(texts) + "\n", "utf-8")
    font = files("kizami") / "data" / "typefaces" / shipped_typefaces()[code].file
    done = subprocess.run(
        [
            "hb-shape", str(font), f"--text-file={lines}", "--no-glyph-names", "--output-format=json",
            "--features=lnum", *options,
        ],
        capture_output=True,
        text=True,
        check=True,
    )  # fmt: skip
    out = []
    for line in done.stdout.splitlines():
        x = y = 0.0
        run = []
        for item in json.loads(line):
            run.append((item["g"], item["cl"], x + item["dx"], y + float(item["dy"])))
            x += item["ax"]
            y += item.get("ay", 0)
        out.append(run)
    return out


def ours(code: str, text: str, style: Style = PLAIN) -> list[tuple[int, int, float, float]]:
    return [(g.glyph, g.cluster, g.x, g.y) for g in shipped_typeface(code).shape(text, style)]


@pytest.mark.parametrize("code", ["noto-sans-bold", "vollkorn-bold"])
def test_glyphs_and_positions_equal_those_of_hb_shape(code: str, tmp_path: Path) -> None:
    texts = [*TEXTS, *names()]
    assert len(texts) > 150
    for text, expected in zip(texts, hb_shape(code, texts, tmp_path), strict=True):
        assert ours(code, text) == expected, text


@pytest.mark.parametrize("code", SCRIPTS)
def test_every_script_is_shaped_as_hb_shape_does(code: str, tmp_path: Path) -> None:
    texts = SCRIPTS[code][1]
    for text, expected in zip(texts, hb_shape(code, texts, tmp_path), strict=True):
        assert ours(code, text) == expected, text
        assert all(glyph for glyph, *_ in expected), f"{code} should have {text}"


def test_japanese_from_top_to_bottom(tmp_path: Path) -> None:
    texts = ["さくら", "ジョン", "渡辺ー"]
    down = Style(vertical=True)
    for text, expected in zip(
        texts, hb_shape("m-plus-rounded-bold", texts, tmp_path, "--direction=ttb"), strict=True
    ):
        assert ours("m-plus-rounded-bold", text, down) == expected, text


def test_a_language_chooses_its_own_forms(tmp_path: Path) -> None:
    """Turkish keeps its dotted i apart from f, where other languages may join them."""
    (expected,) = hb_shape("noto-sans", ["fifi"], tmp_path, "--language=tr")
    assert ours("noto-sans", "fifi", Style(language="tr")) == expected
    (expected,) = hb_shape("vollkorn-bold", ["SAIL"], tmp_path, "--features=smcp,c2sc")
    assert ours("vollkorn-bold", "SAIL", Style(features=(("smcp", 1), ("c2sc", 1)))) == expected


#: Characters of every kind that the algorithm tells apart, without those that cleaning removes.
BIDI = "abZ אבש عبس 019 ٠١ .,:+-/%€ ()[]"


@settings(max_examples=300, deadline=None)
@given(st.text(st.sampled_from(BIDI), min_size=1, max_size=14))
def test_mixed_lines_are_ordered_as_an_independent_reader_does(text: str) -> None:
    """Against python-bidi, an implementation of UAX 9 that is used for this test only."""
    order: list[str] = []
    for start, end, from_right in visual_runs(embedding_levels(text)):
        part = text[start:end]
        order.extend(reversed(part) if from_right else part)
    expected = get_display(text)
    mirrored = str.maketrans("()[]", ")(][")
    assert "".join(order).translate(mirrored) in (expected, expected.translate(mirrored)) or (
        sorted(order) == sorted(expected)
        and [c for c in order if c not in "()[]"] == [c for c in expected if c not in "()[]"]
    )
