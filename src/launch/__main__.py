"""`./start`: everything up with one command, everything down with Ctrl-C."""

from __future__ import annotations

import argparse
import os
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from launch.cluster import Cluster
from launch.errors import LaunchError
from launch.state import REPOSITORY, State, open_state
from launch.supervise import Supervisor

DEMO_PEOPLE = ("maren", "desk", "bench", "production")


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
    try:
        return _run(args)
    except LaunchError as error:
        print(f"Kizami can't start: {error}", file=sys.stderr)
        return 1


def _run(args: argparse.Namespace) -> int:
    _check_port(args.port)
    if not args.empty:
        _check_port(args.feed_port, option="--feed-port")
    state = open_state()
    cluster = Cluster.of(state)
    started = cluster.start()
    try:
        environment = {**os.environ, **cluster.environment(), "KIZAMI_STATE_DIR": str(state.folder)}
        environment["PYTHONPATH"] = str(REPOSITORY / "src")
        environment["DJANGO_SETTINGS_MODULE"] = "workshop.settings"
        products = ["--products", str(args.products.resolve())] if args.products else []
        demo = ["--empty"] if args.empty else ["--feed", f"http://127.0.0.1:{args.feed_port}"]
        _manage(environment, "open_shop", *demo, *products)
        supervisor = Supervisor(logs=state.logs, environment=environment)
        try:
            # The web first and alone: five programs that start at once make each other wait.
            _start_web(supervisor, args)
            _wait_for_web(args.port)
            _start_workers(supervisor, args)
            _announce(args, state)
            supervisor.watch()
            print("\nStopping …", flush=True)
        finally:
            supervisor.stop()
    finally:
        if started:
            cluster.stop()
    print("Kizami is stopped.", flush=True)
    return 0


def _start_web(supervisor: Supervisor, args: argparse.Namespace) -> None:
    supervisor.add(
        "web",
        [
            sys.executable, "-m", "gunicorn", "workshop.wsgi:application",
            "--bind", f"127.0.0.1:{args.port}", "--workers", "2", "--threads", "4", "--timeout", "60",
            "--access-logfile", "-",
        ],
    )  # fmt: skip


def _start_workers(supervisor: Supervisor, args: argparse.Namespace) -> None:
    if not args.empty:
        supervisor.add("feed", [sys.executable, "-m", "shopfeed.server", "--port", str(args.feed_port)])
    for number in range(1, args.workers + 1):
        supervisor.add(
            f"worker-{number}",
            [sys.executable, "-m", "django", "procrastinate", "worker", "--concurrency", "1"],
        )


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


def _manage(environment: dict[str, str], *arguments: str) -> None:
    result = subprocess.run(
        [sys.executable, "-m", "django", *arguments],
        env=environment,
        check=False,
        capture_output=True,
        text=True,
    )
    if result.returncode != 0:
        said = result.stderr.strip().removeprefix("CommandError: ")
        raise LaunchError(said[-600:] if said.count("\n") == 0 else f"“{arguments[0]}” failed: {said[-600:]}")


def _wait_for_web(port: int) -> None:
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/alive/", timeout=2) as answer:
                if answer.status == 200:
                    return
        except OSError:
            time.sleep(0.15)
    raise LaunchError("the web server did not answer within 30 s; see .state/logs/web.log.")


def _announce(args: argparse.Namespace, state: State) -> None:
    print(f"\nKizami is open at http://127.0.0.1:{args.port}/\n")
    print(
        "Sign in as " + ", ".join(DEMO_PEOPLE[:-1]) + f" or {DEMO_PEOPLE[-1]} with the password "
        f"{state.demo_password}"
    )
    print("(maren owns the shop and may do everything; the others may do what their place needs)")
    print(f"Files and logs: {state.folder}    Stop with Ctrl-C.", flush=True)


if __name__ == "__main__":
    sys.exit(main())
