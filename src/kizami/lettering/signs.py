"""Signs that are read by standing apart: stops, commas, colons, apostrophes.

They are small, so what holds a name together swallows them first: drawn into its neighbour, or standing in a
bar that is as high as itself, a stop is none. They go with the letter that they stand beside, as its dots do.
"""

from __future__ import annotations

from collections.abc import Sequence

__all__ = ["hosts_of", "is_sign"]

#: Stops, marks of a pause, and apostrophes with the quotation marks that stand for them (Unicode's charts;
#: from memory). A hyphen is a stroke, and joins what it stands between.
_SIGNS = frozenset(".,:;…·'’‘ʼ\"“”„‚")


def is_sign(letters: str) -> bool:
    """Whether what is drawn together is nothing but such signs.

    >>> [is_sign(letters) for letters in (".", "’", "...", "-", "i", "&", "")]
    [True, True, True, False, False, False, False]
    """
    return bool(letters) and _SIGNS.issuperset(letters)


def hosts_of(letters: Sequence[str]) -> list[int]:
    """For each thing that is drawn in a word, in the order in which they stand, the place of the one that it
    goes with: a sign with the letter before it, any other with itself.

    A sign that no letter stands before goes with itself.

    >>> hosts_of(["J", ".", "R", ".", "."]), hosts_of(["“", "A"]), hosts_of([])
    ([0, 0, 2, 2, 2], [0, 1], [])
    """
    hosts: list[int] = []
    for place, one in enumerate(letters):
        before = hosts[-1] if hosts else place
        hosts.append(before if is_sign(one) and not is_sign(letters[before]) else place)
    return hosts
