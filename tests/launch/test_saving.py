"""The whole shop saved and put back: complete, proven by its digests, never over a used shop unasked."""

from __future__ import annotations

import hashlib
import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from launch.cluster import Cluster
from launch.state import REPOSITORY, Role, State, open_state

LIST = "order,line,product,size,wording,quantity\n" + "".join(
    f"K,{n},CREW-TAG,,Name {n},1\n" for n in range(4)
)
_SET_UP = f"""
import django; django.setup()
from django.contrib.auth.models import User
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
make_list(take_list({LIST!r}.encode(), name="x", user=User.objects.get(username="maren")).pk)
"""


@pytest.fixture(scope="module")
def shop() -> Iterator[tuple[State, Cluster, dict[str, str]]]:
    """A shop with four made lines, its database running."""
    folder = Path(tempfile.mkdtemp(prefix="kizami-saving-"))
    folder.chmod(0o755)
    state = open_state(folder / "state")
    cluster = Cluster.of(state, durable=False)
    cluster.start()
    environment = {
        **os.environ, "KIZAMI_STATE_DIR": str(state.folder), "PYTHONPATH": str(REPOSITORY / "src"),
        "DJANGO_SETTINGS_MODULE": "workshop.settings",
    }  # fmt: skip
    owner = {**environment, **cluster.environment(Role.OWNER)}
    products = str(REPOSITORY / "demo" / "products.toml")
    try:
        for command in (["-m", "django", "open_shop", "--empty", "--products", products], ["-c", _SET_UP]):
            subprocess.run([sys.executable, *command], env=owner, check=True)
        yield state, cluster, environment
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


def run(environment: dict[str, str], *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "launch.saving", *arguments], env=environment, check=False, text=True,
        capture_output=True, stdin=subprocess.DEVNULL,
    )  # fmt: skip


def session(cluster: Cluster) -> psycopg.Connection:
    reach = cluster.environment(Role.CLUSTER)
    return psycopg.connect(
        host="127.0.0.1", port=reach["KIZAMI_DB_PORT"], user=reach["KIZAMI_DB_USER"],
        password=reach["KIZAMI_DB_PASSWORD"], dbname="kizami", autocommit=True,
    )  # fmt: skip


def everything(cluster: Cluster) -> dict[str, list[tuple[object, ...]]]:
    """Every row of every table of the shop."""
    with session(cluster) as found:
        tables = [row[0] for row in found.execute(
            "SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1")]  # fmt: skip
        return {
            table: sorted(found.execute(f"SELECT md5(t::text) FROM {table} AS t").fetchall())
            for table in tables
        }


def files(state: State) -> dict[str, str]:
    return {
        path.name: hashlib.sha256(path.read_bytes()).hexdigest()
        for path in state.files.rglob("*")
        if path.is_file()
    }


def test_a_shop_comes_back_as_it_was(shop, tmp_path: Path) -> None:
    state, cluster, environment = shop
    archive = tmp_path / "shop.tar"
    rows, content = everything(cluster), files(state)
    said = run(environment, "backup", str(archive))
    assert said.returncode == 0 and "4 lines" in said.stdout, said.stderr
    assert archive.stat().st_mode & 0o777 == 0o600 and not list(tmp_path.glob("*.part"))
    with session(cluster) as found:
        found.execute("UPDATE orders_orderline SET wording = 'lost'")
        found.execute("DELETE FROM making_finding")
    for path in list(state.files.rglob("*"))[::3]:
        if path.is_file():
            path.unlink()
    # A used shop is never replaced unasked.
    asked = run(environment, "restore", str(archive))
    assert asked.returncode != 0 and "--yes" in asked.stderr
    assert everything(cluster) != rows
    back = run(environment, "restore", str(archive), "--yes")
    assert back.returncode == 0, back.stderr
    assert everything(cluster) == rows and files(state) == content
    # The application's role works in it as before, and no more than before.
    reach = cluster.environment()
    with psycopg.connect(
        host="127.0.0.1", port=reach["KIZAMI_DB_PORT"], user=reach["KIZAMI_DB_USER"],
        password=reach["KIZAMI_DB_PASSWORD"], dbname="kizami", autocommit=True,
    ) as application:  # fmt: skip
        assert application.execute("SELECT count(*) FROM orders_orderline").fetchone() == (4,)
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            application.execute("DELETE FROM orders_event")


@pytest.mark.parametrize(
    ("harm", "said"),
    [
        (lambda data: data[: len(data) // 2], "cut short|damaged"),
        (lambda data: data.replace(b"order,line,product", b"order,line,produce", 1), "not what it was"),
        (lambda data: data[:20_000] + bytes([data[20_000] ^ 1]) + data[20_001:], "damaged"),
        (lambda data: b"no archive at all", "no archive"),
    ],
    ids=["cut short", "one file changed", "database changed", "another file"],
)
def test_an_archive_that_is_not_sound_changes_nothing(shop, tmp_path: Path, harm, said: str) -> None:
    _, cluster, environment = shop
    archive = tmp_path / "shop.tar"
    assert run(environment, "backup", str(archive)).returncode == 0
    rows = everything(cluster)
    harmed = harm(archive.read_bytes())
    assert harmed != archive.read_bytes()
    archive.write_bytes(harmed)
    answer = run(environment, "restore", str(archive), "--yes")
    assert answer.returncode != 0 and re.search(said, answer.stderr), answer.stderr
    assert everything(cluster) == rows


def test_an_open_shop_is_not_replaced(shop, tmp_path: Path) -> None:
    _, cluster, environment = shop
    archive = tmp_path / "shop.tar"
    assert run(environment, "backup", str(archive)).returncode == 0
    with session(cluster):
        answer = run(environment, "restore", str(archive), "--yes")
    assert answer.returncode != 0 and "Stop it first" in answer.stderr


def test_a_store_that_lacks_a_file_is_not_saved_as_if_it_were_whole(shop, tmp_path: Path) -> None:
    state, _, environment = shop
    path = next(path for path in state.files.rglob("*") if path.is_file())
    kept = path.read_bytes()
    path.unlink()
    try:
        answer = run(environment, "backup", str(tmp_path / "shop.tar"))
    finally:
        path.write_bytes(kept)
    assert answer.returncode != 0 and "missing from the store" in answer.stderr
    assert not list(tmp_path.iterdir())
