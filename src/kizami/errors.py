"""Every error that the core raises. Broken input raises; a piece that can't be made does not.

The text of an error is a sentence for the person at the desk: what was wrong and what to do.
"""

from __future__ import annotations

from collections.abc import Sequence

__all__ = [
    "AdjustmentError",
    "ArtworkError",
    "CatalogueError",
    "KizamiError",
    "OrderListError",
    "RowError",
    "RunError",
    "SizeError",
    "SolidError",
    "StoppedError",
    "SurfaceError",
    "TypefaceError",
]


class KizamiError(Exception):
    """Base of all errors of the core."""


class OrderListError(KizamiError):
    """A whole order list can't be used: empty, no header, not text, too large."""


class RowError(KizamiError):
    """One row can't be read. It is set aside with this reason; the others go on.

    Attributes
    ----------
    columns : the columns at fault, none when it is the row as a whole
    column : the first of them, or ""
    """

    def __init__(self, message: str, *, column: str = "", columns: Sequence[str] = ()) -> None:
        super().__init__(message)
        self.columns = tuple(columns) or ((column,) if column else ())

    @property
    def column(self) -> str:
        """The first column at fault, or ""."""
        return self.columns[0] if self.columns else ""

    @classmethod
    def together(cls, faults: Sequence[RowError]) -> RowError:
        """Several faults of one row as one, so that all are put right at once."""
        said = " ".join(dict.fromkeys(str(fault) for fault in faults))
        return cls(said, columns=tuple(dict.fromkeys(c for fault in faults for c in fault.columns)))


class SizeError(RowError):
    """A ring size that is not a size."""


class CatalogueError(KizamiError):
    """A products file that can't be used, with the product and the key at fault."""


class TypefaceError(KizamiError):
    """A typeface file that can't be read or drawn."""


class ArtworkError(KizamiError):
    """A logo that can't be used: broken, unsafe, empty, or a photo."""


class OutlineError(KizamiError):
    """A drawn outline that can't be used; says what is wrong with it and where.

    Attributes
    ----------
    at : (x, y) of the place, y up, or None; the message has it in the drawing's own numbers
    lines : what was read of the drawing, each [(x, y), …], y up, to be shown with the place; may be empty
    """

    def __init__(self, message: str, *, at: tuple[float, float] | None = None) -> None:
        super().__init__(message)
        self.at = at
        self.lines: list[list[tuple[float, float]]] = []


class RunError(KizamiError):
    """A station, a run or a file of it that can't be used; says what to do."""


class AdjustmentError(KizamiError):
    """A value that the bench may not set; says which are allowed."""


class SolidError(KizamiError):
    """A solid that could not be built, with what to do. The pipeline turns it into a finding."""

    def __init__(
        self, message: str, *, hint: str = "Make the lettering less deep or the wall thicker."
    ) -> None:
        super().__init__(message)
        self.hint = hint


class SurfaceError(KizamiError):
    """An area can't be laid out; the text says what is wrong with it."""


class StoppedError(KizamiError):
    """Work on a list ended before its time; says what was kept."""
