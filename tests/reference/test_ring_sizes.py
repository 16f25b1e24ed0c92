"""Ring sizes against published values and against Debian's `units`.

Kizami takes for US sizes the trade table that US mandrels are cut to: 0.458 in at size 0 and
0.032 in of diameter a size (11.63 mm and 0.8128 mm). `units` documents four US formulas that
differ and carries another one: its US 7 is 54.209 mm round, ours 54.41 mm. The trade table is
taken because with it every quarter size is the same step of a mandrel; the two differ by less
than a sixth of a size over all sizes in use, which is asserted below.
"""

from __future__ import annotations

import math
import shutil
import subprocess

import pytest

from kizami.sizes import SizeSystem, parse_ring_size

ISO = SizeSystem.ISO
needs_units = pytest.mark.skipif(shutil.which("units") is None, reason="Debian's units is not installed")


def bore(text: str) -> float:
    return parse_ring_size(text, default=ISO).bore_mm


def units(expression: str) -> float:
    done = subprocess.run(["units", "-t", expression, "mm"], capture_output=True, text=True, check=True)
    return float(done.stdout)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        # ISO 8653 (EN 28653): the size is the inner circumference; from memory of the standard.
        ("ISO 41", 13.05), ("ISO 50", 15.92), ("ISO 54", 17.19), ("ISO 60", 19.10), ("ISO 76", 24.19),
        # BS 6820: circumference 40.0 at C, 1.25 a letter; from memory of the standard.
        ("UK A", 11.94), ("UK C", 12.73), ("UK L", 16.31), ("UK L½", 16.51), ("UK Z", 21.88),
        # JIS S 4700: bore 13 mm at 1, a third of a mm a size; from memory of the standard.
        ("JP 1", 13.00), ("JP 7", 15.00), ("JP 13", 17.00), ("JP 25", 21.00),
        # US trade table, from memory.
        ("US 3", 14.07), ("US 7", 17.32), ("US 10", 19.76), ("US 13", 22.20),
    ],
)  # fmt: skip
def test_published_bores(text: str, expected: float) -> None:
    assert bore(text) == pytest.approx(expected, abs=0.006)


@needs_units
@pytest.mark.parametrize("letter", "ABCDEFGHIJKLMNOPQRSTUVWXYZ")
def test_uk_letters_against_units(letter: str) -> None:
    assert math.pi * bore(f"UK {letter}") == pytest.approx(units(f"size{letter}ring"), abs=1e-6)


@needs_units
@pytest.mark.parametrize("size", range(1, 31))
def test_japanese_sizes_against_units(size: int) -> None:
    assert math.pi * bore(f"JP {size}") == pytest.approx(units(f"jpringsize({size})"), abs=1e-4)


@needs_units
def test_us_sizes_against_units_differ_by_the_known_amount() -> None:
    assert units("ringsize(7)") == pytest.approx(54.209, abs=0.001)
    assert math.pi * bore("US 7") == pytest.approx(54.41, abs=0.01)
    step_mm = math.pi * 0.8128
    for size in range(3, 14):
        assert abs(math.pi * bore(f"US {size}") - units(f"ringsize({size})")) < step_mm / 6


@needs_units
@pytest.mark.parametrize("size", [3, 7, 10, 13.5])
def test_us_sizes_against_the_diameter_that_units_quotes(size: float) -> None:
    """The first of the four formulas that the definitions file documents: 0.032 n + 0.458 in."""
    assert bore(f"US {size}") == pytest.approx(units(f"(0.032 {size} + 0.458) in"), abs=0.005)
