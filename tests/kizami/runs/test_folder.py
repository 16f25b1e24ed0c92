"""Runs from a folder, as the command line makes them."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from kizami.cli import main
from launch.state import REPOSITORY

ORDERS = (
    "order,line,product,size,wording,quantity,due,priority\n"
    "A,1,CHOIR-RING,54,Ada,2,2027-01-10,\n"
    "A,2,CREW-TAG,,Lind,1,2027-01-12,rush\n"
    "B,1,SORREL-LEAF,,Rosa,3,,\n"
    "C,1,BUOY-FRAME,,OWEN,1,,\n"
    "C,2,CREW-TAG,,⚓,1,,\n"
)


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("made")
    (folder / "orders.csv").write_text(ORDERS, "utf-8")
    products = REPOSITORY / "demo" / "products.toml"
    main(
        ["make", f"{folder}/orders.csv", "--products", f"{products}", "--out", f"{folder}/out", "--jobs", "1"]
    )
    return folder / "out"


@pytest.mark.parametrize(
    ("station", "count", "file"),
    [("FLASK-1", 3, "stl"), ("LASER-1", 3, "dxf"), ("RESIN-1", 1, "3mf")],
)
def test_a_folder_becomes_released_runs(
    made: Path, tmp_path: Path, station: str, count: int, file: str
) -> None:
    assert main(["pack", f"{made}", "--station", station, "--out", f"{tmp_path}"]) == 0
    manifests = [json.loads(path.read_bytes()) for path in sorted(tmp_path.glob("*/*-manifest.json"))]
    pieces = [piece["ticket"] for manifest in manifests for piece in manifest["pieces"]]
    assert len(pieces) == count and len(set(pieces)) == count
    # What is held is never laid.
    assert "C-2-1" not in pieces
    assert list(tmp_path.glob(f"{station}-001/{station}-001.{file}"))
    if station == "FLASK-1":
        assert pieces[0] == "A-2-1", "rush goes first, alloys apart"


def test_own_stations_and_waiting_pieces(
    made: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    stations = tmp_path / "stations.toml"
    stations.write_text(
        '[TINY]\nname = "Tiny"\nkind = "plate"\nprocesses = ["resin"]\nbed_mm = [30, 30, 30]\n', "utf-8"
    )
    arguments = [
        "pack",
        f"{made}",
        "--stations",
        f"{stations}",
        "--station",
        "TINY",
        "--out",
        f"{tmp_path}/out",
    ]
    assert main(arguments) == 3
    assert "C-1-1 waits: It covers" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["--station", "NOBODY"], "There is no station"),
        (["--station", "POWDER-1"], "Nothing in out is ready for"),
        (["--station", "LASER-1", "--seconds", "1e9"], "A search takes from"),
    ],
)
def test_what_can_t_be_packed(
    made: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], arguments: list[str], said: str
) -> None:
    assert main(["pack", f"{made}", *arguments, "--out", f"{tmp_path}"]) == 2
    assert said in capsys.readouterr().err


@pytest.mark.parametrize("report", [None, b"{", b"[]"], ids=["none", "broken", "other"])
def test_a_folder_without_a_report(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], report: bytes | None
) -> None:
    if report is not None:
        (tmp_path / "report.json").write_bytes(report)
    assert main(["pack", f"{tmp_path}", "--station", "LASER-1", "--out", f"{tmp_path}/out"]) == 2
    assert "report" in capsys.readouterr().err


def test_a_file_that_is_missing_is_named(
    made: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "pieces").mkdir()
    (tmp_path / "report.json").write_bytes((made / "report.json").read_bytes())
    assert main(["pack", f"{tmp_path}", "--station", "LASER-1", "--out", f"{tmp_path}/out"]) == 2
    assert "B-1-1.cut.svg is missing" in capsys.readouterr().err


def test_a_file_is_checked_from_the_command_line(made: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = next((made / "pieces").glob("C-1-1.stl"))
    assert main(["check-file", f"{path}", "--process", "resin"]) in (0, 3)
    out = capsys.readouterr().out
    assert "piece-size" in out and "wall-thickness" in out
