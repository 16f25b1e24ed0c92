"""Prints figures as JSON lines; exits with 1 when a target is missed."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Iterator

from benchmarks import (
    catalogue,
    craft,
    faults,
    in_hand,
    lettering,
    many_runs,
    orders,
    remedies,
    runs,
    slice_core,
    slice_web,
    surfaces,
    web,
)
from benchmarks.figure import Figure

GROUPS: dict[str, tuple[Callable[[], Iterator[Figure]], ...]] = {
    "catalogue": (catalogue.figures,),
    "craft": (craft.figures,),
    "faults": (faults.figures,),
    "lettering": (lettering.figures,),
    "many runs": (many_runs.figures,),
    "orders": (orders.figures,),
    "remedies": (remedies.figures, in_hand.figures),
    "runs": (runs.figures,),
    "slice": (slice_core.figures, slice_web.figures),
    "surfaces": (surfaces.figures,),
    "web": (web.figures,),
}


def main() -> int:
    """Run one group or all."""
    parser = argparse.ArgumentParser(prog="./bench")
    parser.add_argument("--group", choices=sorted(GROUPS))
    args = parser.parse_args()
    missed = 0
    for group in [args.group] if args.group else GROUPS:
        for figures in GROUPS[group]:
            for figure in figures():
                print(figure.line(), flush=True)
                missed += not figure.ok
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main())
