"""Who the programs run as: never root."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from launch.errors import LaunchError
from launch.state import REPOSITORY, State

__all__ = ["ServiceUser", "as_user", "service_user"]

#: The first of these that the machine knows; a shop that wants one of its own makes a user “kizami”.
_USERS = ("kizami", "nobody")


@dataclass(frozen=True, kw_only=True, slots=True)
class ServiceUser:
    """An unprivileged user of this machine."""

    name: str
    uid: int
    gid: int

    def takes(self, state: State, *, again: bool = False) -> None:
        """Give the user what the programs write: files and static files, and nothing else of the state.

        Parameters
        ----------
        again : look through everything, as somebody else has put files there
        """
        for folder in (state.files, state.folder / "static"):
            if again or folder.stat().st_uid != self.uid:
                for path in (folder, *folder.rglob("*")):
                    shutil.chown(path, self.uid, self.gid)

    def check_reach(self, state: State) -> None:
        """Whether the user can run the programs and reach the files.

        Raises
        ------
        LaunchError : it can't; says what and what to do
        """
        for place, said in (
            (Path(sys.executable), "Use a Python that every user may run, such as Debian's"),
            (REPOSITORY / "src", "Move Kizami to a folder that every user may read, such as /opt/kizami"),
            (state.files, "Set KIZAMI_STATE_DIR to a folder that it can reach, such as /var/lib/kizami"),
        ):
            reached = subprocess.run(
                ["test", "-r", str(place), "-a", "-x", str(place)], check=False, **as_user(self)
            )
            if reached.returncode != 0:
                raise LaunchError(
                    f"Kizami's programs do not run as root, and the user “{self.name}” can't reach {place}. "
                    f"{said}."
                )


def as_user(user: ServiceUser | None) -> dict[str, Any]:
    """How a child is started as that user; as oneself for None."""
    if user is None:
        return {}
    return {"user": user.uid, "group": user.gid, "extra_groups": []}


def service_user() -> ServiceUser | None:
    """Who to run as when this is root; None for anybody else, who runs all as themselves.

    Raises
    ------
    LaunchError : root, and there is nobody to be instead
    """
    if os.geteuid() != 0:
        return None
    for name in _USERS:
        try:
            entry = pwd.getpwnam(name)
        except KeyError:
            continue
        return ServiceUser(name=name, uid=entry.pw_uid, gid=entry.pw_gid)
    raise LaunchError(
        "Kizami does not run as root, and there is no user “kizami”. Make one: useradd --system kizami"
    )
