"""Stored files: the rows say what there is, the content lies in Django's storage."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping

from django.core.files.base import ContentFile, File
from django.core.files.storage import default_storage
from django.db import models
from django.db.models import Q

from workshop.files.errors import LostFileError

__all__ = ["Kind", "StoredFile"]


class Kind(models.TextChoices):
    """What a file came as."""

    LIST = "list", "order list"
    LOGO = "logo", "logo"
    TYPEFACE = "typeface", "typeface"
    SHAPE = "shape", "shape"
    MADE = "made", "made piece"
    BUNDLE = "bundle", "bundle"
    RUN = "run", "run"


class FileQuerySet(models.QuerySet["StoredFile"]):
    """Keeping files."""

    def keep(self, data: bytes, kind: Kind) -> StoredFile:
        """Keep a file; one with the same content is the same file."""
        (kept,) = self.keep_all({"": data}, kind).values()
        return kept

    def keep_all(self, files: Mapping[str, bytes], kind: Kind) -> dict[str, StoredFile]:
        """Keep several files, in one query.

        The content is written before the row, so that a row always has its content; what is left of an
        attempt that ended between the two does no harm, as the next one writes the same.
        """
        rows = {
            name: self.model(sha256=hashlib.sha256(data).hexdigest(), size=len(data), kind=kind)
            for name, data in files.items()
        }
        for name, row in rows.items():
            row.write(files[name])
        # In one order, so that two who keep the same files do not wait for each other in a ring.
        self.bulk_create(
            sorted({row.sha256: row for row in rows.values()}.values(), key=lambda row: row.sha256),
            ignore_conflicts=True,
        )
        return rows

    def keep_stream(self, file: File, kind: Kind) -> StoredFile:
        """Keep a file that is too large to be held in memory; it is read twice."""
        digest = hashlib.sha256()
        file.seek(0)
        for chunk in file.chunks():
            digest.update(chunk)
        row = self.model(sha256=digest.hexdigest(), size=file.size, kind=kind)
        file.seek(0)
        if not default_storage.exists(row.path) or default_storage.size(row.path) != row.size:
            default_storage.save(row.path, file)
        self.bulk_create([row], ignore_conflicts=True)
        return row


class StoredFile(models.Model):
    """A file, known by the SHA-256 of its content. It is never changed."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    size = models.PositiveBigIntegerField()
    kind = models.CharField(max_length=8, choices=Kind)
    kept_at = models.DateTimeField(auto_now_add=True)

    objects = FileQuerySet.as_manager()

    class Meta:
        constraints = [
            models.CheckConstraint(condition=Q(sha256__regex=r"^[0-9a-f]{64}$"), name="file_named_by_sha256"),
            models.CheckConstraint(condition=Q(kind__in=Kind.values), name="file_kind_known"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.sha256[:12]}"

    @property
    def path(self) -> str:
        """Where it lies in the storage."""
        return f"{self.sha256[:2]}/{self.sha256}"

    def write(self, data: bytes) -> None:
        """Put the content into the storage, unless it lies there whole."""
        if default_storage.exists(self.path) and default_storage.size(self.path) == len(data):
            return
        default_storage.save(self.path, ContentFile(data))

    def forget(self) -> None:
        """Take the content out of the storage, say because it is damaged."""
        default_storage.delete(self.path)

    def forget_unless_kept(self) -> None:
        """Take the content out of the storage, unless somebody has kept the same again meanwhile."""
        if not type(self).objects.filter(pk=self.pk).exists():
            self.forget()

    def read(self) -> bytes:
        """Its content.

        Raises
        ------
        LostFileError : the storage has it no more, or something else in its place
        """
        try:
            with default_storage.open(self.path) as file:
                data: bytes = file.read()
        except FileNotFoundError as error:
            raise LostFileError(self.sha256, kind=self.get_kind_display()) from error
        if hashlib.sha256(data).hexdigest() != self.sha256:
            raise LostFileError(self.sha256, kind=self.get_kind_display(), damaged=True)
        return data
