"""The state folder: the database cluster, made files and generated secrets, outside version control."""

from __future__ import annotations

import json
import os
import secrets
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from launch.errors import LaunchError

__all__ = ["REPOSITORY", "State", "open_state"]

REPOSITORY = Path(__file__).resolve().parents[2]


@dataclass(frozen=True, kw_only=True, slots=True)
class State:
    """Where things lie, and the secrets that were made up on the first start."""

    folder: Path
    secret_key: str
    database_password: str
    demo_password: str

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


def open_state(folder: Path | None = None) -> State:
    """The state folder, made on first use. `KIZAMI_STATE_DIR` moves it.

    Raises
    ------
    LaunchError : it can't be made or read
    """
    place = folder or Path(os.environ.get("KIZAMI_STATE_DIR") or REPOSITORY / ".state")
    place = place.resolve()
    secrets_file = place / "secrets.json"
    try:
        place.mkdir(parents=True, exist_ok=True)
        for sub in ("files", "logs", "static"):
            (place / sub).mkdir(exist_ok=True)
        if not secrets_file.exists():
            _write_secrets(secrets_file)
        known: dict[str, Any] = json.loads(secrets_file.read_text("utf-8"))
        return State(
            folder=place,
            secret_key=known["secret_key"],
            database_password=known["database_password"],
            demo_password=known["demo_password"],
        )
    except OSError as error:
        raise LaunchError(
            f"The state folder {place} can't be used ({error.strerror}). "
            "Give yourself the right to write there, or set KIZAMI_STATE_DIR to another folder."
        ) from error
    except (ValueError, KeyError) as error:
        raise LaunchError(
            f"{secrets_file} is damaged. Put back a copy; without one remove {place}, which starts afresh."
        ) from error


_WORDS = (
    "anvil",
    "brazier",
    "burin",
    "crucible",
    "dapping",
    "fluting",
    "graver",
    "mandrel",
    "planish",
    "sprue",
)


def _write_secrets(path: Path) -> None:
    fresh = {
        "secret_key": secrets.token_urlsafe(48),
        "database_password": secrets.token_urlsafe(24),
        # To be typed by hand from the terminal: words, yet different in every shop.
        "demo_password": "-".join(secrets.choice(_WORDS) for _ in range(3))
        + f"-{secrets.randbelow(900) + 100}",
    }
    part = path.with_suffix(".part")
    descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "w", encoding="utf-8") as file:
        json.dump(fresh, file)
    part.replace(path)
