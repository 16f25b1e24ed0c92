"""A forecast for a product before it is sold: of many real names, how many fit with no hand work.

Names are set, fitted and given the flat checks; solids are not built, so that a thousand take seconds.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass
from functools import cache, partial
from importlib.resources import files
from multiprocessing import get_context

from kizami.checks.finding import Level
from kizami.checks.kinds import kind_of
from kizami.lettering.typeface import Typeface
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.letters_held import NeverHeld, never_held
from kizami.pieces.lines import inputs_of
from kizami.products.product import Product
from kizami.sizes import SizeSystem
from kizami.wording.settling import settle

__all__ = [
    "MOST_NAMES",
    "Forecast",
    "Misfit",
    "forecast",
    "misfit_of",
    "shipped_names",
    "tried",
    "usual_size",
]

MOST_NAMES = 10_000
#: Names that one process tries before it tells how far it is.
_PORTION = 25


@dataclass(frozen=True, kw_only=True, slots=True)
class Misfit:
    """A name that needs a person.

    Attributes
    ----------
    name : as tried
    code, message : of the worst finding
    height_mm : the height that it came to
    """

    name: str
    code: str
    message: str
    height_mm: float

    @property
    def title(self) -> str:
        """Of the check that fails."""
        return kind_of(self.code).title


@dataclass(frozen=True, kw_only=True, slots=True)
class Forecast:
    """What became of the names, and the common letters that the product can never hold."""

    count: int
    misfits: tuple[Misfit, ...]
    never: tuple[NeverHeld, ...] = ()

    @property
    def share(self) -> float:
        """Share that fits without hand work, from 0 to 1."""
        return 1.0 - len(self.misfits) / self.count if self.count else 1.0

    @property
    def reasons(self) -> list[tuple[str, int]]:
        """How many misfits there are by the code of their worst finding, most first."""
        return Counter(m.code for m in self.misfits).most_common()


@cache
def shipped_names() -> tuple[str, ...]:
    """A thousand real names of eight locales, from an open dataset (see the licence beside it)."""
    return tuple((files("kizami") / "data" / "forecast-names.txt").read_text("utf-8").splitlines())


def usual_size(product: Product) -> str:
    """A size in the middle of what is worn, for products that have sizes."""
    usual = {
        SizeSystem.ISO: "54", SizeSystem.US: "7", SizeSystem.UK: "O", SizeSystem.JP: "13",
    }  # fmt: skip
    return "" if product.size_system is None else usual.get(product.size_system, "17.2 mm")


def forecast(
    product: Product,
    names: Sequence[str],
    *,
    size: str = "",
    typeface: Typeface | None = None,
    cured: Callable[[Inputs], bool] | None = None,
    jobs: int = 1,
    progress: Callable[[int, int, int], None] | None = None,
) -> Forecast:
    """Try names on a product.

    Parameters
    ----------
    size : ring size; empty takes a usual one
    typeface : one that the shop added, which is tried in this process only
    cured : whether what the product does by itself cures a name that does not fit as it is; asked only where
        the product does any such thing
    jobs : processes
    progress : told how many are done, of how many, and how many did not fit

    Raises
    ------
    SizeError : the size is none
    """
    size = size or usual_size(product)
    product.read_size(size)
    portions = [tuple(names[i : i + _PORTION]) for i in range(0, len(names), _PORTION)]
    with ExitStack() as stack:
        run: Callable[..., Iterator[list[Misfit]]] = map
        if jobs > 1 and len(portions) > 1 and typeface is None:
            run = stack.enter_context(ProcessPoolExecutor(jobs, mp_context=get_context("spawn"))).map
        misfits: list[Misfit] = []
        done = 0
        results = run(partial(_misfits, product, size, typeface, cured), portions)
        for portion, found in zip(portions, results, strict=True):
            done += len(portion)
            misfits.extend(found)
            if progress is not None:
                progress(done, len(names), len(misfits))
    never = never_held(product, size=size, typeface=typeface)
    return Forecast(count=len(names), misfits=tuple(misfits), never=never)


def tried(
    product: Product, name: str, *, second: str = "", size: str = "", typeface: Typeface | None = None
) -> LaidOut:
    """One name on a product, in a usual size unless another is given."""
    read = product.read_size(size or usual_size(product))
    settled = settle(name, product.wording)
    return lay_out(
        inputs_of(product, settled, second=second, logo="", logos=None, size=read, typeface=typeface)
    )


def _misfits(
    product: Product,
    size: str,
    typeface: Typeface | None,
    cured: Callable[[Inputs], bool] | None,
    names: tuple[str, ...],
) -> list[Misfit]:
    tried_each = (misfit_of(product, name, size=size, typeface=typeface, cured=cured) for name in names)
    return [misfit for misfit in tried_each if misfit is not None]


def misfit_of(
    product: Product,
    name: str,
    *,
    size: str = "",
    typeface: Typeface | None = None,
    cured: Callable[[Inputs], bool] | None = None,
) -> Misfit | None:
    """What is wrong with a name on a product, or None where it fits with no hand work."""
    laid_out = tried(product, name, size=size, typeface=typeface)
    failing = [f for f in laid_out.findings if f.level is Level.FAILS]
    if not failing or (cured is not None and product.plan.remedies and cured(laid_out.inputs)):
        return None
    worst = failing[0]
    return Misfit(name=name, code=worst.code, message=worst.message, height_mm=laid_out.layout.height_mm)
