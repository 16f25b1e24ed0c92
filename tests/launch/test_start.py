"""The whole start: comes up with the demo, starts a dead child again, and stops all that it started."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from launch.cluster import free_port
from launch.state import REPOSITORY


def children(pid: int) -> dict[int, str]:
    found = {}
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            stat = (entry / "stat").read_text()
            command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode()
        except OSError:
            continue
        if int(stat.rsplit(")", 1)[1].split()[1]) == pid:
            found[int(entry.name)] = command
    return found


def test_start_comes_up_heals_and_stops() -> None:
    folder = Path(tempfile.mkdtemp(prefix="kizami-start-"))
    folder.chmod(0o755)
    port = free_port()
    environment = {
        **os.environ, "KIZAMI_STATE_DIR": str(folder / "state"), "PYTHONPATH": str(REPOSITORY / "src"),
        "PYTHONUNBUFFERED": "1",
    }  # fmt: skip
    process = subprocess.Popen(
        [sys.executable, "-m", "launch", "--port", str(port), "--workers", "1", "--feed-port", str(free_port())],
        env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip
    try:
        assert process.stdout is not None
        said = ""
        while "Ctrl-C" not in said:
            line = process.stdout.readline()
            assert line, said
            said += line
        assert f"http://127.0.0.1:{port}/" in said
        assert re.search(r"password \S+", said)
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/people/sign-in/", timeout=10) as answer:
            assert b"Sign in" in answer.read()
        started = children(process.pid)
        assert len(started) == 3
        worker = next(pid for pid, command in started.items() if "procrastinate" in command)
        os.kill(worker, signal.SIGKILL)
        deadline = time.monotonic() + 20
        while worker in children(process.pid) or len(children(process.pid)) < 3:
            assert time.monotonic() < deadline
            time.sleep(0.2)
        # The web server too: killed hard, it answers again without a hand.
        web = next(pid for pid, command in children(process.pid).items() if "gunicorn" in command)
        os.killpg(web, signal.SIGKILL)
        while True:
            assert time.monotonic() < deadline + 20
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/people/sign-in/", timeout=5) as answer:
                    assert answer.status == 200
                break
            except OSError:
                time.sleep(0.3)
        started |= children(process.pid)
        process.send_signal(signal.SIGINT)
        assert process.wait(timeout=40) == 0
        for pid in started:
            assert not Path(f"/proc/{pid}").exists()
        # The database has gone with the rest, as this start had brought it up.
        assert not (folder / "state" / "postgres" / "postmaster.pid").exists()
    finally:
        if process.poll() is None:
            process.kill()
        process.wait()
        if process.stdout is not None:
            process.stdout.close()
        shutil.rmtree(folder, ignore_errors=True)
