"""A whole list from bytes to files: nothing lost, nothing half written, the same bytes twice."""

from __future__ import annotations

import csv
import io
import json
import multiprocessing
import os
import signal
from pathlib import Path

import pytest

from kizami.cli import main
from kizami.errors import OrderListError, StoppedError
from kizami.pieces.batch import make_list, resolve_list
from kizami.pieces.lines import Line, piece_name
from kizami.pieces.sharing import in_good_order, work_shared
from kizami.products.product import Catalogue
from kizami.wording.order_list import LARGEST_LIST_BYTES
from launch.state import REPOSITORY
from tests.kizami.samples import RING, TAG

CATALOGUE = Catalogue(products={"ring": RING, "tag": TAG})
LIST = (
    "order,line,product,size,wording,quantity\n"
    "A1,1,RING,54,Ottoline,2\n"
    "A1,2,TAG,,Halloran,1\n"
    "A1,3,RING,54,Maximilian-Alexander Theodor,1\n"
    "A2,1,TAG,,⚓,1\n"
    "A2,2,TOG,,Ng,1\n"
    "A2,3,RING,huge,Ng,1\n"
    "A2,4,TAG,,=1+1,1\n"
    "A2,5,TAG,,Ng,0\n"
).encode()


def files(folder: Path) -> dict[str, bytes]:
    return {str(p.relative_to(folder)): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def test_every_row_is_accounted_for(tmp_path: Path) -> None:
    summary = make_list(LIST, CATALOGUE, tmp_path)
    assert (summary.ready, summary.held, summary.set_aside) == (3, 3, 3)
    report = json.loads((tmp_path / "report.json").read_bytes())
    assert report["counts"] == {"pieces": 6, "ready": 3, "held": 3, "set aside": 3}
    assert [a["row"] for a in report["set aside"]] == [6, 7, 9]
    assert report["set aside"][0]["cells"] == ["A2", "2", "TOG", "", "Ng", "1"]
    assert "TAG" in report["set aside"][0]["reason"]


def test_files_lie_where_the_report_says_and_held_pieces_apart(tmp_path: Path) -> None:
    make_list(LIST, CATALOGUE, tmp_path)
    report = json.loads((tmp_path / "report.json").read_bytes())
    named = {name for piece in report["pieces"] for name in piece["files"]}
    assert named | {"report.json", "report.csv"} == set(files(tmp_path))
    for piece in report["pieces"]:
        assert {n.split("/")[0] for n in piece["files"]} == {
            "pieces" if piece["stage"] == "ready" else "held"
        }
    assert {"pieces/A1-1-1.stl", "pieces/A1-1-2.3mf", "pieces/A1-2-1.svg"} <= named
    assert (tmp_path / "pieces/A1-1-1.stl").read_bytes() == (tmp_path / "pieces/A1-1-2.stl").read_bytes()


def test_the_report_carries_every_measurement(tmp_path: Path) -> None:
    make_list(LIST, CATALOGUE, tmp_path)
    first = json.loads((tmp_path / "report.json").read_bytes())["pieces"][0]
    assert first["height_mm"] == 4.8
    assert first["fit_steps"][0]["name"] == "natural size"
    assert len(first["fingerprint"]) == 64
    assert first["volume_mm3"] > 0 and len(first["bounding_box_mm"]) == 6
    for found in first["findings"]:
        assert {"code", "measured", "limit", "unit", "level", "spot"} <= set(found)


def test_the_csv_report_opens_safely_and_lists_set_aside_rows(tmp_path: Path) -> None:
    make_list(LIST, CATALOGUE, tmp_path)
    rows = list(csv.DictReader(io.StringIO((tmp_path / "report.csv").read_text("utf-8-sig"), newline="")))
    assert [r["stage"] for r in rows] == ["ready"] * 3 + ["held"] * 3 + ["set aside"] * 3
    assert [r["wording"] for r in rows if r["line"] == "4"] == ["'=1+1"]
    assert float(rows[0]["stroke-width measured"]) >= float(rows[0]["stroke-width limit"])
    assert rows[0]["stroke-width unit"] == "mm"
    assert "huge" in rows[-2]["row as received"]


def test_the_same_list_gives_the_same_bytes_on_one_core_or_two(tmp_path: Path) -> None:
    make_list(LIST, CATALOGUE, tmp_path / "one", jobs=1)
    make_list(LIST, CATALOGUE, tmp_path / "two", jobs=2)
    assert files(tmp_path / "one") == files(tmp_path / "two")


def test_a_second_run_leaves_no_file_of_the_first_behind(tmp_path: Path) -> None:
    make_list(LIST, CATALOGUE, tmp_path)
    (tmp_path / "pieces" / "note.txt").write_text("mine")
    make_list(b"order,line,product,wording\nB1,1,TAG,Ng\n", CATALOGUE, tmp_path)
    names = set(files(tmp_path))
    assert names == {
        "pieces/B1-1-1.svg", "pieces/B1-1-1.stl", "pieces/B1-1-1.3mf", "pieces/note.txt",
        "report.json", "report.csv",
    }  # fmt: skip


def test_a_report_that_names_other_files_deletes_nothing(tmp_path: Path) -> None:
    precious = tmp_path / "precious.txt"
    precious.write_text("keep")
    out = tmp_path / "out"
    out.mkdir()
    (out / "report.json").write_text(json.dumps({"pieces": [{"files": ["../precious.txt", "x/y"]}]}))
    make_list(b"order,line,product,wording\nB1,1,TAG,Ng\n", CATALOGUE, out)
    assert precious.read_text() == "keep"


def test_a_refused_list_writes_nothing(tmp_path: Path) -> None:
    with pytest.raises(OrderListError):
        make_list(b"", CATALOGUE, tmp_path / "out")
    assert not (tmp_path / "out").exists()


def test_progress_counts_up_to_the_total(tmp_path: Path) -> None:
    told: list[tuple[int, int, int]] = []
    make_list(LIST, CATALOGUE, tmp_path, progress=lambda *step: told.append(step))
    assert told[0] == (0, 6, 0)
    assert told[-1] == (6, 6, 3)
    assert [t[0] for t in told] == sorted(t[0] for t in told)


@pytest.mark.parametrize(
    ("order", "line"),
    [
        ("../../etc", "1"),
        ("a/b", "1"),
        ("a\\b", "1"),
        ("", ""),
        ("é", "1"),
        ("x" * 300, "1"),
        ("CON|?*", ":"),
    ],
)
def test_file_names_are_safe_and_distinct(order: str, line: str) -> None:
    name = piece_name(order, line, 1)
    assert name.isascii() and len(name) < 150
    assert not set(name) & set('/\\:*?"<>| ')
    assert not name.startswith(".")
    assert name != piece_name(order + "!", line, 1)


PRODUCTS = """
[[product]]
code = "TAG"
blank = { kind = "plate", hang = "hole left", length_mm = 60, height_mm = 25, thickness_mm = 3, corner_mm = 5, hole_mm = 5, web_mm = 3 }
treatment = { kind = "engraved", depth_mm = 1.0 }
process = "lost-wax"
material = "bronze"
typeface = "noto-sans-bold"
fit = { greatest_height_mm = 11, lowest_height_mm = 4.4, clearance_mm = 2 }
"""


@pytest.mark.parametrize(
    ("orders", "code", "says"),
    [
        pytest.param(b"order,line,product,wording\nA,1,TAG,Ng\n", 0, "1 ready", id="all ready"),
        pytest.param(b"order,line,product,wording\nA,1,TAG,Ng\nA,2,TAG,\n", 3, "1 held", id="some held"),
        pytest.param(
            b"order,line,product,wording\nA,1,TAG,Ng\nA,2,TOG,Ng\n", 3, "1 rows set aside", id="set aside"
        ),
        pytest.param(b"", 2, "empty", id="empty list"),
        pytest.param(b"order,product,wording\nA,TAG,\x00", 2, "NUL", id="not text"),
        pytest.param(b"x" * (LARGEST_LIST_BYTES + 1), 2, "at most 5 MB", id="too large"),
        pytest.param(None, 2, "No such file", id="no file"),
    ],
)
def test_exit_codes(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], orders: bytes | None, code: int, says: str
) -> None:
    (tmp_path / "products.toml").write_text(PRODUCTS)
    if orders is not None:
        (tmp_path / "orders.csv").write_bytes(orders)
    arguments = ["make", f"{tmp_path}/orders.csv", "--products", f"{tmp_path}/products.toml"]
    assert main([*arguments, "--out", f"{tmp_path}/out", "--jobs", "1"]) == code
    printed = capsys.readouterr()
    assert says in (printed.out if code != 2 else printed.err)
    if code == 2:
        assert printed.err.count("\n") == 1


def test_a_products_file_that_cannot_be_used_is_one_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "products.toml").write_text("[[product]]\ncode = 'X'\n")
    (tmp_path / "orders.csv").write_bytes(LIST)
    code = main(
        [
            "make",
            f"{tmp_path}/orders.csv",
            "--products",
            f"{tmp_path}/products.toml",
            "--out",
            f"{tmp_path}/o",
        ]
    )
    assert code == 2
    assert "Product X" in capsys.readouterr().err


def lines_of(*products: str) -> list[Line]:
    sizes = {"RING": "54", "TAG": ""}
    rows = "".join(f"A1,{n},{code},{sizes[code]},Ng,1\n" for n, code in enumerate(products, 1))
    lines, aside = resolve_list(f"order,line,product,size,wording,quantity\n{rows}".encode(), CATALOGUE)
    assert not aside
    return lines


def test_lines_of_one_product_are_made_one_after_the_other() -> None:
    lines = lines_of("RING", "TAG", "RING", "TAG", "RING")
    assert in_good_order(lines) == [0, 2, 4, 1, 3]


def test_every_line_is_worked_on_once_however_many_processes_share_them() -> None:
    lines = lines_of(*["RING", "RING", "TAG"] * 17)
    for jobs in (1, 2, 3, 60):
        done = list(work_shared(lines, line_number, jobs=jobs))
        assert sorted(done) == [(n, str(n + 1)) for n in range(len(lines))]


def line_number(line: Line) -> str:
    return line.row.line


def full_disk(line: Line) -> str:
    raise OSError(f"no room for {line.row.line}")


def killed(line: Line) -> str:
    os.kill(os.getpid(), signal.SIGKILL)
    return line.row.line


def test_what_goes_wrong_in_a_process_is_told() -> None:
    lines = lines_of(*["RING"] * 20)
    with pytest.raises(OSError, match="no room for"):
        list(work_shared(lines, full_disk, jobs=2))
    with pytest.raises(StoppedError, match="memory"):
        list(work_shared(lines, killed, jobs=2))
    assert not multiprocessing.active_children()


def test_a_row_with_four_faults_names_all_four_at_once() -> None:
    data = b"order,product,size,wording,quantity,due,priority\nA1,RING,huge,Ng,1.5,someday,maybe\n"
    lines, aside = resolve_list(data, CATALOGUE)
    assert not lines
    for said in ("“1.5”", "“someday”", "“huge”", "“maybe”"):
        assert said in aside[0].reason
    assert aside[0].column == "quantity"


def test_what_else_is_wrong_is_found_where_the_order_number_is_missing() -> None:
    _, aside = resolve_list(b"order,product,size,wording\n,TOG,,Ng\n", CATALOGUE)
    assert "order number" in aside[0].reason and "TAG" in aside[0].reason


def test_a_doubtful_column_stops_the_command_until_it_is_told(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    products, orders = tmp_path / "products.toml", tmp_path / "orders.csv"
    products.write_bytes((REPOSITORY / "demo" / "products.toml").read_bytes())
    (tmp_path / "shapes").symlink_to(REPOSITORY / "demo" / "shapes")
    orders.write_text("order,product,name,e-mail,kelp\nA1,CREW-TAG,Ng,a@example.org,x\n")
    command = [
        "make",
        str(orders),
        "--products",
        str(products),
        "--out",
        str(tmp_path / "out"),
        "--jobs",
        "1",
    ]
    assert main(command) == 2
    assert "“name” may be the wording" in capsys.readouterr().err
    assert not (tmp_path / "out").exists()
    assert main([*command, "--columns", "wording=name"]) == 0
    told = capsys.readouterr().err
    assert "“kelp”" in told
    assert main([*command, "--accept-guess"]) == 0
    assert main([*command, "--columns", "words=name"]) == 2
    assert main([*command, "--encoding", "Runes"]) == 2
