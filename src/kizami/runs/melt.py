"""Metal for a casting tree: what is to be melted, of which parts, and what of it comes back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kizami.runs.machine import Machine
from kizami.runs.tree import Tree, stem_mm3

__all__ = ["Melt", "melt_of", "melt_of_box", "tree_fill"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Melt:
    """Metal in grams, for a tree or a sand box.

    Attributes
    ----------
    pieces_g, stem_g, button_g, loss_g : of the finished pieces, of sprue and feeds, in the cup, lost in
    melting
    parts : what is weighed in, fine metals by name
    wax_g : of the tree in wax of 0.97 g/cm3, for weighing it before it is invested; 0 for a box
    melts_c : range of temperature in which the alloy melts, or None
    """

    pieces_g: float
    stem_g: float
    button_g: float
    loss_g: float
    parts: tuple[tuple[str, float], ...]
    wax_g: float
    melts_c: tuple[float, float] | None

    @property
    def total_g(self) -> float:
        """To be melted."""
        return self.pieces_g + self.stem_g + self.button_g + self.loss_g

    def said(self) -> tuple[str, ...]:
        """In words."""
        if self.wax_g:
            rows = [
                f"pieces {self.pieces_g:.1f} g + sprue and feeds {self.stem_g:.1f} g + "
                f"button {self.button_g:.1f} g + loss {self.loss_g:.1f} g; "
                f"the tree in wax about {self.wax_g:.1f} g"
            ]
        else:
            rows = [
                f"pieces {self.pieces_g:.1f} g + runners and risers {self.button_g:.1f} g + "
                f"loss {self.loss_g:.1f} g"
            ]
        if self.parts:
            weighed = ", ".join(f"{name} {share:.2f} g" for name, share in self.parts)
            heat = f"; melts at {self.melts_c[0]:.0f} to {self.melts_c[1]:.0f} °C" if self.melts_c else ""
            rows.append(f"weigh in: {weighed}{heat}")
        return tuple(rows)


#: Casting wax, g/cm3 (common practice, no source: 0.9 to 1.0).
_WAX_G_CM3 = 0.97


def melt_of(tree: Tree, machine: Machine, material: str, *, weights_g: Sequence[float]) -> Melt:
    """The metal for a tree.

    Parameters
    ----------
    weights_g : of the finished pieces
    """
    stem = stem_mm3(tree, machine)
    patterns = sum(hung.branch.piece.volume_mm3 for hung in tree.hung)
    return _melt(machine, material, weights_g, stem_mm3=stem, wax_mm3=patterns + stem)


def melt_of_box(machine: Machine, material: str, *, weights_g: Sequence[float]) -> Melt:
    """The metal for a sand box: its button is what runners and risers take.

    Parameters
    ----------
    weights_g : of the finished pieces
    """
    return _melt(machine, material, weights_g, stem_mm3=0.0, wax_mm3=0.0)


def _melt(
    machine: Machine, material: str, weights_g: Sequence[float], *, stem_mm3: float, wax_mm3: float
) -> Melt:
    alloy = machine.standards.material(material)
    pieces = float(sum(weights_g))
    stem_g, button_g = alloy.weight_g(stem_mm3), alloy.weight_g(machine.button_mm3)
    loss = (pieces + stem_g + button_g) * machine.loss_percent / 100.0
    total = pieces + stem_g + button_g + loss
    return Melt(
        pieces_g=pieces,
        stem_g=stem_g,
        button_g=button_g,
        loss_g=loss,
        parts=tuple((name, total * share) for name, share in alloy.parts),
        wax_g=wax_mm3 * _WAX_G_CM3 / 1000.0,
        melts_c=alloy.melts_c,
    )


def tree_fill(tree: Tree) -> float:
    """Share of the circle that the wedges of its levels take, in the mean."""
    if not tree.levels:
        return 0.0
    return float(sum(hung.taken for hung in tree.hung)) / tree.levels
