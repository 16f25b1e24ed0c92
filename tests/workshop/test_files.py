"""Files out of rows: kept once by what is in them, whole or not at all."""

from __future__ import annotations

import hashlib

import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction

from workshop.files.errors import LostFileError
from workshop.files.models import Kind, StoredFile

pytestmark = pytest.mark.django_db
DATA = b"order,line\n1,1\n"


def test_a_file_is_known_by_its_content_and_kept_once() -> None:
    one = StoredFile.objects.keep(DATA, Kind.LIST)
    two = StoredFile.objects.keep(DATA, Kind.LIST)
    assert one == two and StoredFile.objects.count() == 1
    # The digest is that of the published test vector for “abc” (FIPS 180-4, from memory).
    abc = StoredFile.objects.keep(b"abc", Kind.LOGO)
    assert abc.sha256 == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
    assert (abc.read(), abc.size) == (b"abc", 3)


def test_several_are_kept_in_one_query(django_assert_num_queries) -> None:
    with django_assert_num_queries(1):
        kept = StoredFile.objects.keep_all({"a": b"1", "b": b"2", "c": b"1"}, Kind.MADE)
    assert kept["a"] == kept["c"] != kept["b"] and StoredFile.objects.count() == 2


def test_an_empty_file_is_a_file() -> None:
    assert StoredFile.objects.keep(b"", Kind.LIST).read() == b""


@pytest.mark.parametrize("damage", ["missing", "other"])
def test_what_the_store_has_lost_is_said_and_put_right_by_keeping_it_again(damage: str) -> None:
    file = StoredFile.objects.keep(DATA, Kind.LIST)
    file.forget()
    if damage == "other":
        default_storage.save(file.path, ContentFile(DATA + b"x"))
    with pytest.raises(LostFileError, match="backup") as found:
        file.read()
    assert found.value.damaged == (damage == "other")
    StoredFile.objects.keep(DATA, Kind.LIST)
    assert file.read() == DATA


def test_the_content_lies_in_the_store_before_the_row_does(monkeypatch) -> None:
    def no_room(*_: object, **__: object) -> None:
        raise OSError("no space left on the device")

    monkeypatch.setattr(default_storage, "save", no_room)
    data = b"never kept"
    with pytest.raises(OSError, match="no space"):
        StoredFile.objects.keep(data, Kind.LIST)
    assert not StoredFile.objects.filter(sha256=hashlib.sha256(data).hexdigest()).exists()


def test_rows_say_nothing_impossible() -> None:
    for row in ({"sha256": "x", "kind": "list"}, {"sha256": "0" * 64, "kind": "secret"}):
        with pytest.raises(IntegrityError), transaction.atomic():
            StoredFile.objects.create(size=1, **row)
