"""`./start`: everything up with one command, everything down with Ctrl-C."""

from __future__ import annotations

import argparse
import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from launch.cluster import Cluster
from launch.errors import LaunchError
from launch.programs import feed_command, web_command, worker_command
from launch.service import ServiceUser, as_user, service_user
from launch.state import PEOPLE, REPOSITORY, Role, State, open_state
from launch.supervise import Supervisor


def main() -> int:
    """Start, announce, wait, stop."""
    parser = argparse.ArgumentParser(prog="./start", description="Start Kizami on this machine.")
    parser.add_argument("--empty", action="store_true", help="without the demo shop's products and orders")
    parser.add_argument(
        "--products", type=Path, help="take in a products file (TOML); changed ones get a new version"
    )
    parser.add_argument("--port", type=int, default=8000, help="loopback port of the web server")
    parser.add_argument("--feed-port", type=int, default=8070, help="loopback port of the demo's shop feed")
    parser.add_argument("--workers", type=int, default=max(1, min(4, os.cpu_count() or 1)))
    args = parser.parse_args()
    # A stop in the middle of starting unwinds like any other: whatever runs by then is ended.
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _stop)
    try:
        return _run(args)
    except LaunchError as error:
        print(f"Kizami can't start: {error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("Stopped before it was up.", file=sys.stderr)
        return 130


def _stop(number: int, frame: object) -> None:
    raise KeyboardInterrupt


def _run(args: argparse.Namespace) -> int:
    _check_port(args.port)
    if not args.empty:
        _check_port(args.feed_port, option="--feed-port")
    state = open_state()
    user = service_user()
    if user is not None:
        user.takes(state)
        user.check_reach(state)
    cluster = Cluster.of(state)
    started = cluster.start()
    try:
        environment = {
            **os.environ,
            **cluster.environment(),
            "KIZAMI_STATE_DIR": str(state.folder),
            # The programs can't read the secrets themselves: they get the one that they need.
            "KIZAMI_SECRET_KEY": os.environ.get("KIZAMI_SECRET_KEY") or state.secret_key,
            "PYTHONPATH": str(REPOSITORY / "src"),
            "DJANGO_SETTINGS_MODULE": "workshop.settings",
            "HOME": "/",
        }
        products = ["--products", str(args.products.resolve())] if args.products else []
        demo = ["--empty"] if args.empty else ["--feed", f"http://127.0.0.1:{args.feed_port}"]
        owner = {**environment, **cluster.environment(Role.OWNER), "KIZAMI_PEOPLE": json.dumps(state.people)}
        _manage(owner, "open_shop", *demo, *products, user=user)
        supervisor = Supervisor(logs=state.logs, environment=environment, user=user)
        try:
            # The web first and alone: five programs that start at once make each other wait.
            _start_web(supervisor, args)
            _wait_for_web(supervisor, args.port)
            _start_workers(supervisor, args)
            _announce(args, state)
            supervisor.watch(revive=_Revival(cluster))
            print("\nStopping …", flush=True)
        finally:
            supervisor.stop()
    finally:
        if started:
            cluster.stop()
    print("Kizami is stopped.", flush=True)
    return 0


def _start_web(supervisor: Supervisor, args: argparse.Namespace) -> None:
    supervisor.add("web", web_command(args.port))


def _start_workers(supervisor: Supervisor, args: argparse.Namespace) -> None:
    if not args.empty:
        supervisor.add("feed", feed_command(args.feed_port))
    for number in range(1, args.workers + 1):
        supervisor.add(f"worker-{number}", worker_command())


def _check_port(port: int, *, option: str = "--port") -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except PermissionError:
            raise LaunchError(
                f"port {port} needs special rights; choose one above 1023 with {option}."
            ) from None
        except OSError:
            raise LaunchError(
                f"port {port} is busy; stop what uses it or choose another with ./start {option} {port + 1}."
            ) from None


def _manage(environment: dict[str, str], *arguments: str, user: ServiceUser | None) -> None:
    result = subprocess.run(
        [sys.executable, "-m", "django", *arguments],
        env=environment,
        check=False,
        capture_output=True,
        text=True,
        umask=0o077,
        **as_user(user),
    )
    if result.returncode != 0:
        said = result.stderr.strip().removeprefix("CommandError: ")
        raise LaunchError(said[-600:] if said.count("\n") == 0 else f"“{arguments[0]}” failed: {said[-600:]}")


def _wait_for_web(supervisor: Supervisor, port: int) -> None:
    """Wait as long as the web server is alive and on its way: a loaded machine takes its time."""
    began = time.monotonic()
    told = began + _TELL_AFTER_S
    while supervisor.ended("web") is None and time.monotonic() - began < _LONGEST_START_S:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/alive/", timeout=2) as answer:
                if answer.status == 200:
                    return
        except OSError:
            time.sleep(0.15)
        if time.monotonic() >= told:
            told = time.monotonic() + _TELL_AFTER_S
            print(
                f"Still waiting for the web server, {told - began - _TELL_AFTER_S:.0f} s by now; "
                f"the machine's load is {os.getloadavg()[0]:.1f} on {os.cpu_count()} processors. "
                "Ctrl-C stops.",
                file=sys.stderr, flush=True,
            )  # fmt: skip
    raise LaunchError("the web server did not come up; see logs/web.log in the state folder.")


_TELL_AFTER_S = 15.0
_LONGEST_START_S = 600.0


class _Revival:
    """Brings the database back when it is gone, in a steady backoff."""

    def __init__(self, cluster: Cluster) -> None:
        self._cluster = cluster
        self._look_at = 0.0
        self._pause_s = 1.0

    def __call__(self) -> bool:
        if time.monotonic() < self._look_at or self._cluster.runs():
            return False
        print("The database is gone; starting it again.", file=sys.stderr, flush=True)
        try:
            self._cluster.start()
        except LaunchError as error:
            print(f"{error} Trying again in {self._pause_s:.0f} s.", file=sys.stderr, flush=True)
            self._look_at = time.monotonic() + self._pause_s
            self._pause_s = min(2 * self._pause_s, 60.0)
            return False
        self._pause_s = 1.0
        return True


def _announce(args: argparse.Namespace, state: State) -> None:
    print(f"\nKizami is open at http://127.0.0.1:{args.port}/\n")
    names = PEOPLE[:1] if args.empty else PEOPLE
    print("Sign in with the first password, unless it was changed since:")
    for name in names:
        print(f"    {name:<12}{state.people[name]}")
    print(f"({names[0]} owns the shop and may do everything; others may do what their place needs)")
    print(f"Files and logs: {state.folder}    Stop with Ctrl-C.", flush=True)


if __name__ == "__main__":
    sys.exit(main())
