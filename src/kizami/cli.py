"""The command line: `kizami make`."""

from __future__ import annotations

import argparse
import os
import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import TextIO

import kizami
from kizami.batch import make_list
from kizami.errors import KizamiError
from kizami.products import read_catalogue
from kizami.wording.order_list import LARGEST_LIST_BYTES

__all__ = ["main"]

EXIT_READY, EXIT_UNUSABLE, EXIT_HELD = 0, 2, 3


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command.

    Returns
    -------
    0 when all pieces are ready, 3 when some are held or set aside, 2 when the input can't be used
    """
    parser = argparse.ArgumentParser(prog="kizami", description="From order lists to checked pieces.")
    parser.add_argument("--version", action="version", version=f"kizami {kizami.__version__}")
    commands = parser.add_subparsers(dest="command", required=True)
    make = commands.add_parser("make", help="make every piece of an order list")
    make.add_argument("orders", type=Path, help="order list, CSV in UTF-8")
    make.add_argument("--products", type=Path, required=True, help="products file, TOML")
    make.add_argument("--out", type=Path, required=True, help="folder for pieces and reports")
    make.add_argument("--jobs", type=int, default=os.cpu_count() or 1, help="pieces made at once")
    args = parser.parse_args(argv)
    try:
        return _make(args)
    except (KizamiError, OSError) as error:
        print(f"kizami: {error}", file=sys.stderr)
        return EXIT_UNUSABLE


def _make(args: argparse.Namespace) -> int:
    catalogue = read_catalogue(args.products.read_text("utf-8"))
    # One byte more than can be used is enough to know that the list is too large.
    with args.orders.open("rb") as file:
        data = file.read(LARGEST_LIST_BYTES + 1)
    line = _ProgressLine(sys.stderr)
    summary = make_list(data, catalogue, args.out, jobs=args.jobs, progress=line.show)
    line.finish()
    print(
        f"{summary.ready} ready, {summary.held} held, {summary.set_aside} rows set aside; "
        f"see {args.out / 'report.csv'}"
    )
    return EXIT_HELD if summary.held or summary.set_aside else EXIT_READY


class _ProgressLine:
    """One line that rewrites itself on a terminal, and nothing elsewhere."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream
        self._shown = stream.isatty()
        self._start = time.monotonic()

    def show(self, done: int, total: int, held: int) -> None:
        if not self._shown:
            return
        spent = time.monotonic() - self._start
        left = f", {spent / done * (total - done):.0f} s left" if done else ""
        self._stream.write(f"\r\x1b[K{done} of {total} pieces, {held} held{left}")
        self._stream.flush()

    def finish(self) -> None:
        if self._shown:
            self._stream.write("\n")


if __name__ == "__main__":
    sys.exit(main())
