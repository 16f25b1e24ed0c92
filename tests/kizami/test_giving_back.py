"""Memory that was let go of goes back to the machine."""

from __future__ import annotations

import subprocess
import sys

import pytest

from kizami import giving_back

#: Every other one of many small arrays is let go of: what is free lies between what is held.
_SCRIPT = """
import numpy as np
from kizami.giving_back import give_back

def resident_mb():
    with open("/proc/self/statm") as file:
        return int(file.read().split()[1]) * 4096 / 1e6

held = [np.ones(8000) for _ in range(3000)]
held = held[::2]
before = resident_mb()
gave = give_back()
print(gave, before - resident_mb(), sum(float(one[-1]) for one in held))
"""


@pytest.mark.skipif(not sys.platform.startswith("linux"), reason="elsewhere nothing is given back")
def test_what_lies_free_between_what_is_held_is_given_back() -> None:
    done = subprocess.run([sys.executable, "-c", _SCRIPT], capture_output=True, text=True, check=True)
    gave, less_mb, total = done.stdout.split()
    # Half of 192 MB is free; what is held is as it was.
    assert gave == "True" and float(less_mb) > 60.0 and float(total) == 1500.0


def test_a_c_library_that_can_not_is_no_error(monkeypatch: pytest.MonkeyPatch) -> None:
    class Bare:
        """A library without the function."""

    giving_back._trim.cache_clear()
    monkeypatch.setattr(giving_back.ctypes, "CDLL", lambda _: Bare())
    try:
        assert giving_back.give_back() is False
    finally:
        giving_back._trim.cache_clear()
