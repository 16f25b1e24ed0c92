"""Web and workers on several machines: one database, one store of files, nothing else in common."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import boto3
import pytest
from django.core.files.storage import default_storage
from django.test import override_settings
from django.urls import reverse

from tests.workshop.lists import HEADER
from tests.workshop.workers import wait_until, worker
from workshop.files.errors import LostFileError
from workshop.files.models import Kind, StoredFile
from workshop.intake.taking import take_list
from workshop.making.models import Revision
from workshop.orders.stages import Stage

BUCKET = "kizami-files"


@pytest.fixture(scope="module")
def store() -> Iterator[dict[str, str]]:
    """A stand-in for an object store, on loopback, and how to reach it."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "-m", "moto.server", "-H", "127.0.0.1", "-p", str(port)],
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(300):
            try:
                urllib.request.urlopen(address, timeout=1).close()
                break
            except OSError:
                time.sleep(0.1)
        client = boto3.client(
            "s3", endpoint_url=address, aws_access_key_id="shop", aws_secret_access_key="shop",
            region_name="us-east-1",
        )  # fmt: skip
        client.create_bucket(Bucket=BUCKET)
        yield {
            "KIZAMI_S3_BUCKET": BUCKET, "KIZAMI_S3_ENDPOINT": address, "KIZAMI_S3_REGION": "us-east-1",
            "KIZAMI_S3_KEY": "shop", "KIZAMI_S3_SECRET": "shop",
        }  # fmt: skip
    finally:
        server.terminate()
        server.wait()


@pytest.fixture
def shared(store: dict[str, str], settings, monkeypatch) -> Iterator[dict[str, str]]:
    """The web side on that store, set up as the settings themselves do it."""
    from workshop import settings as own

    for name, value in store.items():
        monkeypatch.setenv(name, value)
    with override_settings(STORAGES={**settings.STORAGES, "default": own._file_store()}):
        yield store


@pytest.mark.django_db
def test_files_go_into_the_store_and_come_out_whole(shared: dict[str, str]) -> None:
    file = StoredFile.objects.keep(b"solid", Kind.MADE)
    StoredFile.objects.keep(b"solid", Kind.MADE)
    assert file.read() == b"solid" and default_storage.exists(file.path)
    file.forget()
    with pytest.raises(LostFileError, match="missing"):
        file.read()


@pytest.mark.django_db(transaction=True)
def test_two_workers_with_folders_of_their_own_share_the_work_and_the_files(
    shared: dict[str, str], shop, owner_client, owner, worker_environment, tmp_path: Path
) -> None:
    text = HEADER + "".join(f"K,{i},CREW-TAG,,Name {i},1,,\n" for i in range(24))
    order_list = take_list(text.encode(), name="shared.csv", user=owner)
    machines = [tmp_path / name for name in ("one", "two")]
    environments = [{**worker_environment, **shared, "KIZAMI_STATE_DIR": str(folder)} for folder in machines]
    done = order_list.lines.exclude(stage=Stage.NEW)
    with worker(environments[0]), worker(environments[1]):
        wait_until(lambda: done.count() == 24, seconds=90)
    assert set(order_list.lines.values_list("stage", flat=True)) == {"ready"}
    assert Revision.objects.filter(line__order_list=order_list).count() == 24
    for revision in Revision.objects.filter(line__order_list=order_list):
        for known in revision.facts["files"].values():
            assert len(StoredFile.objects.get(sha256=known["sha256"]).read()) == known["size"]
    # Nothing lies on either machine, and the web side shows what they made.
    for folder in machines:
        assert not [path for path in (folder / "files").rglob("*") if path.is_file()]
    line = order_list.lines.first()
    solid = owner_client.get(reverse("bench:solid", args=[line.pk]))
    assert solid.status_code == 200
    assert int.from_bytes(solid.content[4:8], "little") == line.revision.facts["triangles"]
