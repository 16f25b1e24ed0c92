"""The state folder: the database cluster, made files and generated secrets, outside version control."""

from __future__ import annotations

import json
import os
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from pathlib import Path
from typing import Any

from launch.errors import LaunchError

__all__ = ["PEOPLE", "REPOSITORY", "Role", "State", "open_state", "spoken_password", "state_folder"]

REPOSITORY = Path(__file__).resolve().parents[2]
#: Who is in a new shop; an empty one has the first of them only.
PEOPLE = ("maren", "desk", "bench", "production")


class Role(Enum):
    """Who may do what in the database.

    The cluster's role makes the others and the database, and saves and restores them. The owner makes and
    changes tables. The application reads and writes rows; it may do no more, and what is on record it may
    not change.
    """

    CLUSTER = "kizami_cluster"
    OWNER = "kizami_owner"
    APPLICATION = "kizami"


@dataclass(frozen=True, kw_only=True, slots=True)
class State:
    """Where things lie, and the secrets that were made up on the first start.

    Attributes
    ----------
    passwords : of the database's roles
    people : first passwords, by name
    """

    folder: Path
    secret_key: str
    passwords: Mapping[str, str]
    people: Mapping[str, str]

    @property
    def cluster(self) -> Path:
        """PostgreSQL's data folder."""
        return self.folder / "postgres"

    @property
    def files(self) -> Path:
        """Made files."""
        return self.folder / "files"

    @property
    def logs(self) -> Path:
        """Log files of the started processes."""
        return self.folder / "logs"


def state_folder() -> Path:
    """Where the state lies or is to lie; nothing is made or read."""
    return Path(os.environ.get("KIZAMI_STATE_DIR") or REPOSITORY / ".state").resolve()


def open_state(folder: Path | None = None) -> State:
    """The state folder, made on first use. `KIZAMI_STATE_DIR` moves it.

    Raises
    ------
    LaunchError : it can't be made or read
    """
    place = (folder or state_folder()).resolve()
    secrets_file = place / "secrets.json"
    try:
        place.mkdir(parents=True, exist_ok=True)
        # Others may pass through to what is theirs, and see nothing.
        place.chmod(0o711)
        for sub, mode in (("files", 0o700), ("logs", 0o711), ("static", 0o700)):
            (place / sub).mkdir(exist_ok=True)
            (place / sub).chmod(mode)
        if not secrets_file.exists():
            _write_secrets(secrets_file)
        known: dict[str, Any] = json.loads(secrets_file.read_text("utf-8"))
        return State(
            folder=place,
            secret_key=known["secret_key"],
            passwords=known["passwords"],
            people=known["people"],
        )
    except OSError as error:
        raise LaunchError(
            f"The state folder {place} can't be used ({error.strerror}). "
            "Give yourself the right to write there, or set KIZAMI_STATE_DIR to another folder."
        ) from error
    except (ValueError, KeyError) as error:
        raise LaunchError(
            f"{secrets_file} is damaged, or of an older Kizami. Put back a copy; without one move {place} "
            "away, which starts afresh."
        ) from error


_WORDS = (
    "anvil",
    "bezel",
    "brazier",
    "bruting",
    "burin",
    "burnish",
    "charcoal",
    "collet",
    "crucible",
    "dapping",
    "drawplate",
    "dross",
    "ferrule",
    "fluting",
    "graver",
    "ingot",
    "ladle",
    "mallet",
    "mandrel",
    "milgrain",
    "niello",
    "nugget",
    "planish",
    "plumb",
    "quench",
    "riffler",
    "scribe",
    "solder",
    "spindle",
    "sprue",
    "tongs",
    "wax",
)


def spoken_password() -> str:
    """To be read out and typed by hand: words, yet another one every time.

    Five words of 32 and a number of 900 are some 34 bits; guessing is slowed after a few tries.
    """
    words = "-".join(secrets.choice(_WORDS) for _ in range(5))
    return f"{words}-{secrets.randbelow(900) + 100}"


def _write_secrets(path: Path) -> None:
    fresh = {
        "secret_key": secrets.token_urlsafe(48),
        "passwords": {role.value: secrets.token_urlsafe(24) for role in Role},
        "people": {name: spoken_password() for name in PEOPLE},
    }
    part = path.with_suffix(".part")
    descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w", encoding="utf-8") as file:
        json.dump(fresh, file)
    part.replace(path)
