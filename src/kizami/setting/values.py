"""What may be set of one piece: names, bounds and choices, as they are shown and read."""

from __future__ import annotations

__all__ = [
    "BOUNDS",
    "DIRECTIONS",
    "GAPS",
    "LABELS",
    "MOST_LINES",
    "MOST_TIMES",
    "ON_AREA",
    "SHAPES",
    "TIES",
    "TREATMENTS",
]

#: Bounds of what may be set, shown beside the fields.
BOUNDS: dict[str, tuple[float, float]] = {
    "height_mm": (0.5, 100.0),
    "lowest_mm": (0.5, 100.0),
    "tracking": (-0.2, 1.0),
    "tightest": (-0.2, 1.0),
    "narrowest": (0.6, 1.0),
    "leading": (0.8, 4.0),
    "thicken_by_mm": (-0.5, 1.0),
    "shape_amount": (0.1, 500.0),
    "depth_mm": (0.05, 20.0),
    "along_mm": (-200.0, 200.0),
    "across_mm": (-200.0, 200.0),
    "turned_deg": (-180.0, 180.0),
    "bridge_mm": (0.2, 10.0),
    "overlap_mm": (0.0, 5.0),
    "word_space": (-0.5, 3.0),
    "body_mm": (0.3, 40.0),
    "band_mm": (1.0, 30.0),
}
#: What the values are called on screens.
LABELS = {
    "typeface": "Typeface",
    "material": "Material",
    "finish": "Finish",
    "height_mm": "Height at most",
    "lowest_mm": "Height at least",
    "tracking": "Spacing between letters",
    "word_space": "Added between words",
    "tightest": "Tightened down to",
    "narrowest": "Condensed down to",
    "most_lines": "Lines at most",
    "breaks": "Words on each line",
    "leading": "Line to line",
    "thicken_by_mm": "Thicker by",
    "gaps": "Narrow slits",
    "shape": "Form",
    "shape_amount": "How much",
    "one_piece": "Loose parts",
    "bridge_mm": "Bridges",
    "overlap_mm": "Letters overlap",
    "treatment": "Treatment",
    "depth_mm": "Depth",
    "along_mm": "Moved along",
    "across_mm": "Moved across",
    "turned_deg": "Turned",
    "times": "Times around",
    "upside_down": "The other way up",
    "direction": "Read",
    "size": "Size",
    "body_mm": "Thickness of the blank",
    "band_mm": "Width of the band",
    "capitals": "In capitals",
    "without_second": "Leave out the second wording",
}
#: Forms of lettering by the words of the bench, with what their amount means and a usual value.
SHAPES: dict[str, tuple[str, float]] = {
    "straight": ("", 0.0),
    "on an arc": ("radius, mm", 30.0),
    "on a hanging arc": ("radius, mm", 30.0),
    "arched": ("rise, % of the height", 40.0),
    "round": ("width, % of the height", 100.0),
    "oval": ("width, % of the height", 160.0),
    "diamond": ("width, % of the height", 120.0),
    "heart": ("width, % of the height", 100.0),
}
#: How loose parts may be tied to the rest.
TIES = ("no", "bridges", "base bar", "underline")
#: What may be done with slits that are narrower than the process keeps open.
GAPS = ("as drawn", "opened", "closed")
#: How lettering may meet the body. What is cut out of nothing has no body to be lettered otherwise.
TREATMENTS = ("engraved", "raised", "pierced", "scored")
#: Which way a line of mixed directions is read; as its first letter is where nothing is said.
DIRECTIONS = ("left to right", "right to left", "top to bottom")
MOST_LINES = 4
#: Wordings around a closed area.
MOST_TIMES = 6
#: What may be set otherwise on a further area: how its lettering stands, not what it says nor what it is on.
ON_AREA = frozenset((
    "typeface", "height_mm", "lowest_mm", "tracking", "word_space", "tightest", "narrowest", "thicken_by_mm",
    "gaps", "along_mm", "across_mm", "turned_deg", "times", "most_lines", "leading", "shape", "shape_amount",
    "direction", "upside_down", "treatment", "depth_mm",
))  # fmt: skip
