"""Laying pieces over as many beds as they need: at once by cells or circles, then better while there is
time."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass

from kizami.counting import so_many
from kizami.errors import RunError
from kizami.runs.cells import lay_by_cells
from kizami.runs.circles import lay_circles
from kizami.runs.laying import Ground, Item, Place, Shape, drawn_outline
from kizami.runs.spacing import faults_of
from kizami.runs.strips import Strip, lay_on_strip
from kizami.runs.telling import Seen, Told, tell_nobody

__all__ = ["Bed", "LaidOut", "lay_out"]

#: Denser than this no bed of free forms becomes.
_DENSEST = 0.92
#: What is tried beyond what the instant answer held.
_MORE = 1.25
#: Less than this is not worth beginning, s.
_LEAST_S = 2.0
#: Larger runs are looked at in parts, so that time stays in line with their number.
_LOOK_AHEAD = 400


@dataclass(frozen=True, kw_only=True, slots=True)
class Bed:
    """One bed with the pieces on it; each lies `gap_mm` from the next at least.

    Attributes
    ----------
    places : of the pieces
    how : circles, cells or strip: what laid it
    """

    places: tuple[Place, ...]
    how: str


@dataclass(frozen=True, kw_only=True, slots=True)
class LaidOut:
    """All beds.

    Attributes
    ----------
    beds : in the order in which they are to be made
    too_large : pieces that no turn of them fits on the bed
    """

    beds: tuple[Bed, ...]
    too_large: tuple[str, ...] = ()


def lay_out(
    items: Sequence[Item],
    ground: Ground,
    *,
    seconds: float = 0.0,
    seed: int = 0,
    most_beds: int = 0,
    told: Told = tell_nobody,
) -> LaidOut:
    """Lay pieces, the first ones first.

    Without time for more the answer is always the same for the same pieces. With time, a kept library looks
    for better ones: the outcome is to be kept, as another search may end elsewhere.

    Parameters
    ----------
    items : in the order in which they are wanted
    seconds : spent on looking for better than the instant answer, for all beds together
    most_beds : 0 for as many as are needed; what finds no room is left out of the answer
    told : is told how many pieces are laid, how many there are, what is being done, and shown each bed and
        each better one that is found

    Raises
    ------
    RunError : a key is there twice, or a bed fails its proof
    """
    if len({item.key for item in items}) < len(items):
        raise RunError("A piece is in the run twice. Take it out once.")
    too_large = {s.key for s in {i.shape.key: i.shape for i in items}.values() if not ground.has_room_for(s)}
    waiting = [item for item in items if item.shape.key not in too_large]
    total, beds = len(waiting), list[Bed]()
    by_key = {item.key: item for item in waiting}
    ends = time.monotonic() + seconds
    while waiting and (not most_beds or len(beds) < most_beds):
        done, said = total - len(waiting), f"laying bed {len(beds) + 1}"
        told(done, total, said)
        bed = _instant(waiting[:_LOOK_AHEAD], ground)
        if not bed.places:
            # Fits alone by its measure, but not beside what is used up of the sheet.
            too_large.add(waiting[0].shape.key)
            waiting = [item for item in waiting if item.shape.key not in too_large]
            continue
        if len(bed.places) < len(waiting) and bed.how != "circles":
            share = (ends - time.monotonic()) / max(1.0, len(waiting) / len(bed.places))
            if share >= _LEAST_S:
                told(done, total, said, _seen(bed.places, by_key, ground, "laid at once"))
                shown = _Shown(told, (done, total, f"{said}, looking for a denser one"), by_key, ground)
                bed = _better(
                    waiting[:_LOOK_AHEAD], bed, ground, seconds=share, seed=seed + len(beds), shown=shown
                )
        _prove(waiting, bed, ground)
        beds.append(bed)
        told(done + len(bed.places), total, said, _seen(bed.places, by_key, ground, f"bed {len(beds)}"))
        on = {place.key for place in bed.places}
        waiting = [item for item in waiting if item.key not in on]
    told(total - len(waiting), total, "laid")
    return LaidOut(
        beds=tuple(beds), too_large=tuple(item.key for item in items if item.shape.key in too_large)
    )


def _instant(items: Sequence[Item], ground: Ground) -> Bed:
    """The better of what is laid at once."""
    if ground.taken is None and all(item.shape.is_round for item in items):
        circles = lay_circles(items, ground)
        if circles:
            return Bed(places=tuple(circles), how="circles")
    return Bed(places=tuple(lay_by_cells(items, ground)), how="cells")


def _seen(places: Sequence[Place], by_key: dict[str, Item], ground: Ground, how: str) -> Seen:
    """A bed as it is shown while the work goes on."""
    outlines = [drawn_outline(by_key[place.key].shape, place) for place in places]
    return Seen(
        width_mm=ground.width_mm,
        depth_mm=ground.depth_mm,
        outlines=outlines,
        said=f"{how}: {so_many(len(places), 'piece')}",
    )


@dataclass(frozen=True, slots=True)
class _Shown:
    """Shows the best strip so far as the bed that it would make."""

    told: Told
    progress: tuple[int, int, str]
    by_key: dict[str, Item]
    ground: Ground

    def __call__(self, strip: Strip) -> None:
        places = _within(strip, self.by_key, self.ground)
        self.told(*self.progress, _seen(places, self.by_key, self.ground, "the best so far"))


def _better(
    items: Sequence[Item], bed: Bed, ground: Ground, *, seconds: float, seed: int, shown: _Shown
) -> Bed:
    """A bed that holds more, where the library finds one in its time."""
    if ground.taken is not None:
        return bed
    by_key = {item.key: item for item in items}
    laid = _area(bed.places, by_key)
    wanted, area = list[Item](), 0.0
    on = {place.key for place in bed.places}
    # What lies there already is tried again, with the next ones of the queue.
    for item in sorted(items, key=lambda item: item.key not in on):
        if area + item.shape.outline.area > min(_DENSEST * ground.area_mm2, _MORE * laid):
            break
        wanted.append(item)
        area += item.shape.outline.area
    wanted.sort(key=items.index)
    strip = lay_on_strip(wanted, ground, seconds=seconds, seed=seed, better=shown)
    if strip is None:
        return bed
    places = _within(strip, by_key, ground)
    if not places:
        return bed
    lying = [(by_key[place.key].shape, place) for place in places]
    there = {place.key for place in places}
    rest = [item for item in items if item.key not in there]
    filled = Bed(places=(*places, *lay_by_cells(rest, ground, lying=lying)), how="strip")
    holds_first = items[0].key in {place.key for place in filled.places}
    if not holds_first or _area(filled.places, by_key) <= laid or _faults(filled, by_key, ground):
        return bed
    return filled


def _within(strip: Strip, by_key: dict[str, Item], ground: Ground) -> list[Place]:
    """Those that lie on the bed, of a strip that may be longer."""
    right = ground.room[2]
    return [
        place
        for place in strip.places
        if by_key[place.key].shape.turned(place.turn_deg).bounds[2] + place.x_mm <= right
    ]


def _area(places: Sequence[Place], by_key: dict[str, Item]) -> float:
    return float(sum(by_key[place.key].shape.outline.area for place in places))


def _faults(bed: Bed, by_key: dict[str, Item], ground: Ground) -> list[str]:
    lying: list[tuple[Shape, Place]] = [(by_key[place.key].shape, place) for place in bed.places]
    return [fault.message for fault in faults_of(lying, ground)]


def _prove(items: Sequence[Item], bed: Bed, ground: Ground) -> None:
    faults = _faults(bed, {item.key: item for item in items}, ground)
    if faults:
        raise RunError(f"A bed was laid wrongly and is not used: {faults[0]}")
