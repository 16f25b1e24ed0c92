"""Forgetting a customer: names, words and files go; counts and weights stay."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import connection, transaction
from django.db.models import Q

from workshop.artwork.models import Logo, LogoParcel
from workshop.book.models import Bundle
from workshop.files.models import StoredFile
from workshop.intake.models import Intake, Question, SetAsideRow
from workshop.making.models import Revision
from workshop.orders.known_words import gather_words_anew
from workshop.orders.models import Event, OrderLine, OrderList
from workshop.runs.models import Run
from workshop.sources.models import Source

__all__ = ["ForgettingError", "Forgotten", "customers_like", "forget", "would_forget"]

_MOST_SHOWN = 30


class ForgettingError(Exception):
    """Nothing was forgotten; the message says why."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Forgotten:
    """What goes, or went.

    Attributes
    ----------
    lines, pieces, revisions : of the customer; they stay without words
    lists : whose file as received goes, as the customer stands in it; their lines stay
    aside, trials, bundles, logos, files : that go as a whole, files of runs among them
    """

    lines: int
    pieces: int
    revisions: int
    lists: int
    aside: int
    trials: int
    bundles: int
    logos: int
    files: int

    @property
    def said(self) -> str:
        """In words."""
        return (
            f"{self.lines} lines with {self.pieces} pieces and {self.revisions} revisions stand without "
            f"name, words and drawings; taken away were {self.lists} lists as received, {self.aside} rows "
            "set aside, "
            f"{self.trials} lists on trial, {self.bundles} packed bundles, {self.logos} logos and "
            f"{self.files} files"
        )


def customers_like(words: str) -> list[tuple[int, str, str, int]]:
    """Customers whose name holds these words: source, its name, the customer, number of lines."""
    if len(words.strip()) < 2:
        return []
    rows = OrderLine.objects.filter(customer__icontains=words.strip()).order_by("customer")
    found: dict[tuple[int, str, str], int] = {}
    for row in rows.values_list("source", "source__name", "customer")[:5000]:
        found[row] = found.get(row, 0) + 1
    return [(*key, count) for key, count in list(found.items())[:_MOST_SHOWN]]


def would_forget(source: Source, customer: str) -> Forgotten:
    """What forgetting a customer would take, without doing it."""
    with transaction.atomic():
        found = _forget(source, customer, really=False)
    return found[0]


def forget(source: Source, customer: str, *, user: User) -> Forgotten:
    """Forget a customer of a source, once and for all. What was done is on record, without the name.

    Raises
    ------
    ForgettingError : there is none of this name, or a piece of theirs is still to be made or sent
    """
    with transaction.atomic():
        # As whoever takes a list or puts a row right: one at a time, before any line is touched.
        Source.objects.select_for_update(no_key=True).get(pk=source.pk)
        found, gone = _forget(source, customer, really=True)
        Event.objects.create(who=user, what=f"Forgot a customer: {found.said}"[:300])
    # Only when it is sure that no row names them any more.
    for file in gone:
        file.forget_unless_kept()
    return found


def _forget(source: Source, customer: str, *, really: bool) -> tuple[Forgotten, list[StoredFile]]:
    lines = list(
        OrderLine.objects.select_for_update(of=("self",), no_key=True)
        .filter(source=source, customer=customer)
        .exclude(customer="")
        .order_by("pk")
    )
    if not lines:
        raise ForgettingError("There is no customer of this name.")
    waiting = [line for line in lines if line.stage != "sent"]
    if really and waiting:
        raise ForgettingError(
            f"{len(waiting)} of their lines are not sent yet, {waiting[0]} among them. A customer is "
            "forgotten when all of theirs is sent, or their lines are dropped."
        )
    pks = [line.pk for line in lines]
    revisions = Revision.objects.filter(line__in=pks)
    logos = [
        logo
        for logo in Logo.objects.filter(source=source, name__in={line.logo for line in lines if line.logo})
        if not OrderLine.objects.filter(source=source, logo=logo.name).exclude(pk__in=pks).exists()
    ]
    lists = list(OrderList.objects.filter(Q(lines__in=pks)).distinct().exclude(file=None))
    aside = [
        row
        for row in SetAsideRow.objects.filter(order_list__source=source)
        if any(customer in cell for cell in row.cells)
    ]
    # A list on trial of the same sender may name the customer again: it goes, and can be handed in anew.
    trials = list(Intake.objects.filter(source=source))
    wanted = set(pks)
    bundles = [row for row in Bundle.objects.all() if wanted.intersection(row.lines)]
    # Maps and tables of a run name whoever is in it; the run stays, its files go.
    runs = list(Run.objects.filter(placements__piece__line__in=pks).exclude(file=None).distinct())
    digests = {
        known["sha256"] for facts in revisions.values_list("facts", flat=True) for known in _files(facts)
    }
    digests |= {row.file_id for row in (*logos, *lists, *trials, *bundles, *runs) if row.file_id}
    digests |= set(revisions.exclude(logo_file=None).values_list("logo_file", flat=True))
    found = Forgotten(
        lines=len(lines), pieces=sum(line.quantity for line in lines), revisions=revisions.count(),
        lists=len(lists), aside=len(aside), trials=len(trials), bundles=len(bundles), logos=len(logos),
        files=len(digests),
    )  # fmt: skip
    if not really:
        return found, []
    _take_words(lines)
    with connection.cursor() as cursor:
        cursor.execute("SELECT kizami_forget(%s)", [pks])
    gather_words_anew()
    Question.objects.filter(line__in=pks).delete()
    OrderList.objects.filter(pk__in=[row.pk for row in lists]).update(file=None)
    # What became of parcels names their files.
    LogoParcel.objects.filter(source=source).exclude(looked_at=None).delete()
    Run.objects.filter(pk__in=[row.pk for row in runs]).update(
        file=None, contents=[], files_state=Run.Files.NONE
    )
    for row in (*aside, *trials, *bundles, *logos):
        row.delete()
    gone = _unnamed(digests)
    StoredFile.objects.filter(pk__in=[file.pk for file in gone]).delete()
    return found, gone


def _take_words(lines: Iterable[OrderLine]) -> None:
    for line in lines:
        line.customer = line.wording = line.wording_received = line.second = line.note = ""
        line.logo = line.proposal = line.open_question = line.set_name = ""
        line.changes, line.candidates = [], []
        line.choices = {key: value for key, value in line.choices.items() if key != "second"}
        line.edition += 1
    fields = ["customer", "wording", "wording_received", "second", "note", "logo", "proposal",
              "open_question", "set_name", "changes", "candidates", "choices", "edition"]  # fmt: skip
    OrderLine.objects.bulk_update(lines, fields, batch_size=500)


def _files(facts: dict[str, object]) -> Iterable[dict[str, str]]:
    known = facts.get("files")
    return known.values() if isinstance(known, dict) else ()


def _unnamed(digests: set[str]) -> list[StoredFile]:
    """Files of these that nothing names any more: equal pieces of others share theirs, and keep them."""
    if not digests:
        return []
    with connection.cursor() as cursor:
        cursor.execute(_STILL_NAMED, [list(digests)] * 2)
        named = {row[0] for row in cursor.fetchall()}
    return list(StoredFile.objects.filter(pk__in=digests - named))


_STILL_NAMED = """
    SELECT known.value ->> 'sha256'
    FROM making_revision, jsonb_each(facts -> 'files') AS known
    WHERE known.value ->> 'sha256' = ANY (%s)
    UNION SELECT file.sha256 FROM files_storedfile AS file WHERE file.sha256 = ANY (%s) AND (
        EXISTS (SELECT FROM artwork_logo WHERE file_id = file.sha256)
        OR EXISTS (SELECT FROM orders_orderlist WHERE file_id = file.sha256)
        OR EXISTS (SELECT FROM intake_intake WHERE file_id = file.sha256)
        OR EXISTS (SELECT FROM artwork_logoparcel WHERE file_id = file.sha256)
        OR EXISTS (SELECT FROM book_bundle WHERE file_id = file.sha256)
        OR EXISTS (SELECT FROM runs_run WHERE file_id = file.sha256)
        OR EXISTS (SELECT FROM making_revision WHERE logo_file_id = file.sha256)
        OR EXISTS (SELECT FROM catalogue_shoptypeface WHERE file_id = file.sha256)
        OR EXISTS (SELECT FROM catalogue_suppliedfile WHERE file_id = file.sha256)
    )
"""
