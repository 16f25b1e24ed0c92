"""Logos: taken in beside a list or after it, matched to lines by file name, missing ones listed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F, Q
from django.utils import timezone

from kizami.artwork.shelf import fold_file_name
from kizami.counting import so_many
from kizami.errors import ArtworkError
from workshop.artwork.models import Logo
from workshop.cage.readers import look_at_logo, look_at_logos
from workshop.cage.readers import unpack as caged_unpack
from workshop.files.models import Kind, StoredFile
from workshop.making.many import make_again
from workshop.orders.models import Event, OrderLine
from workshop.sources.models import Source

__all__ = [
    "Missing",
    "Taken",
    "missing_logos",
    "missing_of",
    "set_in_use",
    "set_threshold",
    "take_logos",
    "unpack",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Taken:
    """What became of logo files.

    Attributes
    ----------
    kept : names of the files that are on the shelf now
    refused : name -> why not
    lines : how many lines on paper they are made again for
    """

    kept: tuple[str, ...]
    refused: Mapping[str, str]
    lines: int

    @property
    def said(self) -> str:
        """In words."""
        said = f"{so_many(len(self.kept), 'logo')} taken in"
        if self.lines:
            said += f", {so_many(self.lines, 'line is', 'lines are')} made with them"
        for name, why in list(self.refused.items())[:5]:
            said += f". {name} {why}" if not why.startswith("“") else f". {why.rstrip('.')}"
        if len(self.refused) > 5:
            said += f". {so_many(len(self.refused) - 5, 'more was', 'more were')} refused"
        return said + "."


def unpack(files: Iterable[tuple[str, bytes]]) -> tuple[dict[str, bytes], dict[str, str]]:
    """Files and zips of files as single files, with those that were refused and why."""
    kept: dict[str, bytes] = {}
    refused: dict[str, str] = {}
    for name, data in files:
        try:
            parcel = caged_unpack(data, name=name)
        except ArtworkError as error:
            refused[name] = str(error)
            continue
        kept.update(parcel.files)
        refused.update(parcel.refused)
    return kept, refused


def take_logos(source: Source, files: Iterable[tuple[str, bytes]], *, user: User) -> Taken:
    """Put files on the shelf of a source. One that can't be used is refused, the others go on.

    A file of a known name takes its place; lines on paper that name it are made again.
    """
    unpacked, refused = unpack(files)
    found, unfit = look_at_logos(unpacked)
    refused |= unfit
    good = {fold_file_name(name): (name, unpacked[name], seen) for name, seen in found.items()}
    with transaction.atomic():
        for folded, (name, data, seen) in good.items():
            Logo.objects.update_or_create(
                source=source,
                folded=folded[:200],
                defaults={
                    "name": name[:200],
                    "file": StoredFile.objects.keep(data, Kind.LOGO),
                    "threshold": None,
                    "retired_at": None,
                    "retired_by": None,
                    "notes": list(seen.notes),
                    "facts": seen.facts,
                    "received_by": user,
                },
            )
        lines = _made_with(source, set(good))
        if good:
            Event.objects.create(
                who=user, what=f"Took in {so_many(len(good), 'logo')} of {source.name}"[:300]
            )
    return Taken(kept=tuple(name for name, _, _ in good.values()), refused=refused, lines=lines)


def _made_with(source: Source, folded: set[str]) -> int:
    """Let lines of these logos be made again; returns how many they are."""
    named = (
        OrderLine.objects.select_for_update(no_key=True).filter(source=source).exclude(logo="").order_by("pk")
    )
    waiting = [line.pk for line in named if fold_file_name(line.logo) in folded and line.changeable]
    OrderLine.objects.filter(pk__in=waiting).update(attempts=0, badness=0.0)
    make_again(waiting)
    return len(waiting)


def set_threshold(logo: Logo, threshold: float | None, *, user: User) -> None:
    """Part ink from paper at another grey, and make the lines of the logo again.

    Raises
    ------
    kizami.errors.ArtworkError : nothing is left at that grey; the logo stays as it was
    """
    seen = look_at_logo(logo.file.read(), name=logo.name, threshold=threshold)
    with transaction.atomic():
        logo.threshold, logo.received_by = threshold, user
        logo.notes, logo.facts = list(seen.notes), seen.facts
        logo.save(update_fields=["threshold", "notes", "facts", "received_by", "received_at"])
        _made_with(logo.source, {logo.folded})


def set_in_use(logo: Logo, is_in_use: bool, *, user: User) -> int:
    """Take a logo out of use, or into use again; returns how many lines are made again for it.

    Lines that have it keep it. Lines that come later and name it are held until it is in use again.
    """
    with transaction.atomic():
        logo.retired_at, logo.retired_by = (None, None) if is_in_use else (timezone.now(), user)
        logo.save(update_fields=["retired_at", "retired_by"])
        what = "into use again" if is_in_use else "out of use"
        Event.objects.create(who=user, what=f"Took the logo {logo.name} of {logo.source.name} {what}"[:300])
        return _made_with(logo.source, {logo.folded}) if is_in_use else 0


@dataclass(frozen=True, kw_only=True, slots=True)
class Missing:
    """A logo that is named and not to be had.

    Attributes
    ----------
    lines : how many name it
    is_out_of_use : it is there, and no line may have it any more
    """

    name: str
    lines: int
    is_out_of_use: bool = False


def missing_logos(source: Source, names: Iterable[str]) -> tuple[Missing, ...]:
    """Logos that are named and not to be had on the source's shelf, most wanted first."""
    counts = Counter(name for name in names if name)
    rows = Logo.objects.filter(source=source).values_list("folded", "retired_at") if counts else ()
    here = {folded: retired_at is None for folded, retired_at in rows}
    return tuple(
        Missing(name=name, lines=lines, is_out_of_use=fold_file_name(name) in here)
        for name, lines in counts.most_common()
        if not here.get(fold_file_name(name), False)
    )


def missing_of(source: Source) -> tuple[Missing, ...]:
    """Logos that lines on paper wait for; those that were made with one wait for none."""
    named = OrderLine.objects.filter(source=source, under_way__lt=F("quantity")).exclude(logo="")
    waiting = named.filter(Q(revision=None) | Q(revision__logo_file=None))
    return missing_logos(source, waiting.values_list("logo", flat=True))
