"""Ready pieces, and the runs that are proposed for them: which go together, on which machine, in which
order."""

from __future__ import annotations

import datetime as dt
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from kizami.runs.laying import Shape
from kizami.runs.machine import Kind, Machine
from kizami.standards import shipped_standards

__all__ = ["Batch", "Gathered", "Ready", "Waits", "gather", "split_groups", "spoken_group", "why_of"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Ready:
    """A piece that passed its checks.

    Attributes
    ----------
    key : its ticket code
    order, set_name : what it belongs to
    wording : what stands on it
    process, material : codes
    thickness_mm : of the sheet that it is cut from, else its height as it lies
    due, rush : when it is wanted
    shape : what it covers of a bed
    """

    key: str
    order: str
    wording: str
    process: str
    material: str
    shape: Shape
    due: dt.date | None = None
    rush: bool = False
    set_name: str = ""
    thickness_mm: float = 0.0

    @property
    def group(self) -> tuple[str, str]:
        """What it belongs together with."""
        return (self.order, self.set_name)


@dataclass(frozen=True, kw_only=True, slots=True)
class Waits:
    """A piece that goes into no run now.

    Attributes
    ----------
    key : which
    why : in words, with what to do
    """

    key: str
    why: str


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Batch:
    """Pieces that go to one machine in one material, the most urgent first.

    Attributes
    ----------
    machine, material : where and of what
    thickness_mm : of a sheet, 0 for others
    pieces : in their order
    why : in words
    """

    machine: Machine
    material: str
    thickness_mm: float
    pieces: tuple[Ready, ...]
    why: str


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Gathered:
    """All batches and what waits."""

    batches: tuple[Batch, ...]
    waiting: tuple[Waits, ...]


def gather(pieces: Sequence[Ready], machines: Sequence[Machine], *, today: dt.date) -> Gathered:
    """Put pieces together by machine, material and, for sheets, thickness.

    Parameters
    ----------
    machines : the first that takes a piece's process and material gets it
    today : what is due before it is late

    Returns
    -------
    batches, the one with the most urgent piece first
    """
    batches: dict[tuple[str, str, float], list[Ready]] = defaultdict(list)
    takes: dict[str, Machine] = {machine.code: machine for machine in machines}
    waiting: list[Waits] = []
    for piece in pieces:
        machine = next((m for m in machines if m.takes(piece.process, piece.material)), None)
        if machine is None:
            waiting.append(Waits(key=piece.key, why=_nobody_takes(piece, machines)))
            continue
        why_not = _does_not_go(piece, machine)
        if why_not:
            waiting.append(Waits(key=piece.key, why=why_not))
            continue
        thickness = round(piece.thickness_mm, 2) if machine.kind is Kind.SHEET else 0.0
        batches[machine.code, piece.material, thickness].append(piece)
    made = []
    for (code, material, thickness), group in batches.items():
        ordered = _in_order(group, today)
        made.append(
            Batch(
                machine=takes[code],
                material=material,
                thickness_mm=thickness,
                pieces=tuple(ordered),
                why=why_of(ordered, takes[code], material, thickness, today=today),
            )
        )
    made.sort(key=lambda batch: _urgency(batch.pieces[0], today))
    return Gathered(batches=tuple(made), waiting=tuple(waiting))


def split_groups(beds: Sequence[Sequence[Ready]]) -> dict[tuple[str, str], list[int]]:
    """Orders and sets whose pieces lie on several beds, with the beds from 1: the cost of filling them."""
    on: dict[tuple[str, str], list[int]] = defaultdict(list)
    for number, bed in enumerate(beds, start=1):
        for group in {piece.group for piece in bed}:
            on[group].append(number)
    return {group: numbers for group, numbers in sorted(on.items()) if len(numbers) > 1}


def spoken_group(group: tuple[str, str]) -> str:
    """An order, or a set of one, in words.

    >>> spoken_group(("E-2112", "night crew"))
    'set night crew of order E-2112'
    """
    order, name = group
    return f"set {name} of order {order}" if name else f"order {order}"


def _urgency(piece: Ready, today: dt.date) -> tuple[bool, dt.date]:
    late = piece.due is not None and piece.due < today
    return (not (piece.rush or late), piece.due or dt.date.max)


def _in_order(pieces: Sequence[Ready], today: dt.date) -> list[Ready]:
    """By urgency; pieces of one order and set follow each other where they are about as urgent."""
    urgency = {piece.key: _urgency(piece, today) for piece in pieces}
    # A rush piece goes forward by itself: it does not pull the whole order with it.
    first: dict[tuple[str, str], dt.date] = {}
    for piece in pieces:
        waits, due = urgency[piece.key]
        if waits:
            first[piece.group] = min(due, first.get(piece.group, dt.date.max))

    def place(piece: Ready) -> tuple[bool, dt.date, str, str, str]:
        waits, due = urgency[piece.key]
        return (waits, first[piece.group] if waits else due, *piece.group, piece.key)

    return sorted(pieces, key=place)


def _nobody_takes(piece: Ready, machines: Sequence[Machine]) -> str:
    # What no station is for may still be one that ships.
    standards = machines[0].standards if machines else shipped_standards()
    known, made_of = standards.processes.get(piece.process), standards.materials.get(piece.material)
    process = known.name if known else piece.process
    material = made_of.name if made_of else piece.material
    others = [m.name for m in machines if piece.process in m.processes]
    if others:
        return f"{others[0]} makes {process.lower()} but not {material}. Add the material to it."
    return f"No station makes {process.lower()}. Add it to one, or add a station."


def _does_not_go(piece: Ready, machine: Machine) -> str:
    room = machine.bed_mm[2]
    if machine.kind is Kind.SHEET and piece.thickness_mm > room + 1e-6:
        return f"It is {piece.thickness_mm:g} mm thick; {machine.name} takes sheets up to {room:g} mm."
    mould = piece.shape.mould
    if machine.kind is Kind.SAND and mould is not None:
        if not mould.lets_go:
            return (
                f"Sand would hold it: {mould.undercut_mm2:.1f} mm² of it look away from the pull, wherever "
                "the box is parted. Give its walls a slope, or make it another way."
            )
        reaches = max(mould.parting_mm, piece.shape.height_mm - mould.parting_mm)
        room = max(0.0, room / 2.0 - machine.margin_mm)
        if reaches > room + 1e-6:
            return (
                f"It reaches {reaches:.1f} mm into one half of the mould; {machine.name} has {room:g} mm "
                f"beside {machine.margin_mm:g} mm of sand."
            )
        return ""
    if machine.kind is not Kind.SHEET and piece.shape.height_mm > room + 1e-6:
        return f"It stands {piece.shape.height_mm:.1f} mm high; {machine.name} has {room:g} mm."
    return ""


def why_of(
    pieces: Sequence[Ready], machine: Machine, material: str, thickness: float, *, today: dt.date
) -> str:
    """Why these pieces go together, in words; and how urgent they are."""
    urgent = [p for p in pieces if not _urgency(p, today)[0]]
    late = [p for p in urgent if p.due is not None and p.due < today]
    dues = [p.due for p in pieces if p.due is not None]
    said = (
        f"All of {machine.standards.material(material).name}"
        + (f", {thickness:g} mm" if thickness else "")
        + f", for {machine.name}"
    )
    if late:
        said += f"; {len(late)} late, these first"
    elif urgent:
        said += f"; {len(urgent)} to be made before others, these first"
    if dues:
        first, last = min(dues), max(dues)
        said += f"; due {first.isoformat()}" + (f" to {last.isoformat()}" if last != first else "")
    return said + "."
