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
import urllib.parse
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


def sign_in_works(port: int, said: str) -> bool:
    """Whether the desk gets in, which asks the database."""
    password = re.search(r"^ +desk +(\S+)$", said, re.M)[1]
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    address = f"http://127.0.0.1:{port}/people/sign-in/"
    page = browser.open(address, timeout=10).read().decode()
    token = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', page)[1]
    sent = urllib.parse.urlencode(
        {"csrfmiddlewaretoken": token, "username": "desk", "password": password}
    ).encode()
    request = urllib.request.Request(address, sent, {"Referer": address})
    return "Order book" in browser.open(request, timeout=10).read().decode()


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
        while "Stop with Ctrl-C" not in said:
            line = process.stdout.readline()
            assert line, said
            said += line
        assert f"http://127.0.0.1:{port}/" in said
        assert len(set(re.findall(r"^ +(?:maren|desk|bench|production) +(\S+)$", said, re.M))) == 4
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/people/sign-in/", timeout=10) as answer:
            assert b"Sign in" in answer.read()
        started = children(process.pid)
        assert len(started) == 3
        # Nothing of it runs as root, and nothing that it writes is for others to read.
        assert all(Path(f"/proc/{pid}").stat().st_uid != 0 for pid in started)
        logs = list((folder / "state" / "logs").iterdir())
        assert len(logs) == 3 and all(log.stat().st_mode & 0o077 == 0 for log in logs)
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
        # The database too.
        cluster = folder / "state" / "postgres" / "postmaster.pid"
        os.kill(int(cluster.read_text().splitlines()[0]), signal.SIGKILL)
        deadline = time.monotonic() + 60
        while True:
            assert time.monotonic() < deadline
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/people/sign-in/", timeout=5):
                    pass
                if cluster.exists() and sign_in_works(port, said):
                    break
            except OSError:
                pass
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
