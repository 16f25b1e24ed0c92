"""Shaping beside HarfBuzz's own command: two thousand names in twelve scripts, glyph by glyph."""

from __future__ import annotations

import json
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from importlib.resources import files
from pathlib import Path

from benchmarks.names import names_in
from benchmarks.other_faces import other_file
from kizami.lettering.shipped import shipped_typefaces
from kizami.lettering.typeface import Typeface

__all__ = ["shaped_otherwise"]

_NAMES_A_SCRIPT = 170
_SHIPPED = {
    "Latn": "noto-sans-bold", "Grek": "noto-sans-bold", "Cyrl": "noto-sans-bold", "Arab": "amiri-bold",
    "Hebr": "noto-sans-hebrew-bold", "Hira": "m-plus-rounded-bold",
}  # fmt: skip
#: Package with its version, and the file in it (all under the SIL Open Font License).
_FETCHED = {
    "Deva": ("noto-sans-devanagari@0.4.1", "700Bold/NotoSansDevanagari_700Bold.ttf"),
    "Beng": ("noto-sans-bengali@0.4.4", "700Bold/NotoSansBengali_700Bold.ttf"),
    "Taml": ("noto-sans-tamil@0.4.3", "700Bold/NotoSansTamil_700Bold.ttf"),
    "Thai": ("noto-sans-thai@0.4.2", "700Bold/NotoSansThai_700Bold.ttf"),
    "Armn": ("noto-sans-armenian@0.4.2", "700Bold/NotoSansArmenian_700Bold.ttf"),
    "Geor": ("noto-sans-georgian@0.4.3", "700Bold/NotoSansGeorgian_700Bold.ttf"),
}


def shaped_otherwise() -> tuple[int, int]:
    """Of all names, how many come out otherwise than by `hb-shape` (Debian's libharfbuzz-bin)."""
    command = shutil.which("hb-shape")
    if command is None:
        raise SystemExit("The group “craft” compares with hb-shape of libharfbuzz-bin, which is missing.")
    count = differ = 0
    for script, file in _every_file():
        typeface = Typeface(file.read_bytes(), name=script)
        texts = names_in(script, _NAMES_A_SCRIPT)
        for text, expected in zip(texts, _by_command(command, file, texts), strict=True):
            found = [(g.glyph, g.cluster, g.x, g.y) for g in typeface.shape(text)]
            count += 1
            differ += found != expected
    return differ, count


def _every_file() -> Iterator[tuple[str, Path]]:
    for script, code in _SHIPPED.items():
        yield script, Path(str(files("kizami") / "data" / "typefaces" / shipped_typefaces()[code].file))
    for script, (package, file) in _FETCHED.items():
        yield script, other_file(package, file)


def _by_command(
    command: str, file: Path, texts: tuple[str, ...]
) -> Iterator[list[tuple[int, int, float, float]]]:
    with tempfile.NamedTemporaryFile("w", encoding="utf-8", suffix=".txt") as lines:
        lines.write("\n".join(texts) + "\n")
        lines.flush()
        done = subprocess.run(
            [
                command, str(file), f"--text-file={lines.name}", "--no-glyph-names", "--output-format=json",
                "--features=lnum",
            ],
            capture_output=True, text=True, check=True,
        )  # fmt: skip
    for line in done.stdout.splitlines():
        x = y = 0.0
        run = []
        for item in json.loads(line):
            run.append((item["g"], item["cl"], x + item["dx"], y + float(item["dy"])))
            x, y = x + item["ax"], y + item.get("ay", 0)
        yield run
