"""Make random pieces over all blanks, treatments, typefaces and settings, and tell what is wrong with any.

PYTHONPATH=src:. .venv/bin/python scripts/fuzz-pieces.py 10000 [FIRST-SEED]
"""

from __future__ import annotations

import sys
import traceback
from collections import Counter
from concurrent.futures import ProcessPoolExecutor

from tests.kizami.fuzzing import complaint, random_inputs


def one(seed: int) -> tuple[int, str]:
    """A seed and what is wrong with its piece; “refused” where its product is none."""
    try:
        inputs = random_inputs(seed)
        return seed, "refused" if inputs is None else complaint(inputs)
    except Exception:  # noqa: BLE001 - an error that escapes is what is looked for
        return seed, "escaped: " + traceback.format_exc(limit=-3)


if __name__ == "__main__":
    count, first = int(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 0
    said: Counter[str] = Counter()
    with ProcessPoolExecutor() as pool:
        for seed, wrong in pool.map(one, range(first, first + count), chunksize=20):
            said["refused" if wrong == "refused" else "wrong" if wrong else "made"] += 1
            if wrong and wrong != "refused":
                print(seed, wrong, flush=True)
            if said.total() % 250 == 0:
                print(said.total(), dict(said), file=sys.stderr, flush=True)
    print(dict(said))
