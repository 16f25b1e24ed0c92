"""A private PostgreSQL cluster on loopback, run as an unprivileged user."""

from __future__ import annotations

import contextlib
import os
import pwd
import shutil
import socket
import subprocess
import time
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from launch.errors import LaunchError
from launch.state import Role, State

__all__ = ["Cluster", "free_port"]

_DATABASE = "kizami"


def free_port() -> int:
    """A loopback port that nothing listens on now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _binaries() -> Path:
    """Folder of the newest installed PostgreSQL server."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda p: int(p.parts[4]))
    if found:
        return found[-1].parent
    on_path = shutil.which("initdb")
    if on_path:
        return Path(on_path).resolve().parent
    raise LaunchError("PostgreSQL is not installed. Run: apt-get install postgresql")


@dataclass(frozen=True, kw_only=True, slots=True)
class Cluster:
    """A running or startable cluster.

    Attributes
    ----------
    data : its data folder
    port : loopback port
    passwords : of its roles
    log : server log
    durable : False trades crash safety for speed, for tests only
    """

    data: Path
    port: int
    passwords: Mapping[str, str]
    log: Path
    durable: bool = True

    @classmethod
    def of(cls, state: State, *, durable: bool = True) -> Cluster:
        """The cluster of a state folder, on the port where it runs already or else a free one."""
        port = _running_port(state.cluster) or free_port()
        return cls(
            data=state.cluster,
            port=port,
            passwords=state.passwords,
            log=state.folder / "postgres.log",
            durable=durable,
        )

    def environment(self, role: Role = Role.APPLICATION) -> dict[str, str]:
        """Variables by which a program finds the database, with the rights of a role."""
        return {
            "KIZAMI_DB_HOST": "127.0.0.1",
            "KIZAMI_DB_PORT": str(self.port),
            "KIZAMI_DB_NAME": _DATABASE,
            "KIZAMI_DB_USER": role.value,
            "KIZAMI_DB_PASSWORD": self.passwords[role.value],
        }

    def start(self) -> bool:
        """Make the cluster if there is none and start it.

        Returns
        -------
        whether this call started it; False when it ran already

        Raises
        ------
        LaunchError : a missing right, a broken cluster, a server that does not come up
        """
        fresh = not (self.data / "PG_VERSION").exists()
        if fresh:
            self._initialise()
        elif _running_port(self.data) == self.port and self._answers():
            return False
        self._check_version()
        options = [
            f"-p {self.port}",
            "-c listen_addresses=127.0.0.1",
            # Loopback TCP only: a socket file's path may be too long for the system.
            "-c unix_socket_directories=''",
            "-c shared_buffers=128MB",
            "-c max_connections=60",
        ]
        if not self.durable:
            options += ["-c fsync=off", "-c synchronous_commit=off", "-c full_page_writes=off"]
        self.log.touch(mode=0o600, exist_ok=True)
        self.log.chmod(0o600)
        if os.geteuid() == 0:
            shutil.chown(self.log, _server_user())
        result = self._run(
            "pg_ctl", "start", "-w", "-t", "60", "-D", str(self.data), "-l", str(self.log), "-o",
            " ".join(options),
        )  # fmt: skip
        if result.returncode != 0:
            raise LaunchError(
                f"The database did not start; its log is {self.log}. Last words: {self._last_words()} "
                f"If the cluster is beyond repair, move {self.data} away and start again; "
                "an empty one is made then."
            )
        self._make_ready()
        return True

    @staticmethod
    def binaries() -> Path:
        """Where PostgreSQL's programs lie."""
        return _binaries()

    def runs(self) -> bool:
        """Whether the server of this folder is alive."""
        return _running_port(self.data) == self.port

    def stop(self) -> None:
        """Stop the server; open connections are closed."""
        self._run("pg_ctl", "stop", "-w", "-t", "30", "-m", "fast", "-D", str(self.data))

    def _initialise(self) -> None:
        if self.data.exists() and any(self.data.iterdir()):
            raise LaunchError(
                f"{self.data} holds files but is no database cluster. Move it away and start again."
            )
        self.data.mkdir(mode=0o700, exist_ok=True)
        password_file = self.data.with_name("postgres.password")
        _write_secretly(password_file, self.passwords[Role.CLUSTER.value])
        if os.geteuid() == 0:
            user = _server_user()
            shutil.chown(self.data, user)
            shutil.chown(password_file, user)
            self._check_reach(user)
        result = self._run(
            "initdb", "-D", str(self.data), "-U", Role.CLUSTER.value, f"--pwfile={password_file}",
            "--auth=scram-sha-256", "--encoding=UTF8", "--locale=C.UTF-8",
        )  # fmt: skip
        password_file.unlink()
        if result.returncode != 0:
            # A half-made folder would look like a cluster on the next start.
            shutil.rmtree(self.data, ignore_errors=True)
            raise LaunchError(f"The database cluster could not be made: {result.stderr.strip()[-300:]}")

    def _check_reach(self, user: str) -> None:
        probe = subprocess.run(["runuser", "-u", user, "--", "test", "-x", str(self.data)], check=False)
        if probe.returncode != 0:
            self.data.rmdir()
            raise LaunchError(
                f"PostgreSQL does not run as root, and its user “{user}” can't reach {self.data}. "
                "Set KIZAMI_STATE_DIR to a folder that it can reach, such as /var/lib/kizami."
            )

    def _check_version(self) -> None:
        made_with = (self.data / "PG_VERSION").read_text("utf-8").strip()
        here = _binaries().parent.name
        if here.isdigit() and made_with != here:
            raise LaunchError(
                f"The cluster in {self.data} was made by PostgreSQL {made_with}, but {here} is installed. "
                f"Install postgresql-{made_with}, or move the folder away to begin with an empty one."
            )

    def _make_ready(self) -> None:
        """Roles and database, those that are not there yet: a start may have been cut short before."""
        import psycopg
        from psycopg import sql

        with psycopg.connect(
            host="127.0.0.1", port=self.port, user=Role.CLUSTER.value,
            password=self.passwords[Role.CLUSTER.value], dbname="postgres", autocommit=True,
        ) as connection:  # fmt: skip
            for role in (Role.OWNER, Role.APPLICATION):
                known = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [role.value])
                if known.fetchone() is None:
                    connection.execute(
                        sql.SQL(
                            "CREATE ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE PASSWORD {}"
                        ).format(sql.Identifier(role.value), sql.Literal(self.passwords[role.value]))
                    )
            known = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [_DATABASE])
            if known.fetchone() is None:
                connection.execute(
                    sql.SQL("CREATE DATABASE {} OWNER {}").format(
                        sql.Identifier(_DATABASE), sql.Identifier(Role.OWNER.value)
                    )
                )

    def _answers(self) -> bool:
        for _ in range(20):
            with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", self.port), timeout=1):
                return True
            time.sleep(0.1)
        return False

    def _last_words(self) -> str:
        try:
            lines = self.log.read_text("utf-8", "replace").strip().splitlines()
        except OSError:
            return ""
        return " / ".join(lines[-2:])[:300]

    def _run(self, program: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        command = [str(_binaries() / program), *arguments]
        if os.geteuid() == 0:
            command = ["runuser", "-u", _server_user(), "--", *command]
        # Its own session: a Ctrl-C is for the supervisor, which stops the server in order.
        # The server keeps its standard streams, so they must not be pipes that someone waits on.
        if program == "pg_ctl":
            return subprocess.run(
                command, check=False, text=True, cwd="/", start_new_session=True,
                stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
            )  # fmt: skip
        return subprocess.run(
            command, check=False, text=True, cwd="/", stdin=subprocess.DEVNULL, capture_output=True
        )


def _write_secretly(path: Path, text: str) -> None:
    """Nobody else can read it, not even for the moment between making it and closing it off."""
    descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w", encoding="utf-8") as file:
        file.write(text)


def _server_user() -> str:
    try:
        return pwd.getpwnam("postgres").pw_name
    except KeyError:
        raise LaunchError(
            "PostgreSQL must not run as root and there is no user “postgres”. Install Debian's postgresql."
        ) from None


def _running_port(data: Path) -> int | None:
    """The port of a server that runs on this data folder, or None."""
    try:
        lines = (data / "postmaster.pid").read_text("utf-8").splitlines()
        process, port = int(lines[0]), int(lines[3])
        os.kill(process, 0)
    except (OSError, ValueError, IndexError):
        return None
    # After a crash the number may belong to another program by now.
    try:
        name = Path(f"/proc/{process}/comm").read_text("utf-8").strip()
    except OSError:
        return None
    return port if name.startswith("postgres") else None
