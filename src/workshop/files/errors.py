"""What can go wrong with the shop's own store of files."""

from __future__ import annotations

__all__ = ["LostFileError"]


class LostFileError(Exception):
    """A file that the shop kept is not in the store any more, or is damaged.

    Attributes
    ----------
    sha256 : its name
    damaged : whether something lies in its place
    """

    def __init__(self, sha256: str, *, kind: str, damaged: bool = False) -> None:
        what = "is damaged in the store of files" if damaged else "is missing from the store of files"
        super().__init__(f"The {kind} {sha256[:12]} {what}. Put it back from a backup.")
        self.sha256 = sha256
        self.damaged = damaged
