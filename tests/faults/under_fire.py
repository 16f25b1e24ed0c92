"""A whole shop, started as people start it, whose programs are killed at random while people work in it.

What people did and were told is done must be there; what they were told nothing of may be there, whole, or
not at all. Killed with SIGKILL are web server, its processes, workers, the database and its sessions.
"""

from __future__ import annotations

import io
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import zipfile
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx

from launch.cluster import free_port
from launch.state import REPOSITORY

__all__ = ["Fire", "Shop", "Told", "open_shop_in", "rest_s", "under_fire"]

_OWNER = "maren"
_PASSWORD = "tide-and-lantern-27"
_LINES = 12
_REST_S = 300.0


@dataclass(kw_only=True, slots=True)
class Told:
    """What people were told is done, and what they tried.

    Attributes
    ----------
    taken : names of lists
    tried : names of lists that were handed in
    kept : line -> words
    trying : line -> every words that were sent for it
    bundles : how many were asked for and shown as such
    unanswered : requests that got no answer, or that of a server in trouble
    lines_each : of every list
    """

    taken: set[str] = field(default_factory=set)
    tried: set[str] = field(default_factory=set)
    kept: dict[int, str] = field(default_factory=dict)
    trying: dict[int, list[str]] = field(default_factory=dict)
    bundles: int = 0
    unanswered: int = 0
    lines_each: int = _LINES


@dataclass(kw_only=True, slots=True)
class Fire:
    """What was killed, by kind."""

    kills: dict[str, int] = field(default_factory=dict)

    @property
    def count(self) -> int:
        """All kills."""
        return sum(self.kills.values())


@dataclass(kw_only=True)
class Shop:
    """A started shop."""

    folder: Path
    port: int
    process: subprocess.Popen[str]
    said: str

    @property
    def address(self) -> str:
        """Of its web server."""
        return f"http://127.0.0.1:{self.port}"

    def choose_password(self) -> None:
        """The owner's first one, which was said at the start, is changed for another."""
        found = re.search(rf"^ +{_OWNER} +(\S+)$", self.said, re.M)
        assert found is not None, self.said
        with closing(httpx.Client(base_url=self.address, timeout=60, follow_redirects=True)) as client:
            headers = {"Referer": self.address}
            sent = {"username": _OWNER, "password": found[1]}
            token = _token(client.get("/people/sign-in/").text)
            page = client.post(
                "/people/sign-in/", data={"csrfmiddlewaretoken": token, **sent}, headers=headers
            )
            chosen = {"old_password": found[1], "new_password1": _PASSWORD, "new_password2": _PASSWORD}
            token = _token(page.text)
            page = client.post(
                "/people/password/", data={"csrfmiddlewaretoken": token, **chosen}, headers=headers
            )
            assert "Order book" in page.text

    def sign_in(self) -> httpx.Client:
        """A browser in which the owner is signed in.

        Raises
        ------
        httpx.HTTPError : the shop does not answer as it should
        """
        client = httpx.Client(base_url=self.address, timeout=30, follow_redirects=True)
        page = client.get("/people/sign-in/")
        sent = {"csrfmiddlewaretoken": _token(page.text), "username": _OWNER, "password": _PASSWORD}
        answer = client.post("/people/sign-in/", data=sent, headers={"Referer": self.address})
        if "Order book" not in answer.text:
            raise httpx.RequestError("not signed in")
        return client

    def targets(self) -> dict[str, list[int]]:
        """Processes that may be killed, by kind."""
        children = _children_of(self.process.pid)
        web = [pid for pid, command in children if "gunicorn" in command]
        workers = [pid for pid, command in children if "procrastinate" in command]
        found = {
            "web": web, "worker": workers,
            "web process": [pid for one in web for pid, _ in _children_of(one)],
        }  # fmt: skip
        try:
            lines = (self.folder / "state" / "postgres" / "postmaster.pid").read_text().splitlines()
            found["database"] = [int(lines[0])]
            sessions = [pid for pid, command in _children_of(int(lines[0])) if "127.0.0.1" in command]
            found["session of the database"] = sessions
        except (OSError, ValueError, IndexError):
            pass
        return {kind: pids for kind, pids in found.items() if pids}


def _token(page: str) -> str:
    found = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', page)
    if found is None:
        raise httpx.RequestError("no form")
    return found[1]


def _children_of(parent: int) -> list[tuple[int, str]]:
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            stat = (entry / "stat").read_text().rsplit(")", 1)[1].split()
            command = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
        except OSError:
            continue
        if int(stat[1]) == parent and stat[0] != "Z":
            found.append((int(entry.name), command))
    return found


@contextmanager
def open_shop_in(*, workers: int) -> Iterator[Shop]:
    """A shop with the demo's products, in a folder of its own; stopped and gone at the end."""
    folder = Path(tempfile.mkdtemp(prefix="kizami-faults-"))
    folder.chmod(0o755)
    port = free_port()
    environment = {
        **os.environ, "KIZAMI_STATE_DIR": str(folder / "state"), "PYTHONPATH": str(REPOSITORY / "src"),
        "PYTHONUNBUFFERED": "1",
    }  # fmt: skip
    for name in (
        "KIZAMI_DB_PORT",
        "KIZAMI_DB_USER",
        "KIZAMI_DB_PASSWORD",
        "KIZAMI_DB_HOST",
        "KIZAMI_DB_NAME",
    ):
        environment.pop(name, None)
    process = subprocess.Popen(
        [sys.executable, "-m", "launch", "--port", str(port), "--workers", str(workers),
         "--empty", "--products", str(REPOSITORY / "demo" / "products.toml")],
        env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip
    assert process.stdout is not None
    reader = threading.Thread(target=process.stdout.read, daemon=True)
    try:
        said = ""
        while "Stop with Ctrl-C" not in said:
            line = process.stdout.readline()
            assert line, said
            said += line
        # What it says afterwards is read and dropped, so that it never waits for a reader.
        reader.start()
        shop = Shop(folder=folder, port=port, process=process, said=said)
        shop.choose_password()
        yield shop
    finally:
        process.send_signal(signal.SIGINT)
        try:
            process.wait(timeout=60)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        if reader.ident is not None:
            reader.join()
        process.stdout.close()
        shutil.rmtree(folder, ignore_errors=True)


def under_fire(shop: Shop, *, kills: int, pause_s: tuple[float, float], seed: int) -> tuple[Told, Fire]:
    """Let people work while programs are killed; ends with the last kill, not with the rest after it.

    Parameters
    ----------
    pause_s : between two kills, at least and at most
    """
    told, fire, over, lock = Told(), Fire(), threading.Event(), threading.Lock()
    acts: list[Callable[[httpx.Client, random.Random, Told, threading.Lock], None]] = [
        _take_a_list, _keep_a_line, _keep_a_line, _ask_for_a_bundle
    ]  # fmt: skip
    people = [
        threading.Thread(target=_work, args=(shop, act, random.Random(seed + n), told, lock, over))
        for n, act in enumerate(acts)
    ]
    for person in people:
        person.start()
    rnd = random.Random(seed)
    while fire.count < kills:
        time.sleep(rnd.uniform(*pause_s))
        targets = shop.targets()
        if not targets:
            continue
        kind = rnd.choices(list(targets), [_OFTEN[kind] for kind in targets])[0]
        try:
            os.kill(rnd.choice(targets[kind]), signal.SIGKILL)
        except ProcessLookupError:
            continue
        fire.kills[kind] = fire.kills.get(kind, 0) + 1
    over.set()
    for person in people:
        person.join()
    return told, fire


_OFTEN = {"web": 1, "web process": 3, "worker": 3, "database": 2, "session of the database": 1}


def _work(
    shop: Shop,
    act: Callable[[httpx.Client, random.Random, Told, threading.Lock], None],
    rnd: random.Random,
    told: Told,
    lock: threading.Lock,
    over: threading.Event,
) -> None:
    client: httpx.Client | None = None
    while not over.is_set():
        try:
            if client is None:
                client = shop.sign_in()
            act(client, rnd, told, lock)
        except httpx.HTTPError:
            with lock:
                told.unanswered += 1
            if client is not None:
                client.close()
            client = None
        over.wait(rnd.uniform(0.2, 0.8))
    if client is not None:
        client.close()


def _sent(client: httpx.Client, address: str, values: dict[str, Any]) -> httpx.Response:
    headers = {"Referer": str(client.base_url)}
    answer = client.post(address, data=values, headers=headers, follow_redirects=False)
    if answer.status_code != 302:
        raise httpx.RequestError(f"{answer.status_code}")
    return answer


def _take_a_list(client: httpx.Client, rnd: random.Random, told: Told, lock: threading.Lock) -> None:
    name = f"fire-{len(told.tried) + 1}"
    with lock:
        told.tried.add(name)
    rows = [f"{name},{n},CREW-TAG,Name {n},{1 + n % 2}" for n in range(1, _LINES + 1)]
    text = "order,line,product,wording,quantity\n" + "\n".join(rows)
    token = _token(client.get("/orders/take/").text)
    values = {"csrfmiddlewaretoken": token, "pasted": text, "name": name, "source": "fire"}
    trial = _sent(client, "/orders/take/", values).headers["Location"]
    token = _token(client.get(trial).text)
    answer = _sent(client, f"{trial}take/", {"csrfmiddlewaretoken": token, "do": "take"})
    if "list=" in answer.headers["Location"]:
        with lock:
            told.taken.add(name)


def _keep_a_line(client: httpx.Client, rnd: random.Random, told: Told, lock: threading.Lock) -> None:
    book = client.get("/orders/", params={"stage": rnd.choice(("ready", "held")), "q": "fire"}).text
    lines = re.findall(r'id="row-(\d+)"', book)
    if not lines:
        return
    pk = int(rnd.choice(lines))
    page = client.get(f"/bench/{pk}/").text
    edition = re.search(r'name="edition" value="(\d+)"', page)
    if edition is None:
        return
    words = f"Kept {rnd.randrange(10**6)}"
    with lock:
        told.trying.setdefault(pk, []).append(words)
    values = {"csrfmiddlewaretoken": _token(page), "edition": edition[1], "wording": words}
    _sent(client, f"/bench/{pk}/keep/", values)
    if f">{words}<" in client.get(f"/bench/{pk}/").text.replace("\n", ""):
        with lock:
            told.kept[pk] = words


def _ask_for_a_bundle(client: httpx.Client, rnd: random.Random, told: Told, lock: threading.Lock) -> None:
    if told.bundles >= _MOST_BUNDLES:
        return
    book = client.get("/orders/", params={"stage": "ready"}).text
    answer = _sent(client, "/orders/bundles/ask/", {"csrfmiddlewaretoken": _token(book), "stage": "ready"})
    if answer.headers["Location"].endswith("/bundles/"):
        with lock:
            told.bundles += 1


_MOST_BUNDLES = 12


def rest_s(shop: Shop) -> float:
    """Seconds until all has come to rest by itself: nothing is to be made or packed any more.

    Raises
    ------
    AssertionError : it does not
    """
    began = time.monotonic()
    said: object = "nothing yet"
    while time.monotonic() - began < _REST_S:
        try:
            with closing(shop.sign_in()) as client:
                book = client.get("/orders/").text
                left = re.search(r'data-count="new">(\d+)<', book)
                packing = bool(
                    re.search(r'data-bundle="(?:waiting|packing)"', client.get("/orders/bundles/").text)
                )
                said = (left and left[1], packing)
                if left is not None and left[1] == "0" and not packing:
                    return time.monotonic() - began
        except httpx.HTTPError as error:
            said = error
        time.sleep(1.0)
    raise AssertionError(f"It does not come to rest: {said}")


def bundles_of(client: httpx.Client) -> list[bytes]:
    """Every bundle that is whole, as it is fetched."""
    page = client.get("/orders/bundles/").text
    return [
        client.get(f"/orders/bundles/{pk}.zip").content for pk in re.findall(r"/bundles/(\d+)\.zip", page)
    ]


def is_whole(data: bytes) -> bool:
    """Whether a zip can be read to its end; what lacks its end is none."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return archive.testzip() is None
    except zipfile.BadZipFile:
        return False
