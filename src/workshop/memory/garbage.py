"""How often a process looks for garbage that does not go by itself."""

from __future__ import annotations

import atexit
import gc

__all__ = ["look_seldom"]


def look_seldom() -> None:
    """Pages and lists are made of many small things that go by themselves: looked for seldom from here on.

    What is there by now stays for ever, and is not looked through again; several processes can share it.
    """
    gc.collect()
    gc.freeze()
    # When all is over everything goes again: libraries complain of what they were not given back.
    atexit.register(gc.unfreeze)
    gc.set_threshold(20_000, 20, 20)
