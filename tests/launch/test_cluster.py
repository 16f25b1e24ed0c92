"""The private cluster and the state folder: fresh, restarted, broken, and each refusal in one sentence."""

from __future__ import annotations

import dataclasses
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from launch.__main__ import _check_port
from launch.cluster import Cluster
from launch.errors import LaunchError
from launch.state import REPOSITORY, open_state


@pytest.fixture
def folder() -> Iterator[Path]:
    place = Path(tempfile.mkdtemp(prefix="kizami-cluster-"))
    place.chmod(0o755)
    yield place
    shutil.rmtree(place, ignore_errors=True)


def answers(cluster: Cluster) -> bool:
    environment = cluster.environment()
    with psycopg.connect(
        host=environment["KIZAMI_DB_HOST"],
        port=environment["KIZAMI_DB_PORT"],
        user=environment["KIZAMI_DB_USER"],
        password=environment["KIZAMI_DB_PASSWORD"],
        dbname=environment["KIZAMI_DB_NAME"],
    ) as connection:
        row = connection.execute("SELECT 1").fetchone()
    return row == (1,)


def test_a_cluster_is_made_started_found_again_and_stopped(folder: Path) -> None:
    state = open_state(folder / "state")
    cluster = Cluster.of(state, durable=False)
    assert cluster.start() is True
    try:
        assert answers(cluster)
        # Found on its port by whoever asks; not started a second time, so not stopped by them.
        again = Cluster.of(state, durable=False)
        assert again.port == cluster.port
        assert again.start() is False
        with pytest.raises(psycopg.OperationalError):
            answers(dataclasses.replace(cluster, passwords={"kizami": "wrong"}))
    finally:
        cluster.stop()
    # Killed hard while it ran: the next start recovers it.
    cluster = Cluster.of(state, durable=False)
    cluster.start()
    pid = int((cluster.data / "postmaster.pid").read_text().split()[0])
    os.kill(pid, signal.SIGKILL)
    for _ in range(100):
        try:
            os.kill(pid, 0)
        except ProcessLookupError:
            break
        import time

        time.sleep(0.05)
    revived = Cluster.of(state, durable=False)
    assert revived.start() is True
    try:
        assert answers(revived)
    finally:
        revived.stop()


@pytest.mark.parametrize(
    ("damage", "says"),
    [
        pytest.param("stray files", "no database cluster", id="folder with other files"),
        pytest.param("other version", "PostgreSQL 9", id="made by another version"),
        pytest.param("broken", "did not start", id="broken cluster"),
    ],
)
def test_a_broken_cluster_gets_a_sentence_with_the_way_out(folder: Path, damage: str, says: str) -> None:
    state = open_state(folder / "state")
    state.cluster.mkdir()
    if damage == "stray files":
        (state.cluster / "notes.txt").write_text("mine")
    else:
        version = "9" if damage == "other version" else _installed_version()
        (state.cluster / "PG_VERSION").write_text(version)
        if os.geteuid() == 0:
            shutil.chown(state.cluster, "postgres")
        state.cluster.chmod(0o700)
    with pytest.raises(LaunchError, match=says) as caught:
        Cluster.of(state).start()
    assert "again" in str(caught.value) or "away" in str(caught.value)
    assert state.cluster.exists()


def test_a_start_that_was_cut_short_is_made_whole_by_the_next(folder: Path, monkeypatch) -> None:
    state = open_state(folder / "state")
    first = Cluster.of(state, durable=False)
    with monkeypatch.context() as patch:
        patch.setattr(Cluster, "_make_ready", lambda self: None)
        first.start()
    first.stop()
    second = Cluster.of(state, durable=False)
    second.start()
    try:
        assert answers(second)
    finally:
        second.stop()


def _installed_version() -> str:
    return sorted(p.name for p in Path("/usr/lib/postgresql").iterdir())[-1]


@pytest.mark.skipif(os.geteuid() != 0, reason="only root needs another user to run the server")
def test_a_folder_that_the_server_cannot_reach_is_said(folder: Path) -> None:
    folder.chmod(0o700)
    state = open_state(folder / "state")
    with pytest.raises(LaunchError, match="KIZAMI_STATE_DIR"):
        Cluster.of(state).start()


def test_secrets_are_made_up_once_and_kept_from_others(folder: Path) -> None:
    first, second = open_state(folder / "state"), open_state(folder / "state")
    assert first == second
    assert ((folder / "state" / "secrets.json").stat().st_mode & 0o777) == 0o600
    other = open_state(folder / "other")
    assert len({first.secret_key, other.secret_key}) == 2
    assert not set(first.people.values()) & set(other.people.values())
    assert len(set(first.passwords.values())) == 3


def test_nobody_else_looks_into_the_state(folder: Path) -> None:
    state = open_state(folder / "state")
    for place, mode in ((state.folder, 0o711), (state.files, 0o700), (state.logs, 0o711)):
        assert place.stat().st_mode & 0o777 == mode


def test_damaged_secrets_are_said(folder: Path) -> None:
    open_state(folder / "state")
    (folder / "state" / "secrets.json").write_text("{")
    with pytest.raises(LaunchError, match="damaged"):
        open_state(folder / "state")


def test_a_state_folder_that_cannot_be_is_said(folder: Path) -> None:
    (folder / "file").write_text("")
    with pytest.raises(LaunchError, match="KIZAMI_STATE_DIR"):
        open_state(folder / "file" / "state")


def test_a_busy_port_is_said_with_another_to_take() -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        with pytest.raises(LaunchError, match=f"--port {port + 1}"):
            _check_port(port)
        done = subprocess.run(
            [sys.executable, "-m", "launch", "--port", str(port)],
            env={**os.environ, "PYTHONPATH": str(REPOSITORY / "src")},
            capture_output=True,
            text=True,
        )
    assert done.returncode == 1
    assert done.stderr.count("\n") == 1 and "busy" in done.stderr
