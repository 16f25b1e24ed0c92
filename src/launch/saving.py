"""`./kizami backup` and `./kizami restore`: with the database up, whether the shop is open or not."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
from pathlib import Path

from launch.cluster import Cluster
from launch.errors import LaunchError
from launch.service import service_user
from launch.state import REPOSITORY, Role, open_state

__all__ = ["main"]


def main() -> int:
    """Save the shop to a file, or put it back from one."""
    parser = argparse.ArgumentParser(prog="./kizami", description="Save the whole shop, or put it back.")
    acts = parser.add_subparsers(dest="act", required=True)
    backup = acts.add_parser("backup", help="database and files into one archive")
    backup.add_argument("file", type=Path)
    restore = acts.add_parser("restore", help="database and files from an archive")
    restore.add_argument("file", type=Path)
    restore.add_argument("--yes", action="store_true", help="replace what the shop holds without asking")
    args = parser.parse_args()
    try:
        return _run(args)
    except LaunchError as error:
        print(f"Kizami: {error}", file=sys.stderr)
        return 1


def _run(args: argparse.Namespace) -> int:
    state = open_state()
    cluster = Cluster.of(state)
    started = cluster.start()
    try:
        environment = {
            **os.environ,
            **cluster.environment(Role.CLUSTER),
            "KIZAMI_STATE_DIR": str(state.folder),
            "KIZAMI_SECRET_KEY": state.secret_key,
            "KIZAMI_PG_BINARIES": str(cluster.binaries()),
            "PYTHONPATH": str(REPOSITORY / "src"),
            "DJANGO_SETTINGS_MODULE": "workshop.settings",
        }
        more = ["--yes"] if args.act == "restore" and args.yes else []
        command = [sys.executable, "-m", "django", f"{args.act}_shop", str(args.file.resolve()), *more]
        code = subprocess.run(command, env=environment, check=False).returncode
        user = service_user()
        if user is not None and args.act == "restore":
            user.takes(state, again=True)
        return code
    finally:
        if started:
            cluster.stop()


if __name__ == "__main__":
    sys.exit(main())
