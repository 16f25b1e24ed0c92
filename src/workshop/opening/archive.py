"""The whole shop in one archive: its database as of one moment, and every file that the database names.

The archive proves itself: each file is named by the SHA-256 of its content, and the database by one that
stands in the manifest at the end. It is read again after it was written, and before it is put back.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO

import psycopg
from django.core.files.base import File
from django.core.files.storage import default_storage
from django.db import connection
from psycopg import sql

import kizami
from launch.state import Role

__all__ = ["ArchiveError", "Manifest", "prove", "restore", "save"]

_DUMP, _MANIFEST, _FILES = "database.dump", "manifest.json", "files/"
_CHUNK = 1024 * 1024


class ArchiveError(Exception):
    """The shop could not be saved or put back; the message says why and what is as it was."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Manifest:
    """What an archive holds.

    Attributes
    ----------
    version : of the program that wrote it
    database_sha256 : of the database's part
    files, lines : how many
    """

    version: str
    database_sha256: str
    files: int
    lines: int


def save(path: Path) -> Manifest:
    """Write an archive and read it again. A file of that name is replaced only by a whole one.

    Raises
    ------
    ArchiveError : something is missing, or the archive does not read back as it was written
    """
    part = path.with_name(f"{path.name}.part")
    try:
        with tempfile.TemporaryDirectory() as folder, _snapshot() as (session, snapshot):
            dump = Path(folder) / _DUMP
            _run(
                "pg_dump", "-Fc", "--no-owner", "--no-acl", f"--snapshot={snapshot}", "-f", str(dump), _name()
            )
            digests = [row[0] for row in session.execute("SELECT sha256 FROM files_storedfile ORDER BY 1")]
            (lines,) = session.execute("SELECT count(*) FROM orders_orderline").fetchone() or (0,)
            manifest = Manifest(
                version=kizami.__version__, database_sha256=_digest(dump.open("rb")), files=len(digests),
                lines=lines,
            )  # fmt: skip
            descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
            with os.fdopen(descriptor, "wb") as out, tarfile.open(fileobj=out, mode="w") as tar:
                tar.add(dump, _DUMP)
                for digest in digests:
                    _add_file(tar, digest)
                said = json.dumps(asdict(manifest)).encode()
                _add(tar, _MANIFEST, io.BytesIO(said), len(said))
        if prove(part) != manifest:
            raise ArchiveError("The archive does not read back as it was written. It was not kept.")
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    return manifest


def _add_file(tar: tarfile.TarFile, digest: str) -> None:
    name = f"{digest[:2]}/{digest}"
    try:
        with default_storage.open(name) as file:
            _add(tar, f"{_FILES}{digest}", file, default_storage.size(name))
    except FileNotFoundError as error:
        raise ArchiveError(
            f"The file {digest[:12]} is missing from the store. Nothing was saved: put it back from an "
            "earlier archive first."
        ) from error


def _add(tar: tarfile.TarFile, name: str, file: IO[bytes] | File, size: int) -> None:
    entry = tarfile.TarInfo(name)
    entry.size, entry.mode = size, 0o600
    tar.addfile(entry, file)


def prove(path: Path) -> Manifest:
    """Read an archive through, and compare everything with its digest.

    Raises
    ------
    ArchiveError : it is none, is cut short, or something in it is not what it was
    """
    found: dict[str, str] = {}
    manifest: Manifest | None = None
    try:
        with tarfile.open(path, mode="r:") as tar:
            for entry in tar:
                content = tar.extractfile(entry)
                if content is None:
                    raise ArchiveError(f"{path.name} holds “{entry.name[:60]}”, which is no file.")
                if entry.name == _MANIFEST:
                    manifest = Manifest(**json.loads(content.read(10_000)))
                else:
                    found[entry.name] = _digest(content)
    except (tarfile.TarError, OSError, ValueError, TypeError) as error:
        raise ArchiveError(f"{path.name} is no archive of a shop, or is damaged.") from error
    if manifest is None:
        raise ArchiveError(f"{path.name} is cut short: its end is missing.")
    if found.pop(_DUMP, "") != manifest.database_sha256 or len(found) != manifest.files:
        raise ArchiveError(f"{path.name} is damaged: its database or the number of its files is another.")
    for name, digest in found.items():
        if name != f"{_FILES}{digest}":
            raise ArchiveError(f"{path.name} is damaged: the file {name[:20]} is not what it was.")
    return manifest


def restore(path: Path) -> Manifest:
    """Put a shop back. Until all of it is there, what was before stays; it stays beside it afterwards.

    Raises
    ------
    ArchiveError : the archive is not sound, or programs of the shop still run; nothing is changed then
    """
    manifest = prove(path)
    fresh, now = f"{_name()}_restored", _name()
    with _server() as server:
        others = server.execute(
            "SELECT count(*) FROM pg_stat_activity WHERE datname = %s AND pid <> pg_backend_pid()", [now]
        ).fetchone()
        if others and others[0]:
            raise ArchiveError("The shop is open. Stop it first (Ctrl-C in its window); nothing was changed.")
        server.execute(sql.SQL("DROP DATABASE IF EXISTS {}").format(sql.Identifier(fresh)))
        owner = server.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [Role.OWNER.value]).fetchone()
        role = Role.OWNER.value if owner else connection.settings_dict["USER"]
        server.execute(
            sql.SQL("CREATE DATABASE {} OWNER {}").format(sql.Identifier(fresh), sql.Identifier(role))
        )
        with tarfile.open(path, mode="r:") as tar, tempfile.TemporaryDirectory() as folder:
            for entry in tar:
                content = tar.extractfile(entry)
                if content is None or entry.name == _MANIFEST:
                    continue
                if entry.name == _DUMP:
                    dump = Path(folder) / _DUMP
                    with dump.open("wb") as out:
                        while chunk := content.read(_CHUNK):
                            out.write(chunk)
                    _run("pg_restore", "--no-owner", "--no-acl", f"--role={role}", "--exit-on-error", "-d",
                         fresh, str(dump))  # fmt: skip
                else:
                    _put_back(entry.name.removeprefix(_FILES), content, entry.size)
        before = f"{now}_before"
        server.execute(sql.SQL("DROP DATABASE IF EXISTS {}").format(sql.Identifier(before)))
        for old, new in ((now, before), (fresh, now)):
            server.execute(
                sql.SQL("ALTER DATABASE {} RENAME TO {}").format(sql.Identifier(old), sql.Identifier(new))
            )
    return manifest


def _put_back(digest: str, content: IO[bytes], size: int) -> None:
    name = f"{digest[:2]}/{digest}"
    if default_storage.exists(name) and default_storage.size(name) == size:
        return
    with tempfile.TemporaryFile() as out:
        while chunk := content.read(_CHUNK):
            out.write(chunk)
        out.seek(0)
        default_storage.save(name, File(out))


@contextmanager
def _snapshot() -> Iterator[tuple[psycopg.Connection, str]]:
    """One moment of the database, for several sessions."""
    with psycopg.connect(**_reach(_name())) as session:
        session.isolation_level = psycopg.IsolationLevel.REPEATABLE_READ
        row = session.execute("SELECT pg_export_snapshot()").fetchone()
        if row is None:
            raise ArchiveError("The database gives no snapshot.")
        yield session, str(row[0])


@contextmanager
def _server() -> Iterator[psycopg.Connection]:
    """A session beside the shop's database; the shop's own is given up, as it is to be replaced."""
    connection.close()
    with psycopg.connect(**_reach("postgres"), autocommit=True) as session:
        yield session


def _reach(database: str) -> dict[str, str]:
    known = connection.settings_dict
    return {
        "host": known["HOST"], "port": str(known["PORT"]), "user": known["USER"],
        "password": known["PASSWORD"], "dbname": database,
    }  # fmt: skip


def _name() -> str:
    return str(connection.settings_dict["NAME"])


def _run(program: str, *arguments: str) -> None:
    known = connection.settings_dict
    folder = os.environ.get("KIZAMI_PG_BINARIES", "")
    result = subprocess.run(
        [str(Path(folder) / program), "-h", known["HOST"], "-p", str(known["PORT"]), "-U", known["USER"],
         *arguments],
        env={**os.environ, "PGPASSWORD": known["PASSWORD"]}, check=False, capture_output=True, text=True,
    )  # fmt: skip
    if result.returncode != 0:
        raise ArchiveError(f"{program} failed: {result.stderr.strip()[-300:]}")


def _digest(content: IO[bytes]) -> str:
    digest = hashlib.sha256()
    with content:
        while chunk := content.read(_CHUNK):
            digest.update(chunk)
    return digest.hexdigest()
