"""Forecasts: the share that fits is the share of pieces that would be ready, and every misfit is named."""

from __future__ import annotations

from pathlib import Path

import pytest

from kizami.cli import catalogue_at, main
from kizami.errors import SizeError
from kizami.pieces.forecast import forecast, shipped_names, usual_size
from kizami.pieces.make import make_piece
from launch.state import REPOSITORY
from tests.kizami.samples import RING, RING_TABLE, TAG, TAG_TABLE, inputs, product

PRODUCTS = REPOSITORY / "demo" / "products.toml"


def test_a_thousand_names_ship_with_their_licence_and_none_twice() -> None:
    names = shipped_names()
    assert len(names) == len(set(names)) == 1000
    assert any("ß" in n or "ü" in n for n in names) and any("ł" in n for n in names)
    licence = REPOSITORY / "src" / "kizami" / "data" / "forecast-names-licence.txt"
    assert "Permission is hereby granted" in licence.read_text("utf-8")


@pytest.mark.parametrize("which", [RING, TAG], ids=["ring", "tag"])
def test_what_a_forecast_says_is_what_is_made(which) -> None:
    names = shipped_names()[:24]
    found = forecast(which, names)
    held = {n for n in names if make_piece(inputs(which, n)).stage == "held"}
    assert {m.name for m in found.misfits} == held
    assert found.share == pytest.approx(1 - len(held) / 24)
    assert sum(count for _, count in found.reasons) == len(held)


def test_on_several_processors_it_says_the_same_and_tells_how_far_it_is() -> None:
    names, told = shipped_names()[:70], []
    one = forecast(TAG, names)
    two = forecast(TAG, names, jobs=2, progress=lambda *state: told.append(state))
    assert one == two
    assert [done for done, _, _ in told] == [25, 50, 70]
    assert told[-1] == (70, 70, len(one.misfits))


def test_more_room_lets_more_names_fit() -> None:
    names = shipped_names()[:80]
    shares = [
        forecast(product(TAG_TABLE, blank={"length_mm": length}), names).share
        for length in (40.0, 50.0, 60.0)
    ]
    assert shares == sorted(shares) and shares[0] < shares[-1]


def test_sizes() -> None:
    names = ["Maximiliane"] * 2
    small, large = (forecast(RING, names, size=s).misfits for s in ("41", "70"))
    assert len(small) >= len(large)
    assert usual_size(TAG) == "" and usual_size(RING) == "54"
    for system, size in (("US", "7"), ("UK", "O"), ("JP", "13"), ("ISO", "54")):
        which = product({**RING_TABLE, "size_system": system})
        read = which.read_size(usual_size(which))
        assert read is not None and 15 < read.bore_mm < 18, size
    with pytest.raises(SizeError):
        forecast(RING, names, size="large")


def test_nothing_tried_is_nothing_wrong() -> None:
    assert forecast(TAG, []).share == 1.0


def test_the_command_line_prints_the_share_and_every_misfit(tmp_path: Path, capsys) -> None:
    names = tmp_path / "names.txt"
    names.write_text("Ida\n\nMaximilian-Alexander Theodor\nBo\n", "utf-8")
    code = main(["forecast", "crew-tag", "--products", str(PRODUCTS), "--names", str(names), "--jobs", "1"])
    out = capsys.readouterr().out.splitlines()
    assert code == 3
    assert out[-1].startswith("66.7 % of 3 names fit CREW-TAG")
    assert out[0].startswith("Maximilian-Alexander Theodor\tlowest-height\t")


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["HIVE-PLAT"], "HIVE-PLATE"),
        (["CREW-TAG", "--names", "{empty}"], "from 1 to 10000"),
        (["CHOIR-RING", "--size", "large"], "not a ring size"),
    ],
)
def test_what_can_not_be_forecast_is_said(arguments: list[str], says: str, tmp_path: Path, capsys) -> None:
    empty = tmp_path / "empty.txt"
    empty.write_text("\n")
    arguments = [a.format(empty=empty) for a in arguments]
    assert main(["forecast", *arguments, "--products", str(PRODUCTS)]) == 2
    assert says in capsys.readouterr().err


def test_the_demo_reads() -> None:
    assert catalogue_at(PRODUCTS).find("dome-ring")
