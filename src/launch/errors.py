"""What can stop a start, each said in one sentence with the way out."""

from __future__ import annotations

__all__ = ["LaunchError"]


class LaunchError(Exception):
    """The start can't go on; the text says why and what to do."""
