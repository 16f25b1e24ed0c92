"""Twelve typefaces of other kinds than those that ship, from packages at pinned versions."""

from __future__ import annotations

import shutil
import subprocess
import tarfile
from functools import cache
from pathlib import Path

from kizami.lettering.typeface import Typeface
from launch.state import state_folder

__all__ = ["other_file", "other_scripts", "other_typefaces"]

_SCOPE = "@expo-google-fonts"
#: Package with its version, and the file in it (all under the SIL Open Font License).
_SCRIPTS = {
    "allura@0.4.2": "400Regular/Allura_400Regular.ttf",
    "cookie@0.4.1": "400Regular/Cookie_400Regular.ttf",
    "kaushan-script@0.4.1": "400Regular/KaushanScript_400Regular.ttf",
    "satisfy@0.4.1": "400Regular/Satisfy_400Regular.ttf",
    "parisienne@0.4.1": "400Regular/Parisienne_400Regular.ttf",
    "yellowtail@0.4.1": "400Regular/Yellowtail_400Regular.ttf",
    "alex-brush@0.4.1": "400Regular/AlexBrush_400Regular.ttf",
}
_OTHERS = {
    "eb-garamond@0.4.3": "400Regular/EBGaramond_400Regular.ttf",
    "lato@0.4.1": "400Regular/Lato_400Regular.ttf",
    "playfair-display@0.4.2": "400Regular/PlayfairDisplay_400Regular.ttf",
    "oswald@0.4.2": "400Regular/Oswald_400Regular.ttf",
    "josefin-sans@0.4.2": "400Regular/JosefinSans_400Regular.ttf",
}


@cache
def other_scripts() -> tuple[Typeface, ...]:
    """Hands whose letters are meant to join, or nearly."""
    return tuple(_typeface(package, file) for package, file in _SCRIPTS.items())


@cache
def other_typefaces() -> tuple[Typeface, ...]:
    """All twelve."""
    return (*other_scripts(), *(_typeface(package, file) for package, file in _OTHERS.items()))


def other_file(package: str, file: str) -> Path:
    """A file of a package at a version, fetched once."""
    kept = state_folder() / "other-typefaces" / package / Path(file).name
    if not kept.is_file():
        _fetch(package, file, kept)
    return kept


def _typeface(package: str, file: str) -> Typeface:
    kept = other_file(package, file)
    return Typeface(kept.read_bytes(), name=kept.stem.partition("_")[0])


def _fetch(package: str, file: str, kept: Path) -> None:
    kept.parent.mkdir(parents=True, exist_ok=True)
    npm = shutil.which("npm")
    if npm is None:
        raise SystemExit("The group “craft” fetches typefaces with npm, which is missing.")
    run = subprocess.run(
        [npm, "pack", "--silent", f"{_SCOPE}/{package}"],
        cwd=kept.parent, check=True, capture_output=True, text=True,
    )  # fmt: skip
    parcel = kept.parent / run.stdout.strip().splitlines()[-1]
    with tarfile.open(parcel) as archive:
        member = archive.extractfile(f"package/{file}")
        if member is None:
            raise SystemExit(f"{package} holds no {file}.")
        kept.write_bytes(member.read())
    parcel.unlink()
