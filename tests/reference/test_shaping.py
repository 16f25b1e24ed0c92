"""Shaping against HarfBuzz's own command, `hb-shape` of Debian's libharfbuzz-bin."""

from __future__ import annotations

import json
import shutil
import subprocess
from importlib.resources import files
from pathlib import Path

import pytest
from faker import Faker

from kizami.lettering.shipped import shipped_typeface

FILES = {"noto-sans-bold": "NotoSans-Bold.ttf", "vollkorn-bold": "Vollkorn-Bold.ttf"}
TEXTS = [
    "Ana", "AVATAR", "Ottoline", "fi fl ffi", "Zoë", "Z\u00e9lie", "Þórhildur", "Żółkiewska", "Владимир", "Γεωργία",
    "O'Brien", "16 · 01 · 27", "Guinevere & Ansel", "Queen Nº 4", "🙂 Ana", "e\u0301", "x" * 200,
]  # fmt: skip


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


@pytest.mark.skipif(shutil.which("hb-shape") is None, reason="hb-shape is not installed")
@pytest.mark.parametrize("code", sorted(FILES))
def test_glyphs_and_positions_equal_those_of_hb_shape(code: str, tmp_path: Path) -> None:
    texts = [*TEXTS, *names()]
    assert len(texts) > 150
    lines = tmp_path / "lines.txt"
    lines.write_text("\n".join(texts) + "\n", "utf-8")
    font = files("kizami") / "data" / "typefaces" / FILES[code]
    done = subprocess.run(
        ["hb-shape", str(font), f"--text-file={lines}", "--no-glyph-names", "--output-format=json"],
        capture_output=True,
        text=True,
        check=True,
    )
    face = shipped_typeface(code)
    for text, line in zip(texts, done.stdout.splitlines(), strict=True):
        pen, expected = 0.0, []
        for item in json.loads(line):
            expected.append((item["g"], item["cl"], pen + item["dx"], float(item["dy"])))
            pen += item["ax"]
        assert [(g.glyph, g.cluster, g.x, g.y) for g in face.shape(text)] == expected, text
