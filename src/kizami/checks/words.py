"""What findings say, from their numbers and causes; the one place where checks speak."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from kizami.checks.finding import Cause, Level, said
from kizami.counting import so_many

__all__ = ["Said", "words_for"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Said:
    """What a message is made from.

    Attributes
    ----------
    measured, limit, level, cause : see `kizami.checks.finding.Finding`
    facts : by name, what only this check knows
    """

    measured: float
    limit: float
    level: Level
    cause: tuple[Cause, ...] = ()
    facts: Mapping[str, Any] = field(default_factory=dict)

    @property
    def fails(self) -> bool:
        """The limit is missed."""
        return self.level is Level.FAILS

    @property
    def mm(self) -> str:
        """The measured value, told from its limit."""
        return said(self.measured, self.limit)

    @property
    def between(self) -> str:
        """Of what it is, in words."""
        named = [cause.named for cause in self.cause]
        if len(named) > 1:
            return f"between {named[0]} and {named[1]}"
        return f"in {named[0]}" if named else "in the lettering"

    @property
    def end(self) -> str:
        """At its floor, where it is not at the face."""
        end = self.facts.get("end", "face")
        return "" if end in ("face", "") else f", at its {end},"


Words = tuple[str, str]


def words_for(code: str, what: Said) -> Words:
    """Message and hint of a finding.

    Raises
    ------
    KeyError : there are no words for this code
    """
    return _WORDS[code](what)


def _stroke(s: Said) -> Words:
    height = s.facts.get("height_mm", 0.0)
    message = (
        f"The thinnest stroke, {s.between}{s.end or ','} is {s.mm} mm; "
        f"{s.facts['process']} holds {s.limit:.2f} mm."
    )
    needed = height * s.limit / s.measured if s.measured > 0 else 0.0
    hint = "Choose a typeface with bolder strokes, or let the product thicken them where they are too fine."
    if height and needed <= s.facts.get("greatest_mm", 0.0) + 1e-9:
        hint = f"At {needed:.2f} mm high it would hold; make the wording shorter, or set it on more lines."
    return message, hint


def _neck(s: Said) -> Words:
    return (
        f"Where parts meet, {s.between}, the neck is {s.mm} mm; {s.facts['process']} holds {s.limit:.2f} mm.",
        "Draw the letters further into each other, or let wider bridges join them.",
    )


def _gap(s: Said) -> Words:
    return (
        f"The narrowest gap, {s.between if len(s.cause) > 1 else s.between.replace('in ', 'within ')}"
        f"{s.end or ','} is {s.mm} mm; {s.facts['process']} keeps {s.limit:.2f} mm open.",
        "Set it wider apart or higher, or make the wording shorter.",
    )


def _web(s: Said) -> Words:
    return (
        f"The narrowest web, {s.between if len(s.cause) > 1 else s.between.replace('in ', 'within ')}"
        f"{s.end or ','} is {s.mm} mm; {s.facts['process']} needs {s.limit:.2f} mm to hold.",
        "Set it wider apart or higher, or let the product have wider bridges.",
    )


def _middle(s: Said) -> Words:
    return (
        f"The smallest closed middle, {s.between}{s.end or ','} is {s.mm} mm wide; "
        f"{s.facts['process']} keeps {s.limit:.2f} mm open.",
        "Set it higher, or choose a typeface with wider middles.",
    )


def _not_measured(s: Said) -> Words:
    named = ", ".join(dict.fromkeys(cause.named for cause in s.cause)) or "nothing"
    return (
        f"{named} could not be measured." if s.measured else "Everything could be measured.",
        "Set it a little higher or lower, or in another typeface; nothing is known of how fine it is.",
    )


def _fits(s: Said) -> Words:
    if not s.measured:
        return "The lettering lies in the room that it has.", ""
    return (
        f"The lettering does not fit: {s.facts['said']}.",
        "Shorten the wording, set it on more lines, or lower.",
    )


def _edge_gap(s: Said) -> Words:
    what, nearest = s.facts["what"], s.cause[-1].named
    over = f"{what} runs {-s.measured:.2f} mm over {nearest}"
    near = f"{what} comes within {s.mm} mm of {nearest}"
    return (
        f"{near if s.measured >= 0 else over}; {s.limit:.2f} mm must stay clear.",
        "Make the wording shorter or the lettering lower.",
    )


def _lowest(s: Said) -> Words:
    return (
        f"The lettering is {s.mm} mm high; the product allows no less than {s.limit:.2f} mm.",
        "Shorten the wording, or ask the customer for a shorter form.",
    )


def _in_shape(s: Said) -> Words:
    return (
        f"{s.measured:.0f} letters fill the {s.facts['outline']} outline; "
        f"beyond {s.limit:.0f} nobody can read them.",
        "Shorten the wording to initials or a short name.",
    )


def _stretch(s: Said) -> Words:
    return (
        f"{s.cause[0].named} is stretched to {s.mm} times its own proportions; "
        f"{s.limit:.1f} can still be read.",
        "Shorten or lengthen the wording, or choose another shape.",
    )


def _apart(s: Said) -> Words:
    return (
        f"To go right round, its letters stand {s.mm} mm further apart than they would by themselves; "
        f"up to {s.limit:.2f} mm they are read as words.",
        "Set it once more around, set it higher, or lengthen the wording.",
    )


def _depth(s: Said) -> Words:
    what = "engraved" if s.facts["sunk"] else "raised"
    where = f" {s.between}" if s.cause else ""
    why = {
        "pointed": ": strokes so fine meet in a point before the whole depth is reached",
        "away": ": there the face turns away from the direction that it is drawn off in",
    }.get(s.facts.get("why", ""), "")
    hint = f"Make it {s.limit:.2f} mm or more."
    if s.facts.get("why") == "pointed":
        hint = "Set it higher or in a bolder typeface, or let the product have a flat floor."
    if s.facts.get("why") == "away":
        hint = "Keep the lettering where the face looks at the pull, or let it stand square on the face."
    return (
        f"The lettering is {what} {s.mm} mm{where}{why}; less than {s.limit:.2f} mm is lost in finishing.",
        hint,
    )


def _floor(s: Said) -> Words:
    wall, reach, behind = s.facts["wall_mm"], s.facts["reach_mm"], s.facts["behind_mm"]
    what = "An engraving" if s.facts["sunk"] else "A root"
    cut = f", cut {behind:.2f} mm deep from its other side," if behind else ""
    most = max(0.0, wall - behind - s.limit)
    return (
        f"{what} {reach:.2f} mm deep in a wall of {wall:.2f} mm{cut} leaves {s.mm} mm; "
        f"{s.limit:.2f} mm must be left.",
        f"Make it at most {most:.2f} mm deep; was the depth typed in the wrong unit?",
    )


def _edge_made(s: Said) -> Words:
    return (
        f"The edges are softened by {s.mm} mm; {s.limit:.2f} mm are asked for, and the thinnest stroke "
        "would lose its face.",
        f"Let the product ask for {s.measured:.2f} mm, set it higher, or choose bolder strokes.",
    )


def _draft_made(s: Said) -> Words:
    return (
        f"The walls slope by {s.mm}°; {s.limit:.2f}° are asked for, and the thinnest stroke "
        "would lose its face.",
        f"Let the product ask for {s.measured:.1f}°, set it higher or less deep, or choose bolder strokes.",
    )


def _departure(s: Said) -> Words:
    return (
        f"Thickening moves an outline by {s.mm} mm; beyond {s.limit:.2f} mm it is another letter.",
        "Set it higher, or choose a bolder typeface.",
    )


def _openings(s: Said) -> Words:
    return (
        f"Thickening closes {so_many(s.measured, 'opening')} within letters or between them."
        if s.fails
        else "Thickening closes no opening.",
        "Set it higher or wider apart, or choose a bolder typeface.",
    )


#: What became of a letter, by how it changed.
_READS = {
    "mark": "the dot or accent of {} no longer stands by itself",
    "middle": "the closed middle of {} has filled",
    "opening": "{} has an opening that it was not drawn with",
    "stroke": "a stroke that was added reads as one of {}",
    "crossed": "{} lies on the letter before it",
    "sign": "{} can no longer be told from what stands about it",
}


def _read_back(s: Said) -> Words:
    told = [_READS[how].format(cause.named) for how, cause in zip(s.facts["hows"], s.cause, strict=True)]
    return (
        "It reads otherwise than it was set: " + "; ".join(told[:_MOST_NAMED]) + "."
        if s.fails
        else "Every letter reads as it was set.",
        "Set it wider apart, choose slimmer bridges or another typeface, or hold the parts otherwise.",
    )


#: Letters that one sentence names.
_MOST_NAMED = 3


def _loose(s: Said) -> Words:
    return (
        f"{so_many(s.measured, 'part is', 'parts are')} attached to nothing; "
        f"before tying there were {s.facts['before']}.",
        "Choose wider bridges, or a base bar.",
    )


def _middles_drop(s: Said) -> Words:
    return (
        f"{s.measured:.0f} closed middles are held by nothing and drop out when the lettering is cut."
        if s.fails
        else "No middle drops out.",
        "Let the product hold closed middles by bridges, or choose a stencil typeface.",
    )


def _logo(s: Said) -> Words:
    f = s.facts
    return (
        f"At {f['high_mm']:.1f} mm a pixel of “{f['name']}” is {f['pixel_mm']:.2f} mm, so its edges wander "
        f"by up to {s.measured:.3f} mm; {s.limit:.2f} mm is seen.",
        f"Ask for an SVG, or for a picture at least {f['needed_pixels']:.0f} pixels high.",
    )


def _as_sent(s: Said) -> Words:
    return (
        f"“{s.facts['name']}” uses {', '.join(s.facts['changed'])}, which is not followed: the logo would "
        "not look as it was sent.",
        "Ask for the logo as plain filled outlines, with its text turned into outlines.",
    )


def _missing(s: Said) -> Words:
    lacking, name = s.facts["lacking"], s.facts["typeface"]
    if not lacking:
        return f"{name} has every character.", ""
    named = ", ".join(f"“{c}”" for c in lacking[:8])
    names = s.facts["others"]
    offer = (
        f"Choose {' or '.join(names[:3])}, or write it another way."
        if names
        else "No typeface has it; take the character out or write it another way."
    )
    return f"{name} has no {named}.", offer


def _present(s: Said) -> Words:
    count = s.measured
    return (
        f"{count:.0f} letters are set." if count else "There is nothing to set.",
        "Write the wording for this line.",
    )


def _settled(s: Said) -> Words:
    return s.facts["question"], "Write the wording as it is meant."


def _as_told(s: Said) -> Words:
    return s.facts["message"], s.facts.get("hint", "")


def _letters_built(s: Said) -> Words:
    told = "; ".join(s.facts["told"]) or "Every letter was built by itself"
    return f"{told}.", "All others are there. Set this one higher, or in another typeface."


def _bodies(s: Said) -> Words:
    count = int(s.measured)
    return (
        "The piece is all in one." if count == 1 else f"The piece is {count} parts; it must be one.",
        "Something is not attached, or the lettering cuts it apart.",
    )


def _holes(s: Said) -> Words:
    return (
        f"The piece has {so_many(s.measured, 'opening')} right through; "
        f"{so_many(s.limit, 'is', 'are')} right.",
        "The lettering breaks through where it should not, or not where it should.",
    )


def _volume(s: Said) -> Words:
    return (
        f"The lettering changes {s.facts['changed_mm3']:.2f} mm3; "
        f"{s.facts['expected_mm3']:.2f} mm3 were predicted.",
        "A letter was lost or cuts through; look at the turning view.",
    )


def _proven(s: Said) -> Words:
    if not s.fails:
        return "Every part is there, in its place and at its depth.", ""
    return (
        "; ".join(s.facts["told"]) + ".",
        "What was built is not what was to be built: set it a little higher or lower, and look at the "
        "turning view.",
    )


def _size(s: Said) -> Words:
    return (
        f"A side of {s.measured:.1f} mm must go into {s.limit:.1f} mm for {s.facts['process']}.",
        "Choose another process or a smaller blank.",
    )


def _unit_slip(s: Said) -> Words:
    return (
        f"The piece is {s.measured:.2f} mm long" + (f": {s.facts['guess']}" if s.fails else "") + ".",
        "Give the measures of the product in millimetres.",
    )


def _wall(s: Said) -> Words:
    return (
        f"The thinnest wall is {s.mm} mm, {s.facts['where']}; {s.facts['process']} needs {s.limit:.2f} mm.",
        "Make the piece thicker there or the lettering less deep.",
    )


def _edge(s: Said) -> Words:
    return (
        f"Between the lettering and an edge {s.mm} mm are left, {s.facts['where']}; "
        f"{s.facts['process']} needs {s.limit:.2f} mm.",
        "Make the wording shorter or the lettering lower.",
    )


def _draft_held(s: Said) -> Words:
    return (
        f"The steepest wall of the lettering slopes by {s.mm}°; {s.facts['process']} needs {s.limit:.1f}°.",
        "Give the walls more slope.",
    )


def _standing(s: Said) -> Words:
    return (
        f"The thinnest part that stands is {s.mm} mm, {s.facts['where']}; "
        f"{s.facts['process']} holds {s.limit:.2f} mm.",
        "Choose bolder strokes, or set it higher.",
    )


def _slot(s: Said) -> Words:
    return (
        f"The narrowest slot is {s.mm} mm, {s.facts['where']}; "
        f"{s.facts['process']} keeps {s.limit:.2f} mm open.",
        "Set it wider apart or higher.",
    )


def _measured_depth(s: Said) -> Words:
    return (
        f"On the finished piece the shallowest place, {s.between}, is {s.mm} mm; "
        f"less than {s.limit:.2f} mm is lost in finishing.",
        f"Make it {s.limit:.2f} mm or more.",
    )


def _twice(s: Said) -> Words:
    f = s.facts
    return (
        f"{f['what']} is {f['flat_mm']:.3f} mm as drawn, {f['solid_mm']:.3f} mm on the finished piece.",
        "One of the two is wrong, so neither is trusted: look at the spot.",
    )


def _cavities(s: Said) -> Words:
    count = int(s.measured)
    return (
        f"{so_many(count, 'closed cavity', 'closed cavities')} inside the piece, "
        "from which nothing can drain."
        if count
        else "There is no closed cavity.",
        "Open it by a hole, or let it be filled.",
    )


def _slivers(s: Said) -> Words:
    return (
        f"At {so_many(s.measured, 'spot')} the surface is a sliver without width, or folds onto itself."
        if s.fails
        else "The surface is closed, without slivers and folds.",
        "Set it a little higher or lower.",
    )


def _undercut(s: Said) -> Words:
    return (
        f"{s.measured:.2f} mm2 of the lettering look away from the pull, so the mould can't be drawn off."
        if s.fails
        else "Nothing of the lettering holds the mould.",
        "Give the walls more slope, or keep the lettering where the face looks at the pull.",
    )


def _islands(s: Said) -> Words:
    return (
        f"{so_many(s.measured, 'part begins', 'parts begin')} in the air when it is printed as it lies."
        if s.fails
        else "Nothing is printed into the air.",
        "Tie the parts to the rest, or set it in another typeface.",
    )


def _overhang(s: Said) -> Words:
    lying = s.facts["lying"]
    return (
        f"Printed {lying}, {s.measured:.0f} mm2 lean out over air; {s.facts['process']} holds "
        f"{s.limit:.0f} mm2.",
        "Raise the lettering less, or engrave it.",
    )


def _trapped(s: Said) -> Words:
    return (
        f"{s.measured:.0f} mm3 inside never drain: no opening is as wide as {s.facts['drain_mm']:.1f} mm."
        if s.fails
        else f"Whatever gets in runs out again, through openings at least {s.facts['drain_mm']:.1f} mm wide.",
        "Have the customer open the shape, or send it solid.",
    )


def _sharp(s: Said) -> Words:
    return (
        f"The sharpest point has {s.mm}°; below {s.limit:.0f}° it pricks, or does not fill.",
        "Let the product soften its edges or thicken its strokes, or choose a typeface with blunter ends.",
    )


def _below(s: Said) -> Words:
    return (
        f"The middle of the weight hangs {s.mm} mm below the line between its loops."
        if s.measured >= 0
        else f"The middle of the weight lies {-s.measured:.2f} mm above the line between its loops, so it "
        "turns over.",
        "Put the loops higher, or let the piece hang by one on top.",
    )


def _level(s: Said) -> Words:
    return (
        f"Its two loops differ by {s.mm} mm in height; up to {s.limit:.2f} mm looks level.",
        "Let the product hang by one loop, or set the name in another typeface.",
    )


def _loop_place(s: Said) -> Words:
    return (
        f"The loop that is further from its end stands {s.measured:.0f} % of the width from it; "
        f"up to {s.limit:.0f} % looks right.",
        "Let the product hang by one loop, or set the name in another typeface.",
    )


def _loop_hold(s: Said) -> Words:
    return (
        f"The loop is held by {s.mm} mm; its own wall is {s.limit:.2f} mm.",
        "Choose a bolder typeface, a greater height, or a loop with a thinner wall.",
    )


def _tilt(s: Said) -> Words:
    loops = s.facts.get("loops", "loop")
    return (
        f"Hung by its {loops} the piece tilts by {s.mm}°; {s.limit:.1f}° still looks straight.",
        "Put the loop above the middle of the piece, or hang it by two.",
    )


_WORDS: Mapping[str, Callable[[Said], Words]] = {
    "wording-settled": _settled,
    "missing-character": _missing,
    "wording-present": _present,
    "fits-area": _fits,
    "edge-gap": _edge_gap,
    "lowest-height": _lowest,
    "letters-in-shape": _in_shape,
    "letters-apart": _apart,
    "letter-stretch": _stretch,
    "stroke-width": _stroke,
    "neck-width": _neck,
    "gap-width": _gap,
    "web-width": _web,
    "middle-width": _middle,
    "not-measured": _not_measured,
    "lettering-depth": _depth,
    "floor-left": _floor,
    "edge-made": _edge_made,
    "draft-made": _draft_made,
    "departure": _departure,
    "openings-kept": _openings,
    "read-back": _read_back,
    "loose-parts": _loose,
    "closed-middles": _middles_drop,
    "loops-level": _level,
    "loop-place": _loop_place,
    "loop-hold": _loop_hold,
    "logo-detail": _logo,
    "logo-as-sent": _as_sent,
    "made": _as_told,
    "built": _as_told,
    "letters-built": _letters_built,
    "one-body": _bodies,
    "through-holes": _holes,
    "right-volume": _volume,
    "letters-proven": _proven,
    "piece-size": _size,
    "unit-slip": _unit_slip,
    "wall-thickness": _wall,
    "edge-thickness": _edge,
    "draft-held": _draft_held,
    "standing-thickness": _standing,
    "slot-width": _slot,
    "measured-depth": _measured_depth,
    "measured-twice": _twice,
    "cavities": _cavities,
    "slivers": _slivers,
    "trapped-volume": _trapped,
    "sharp-point": _sharp,
    "undercut": _undercut,
    "islands": _islands,
    "overhang": _overhang,
    "hangs-below": _below,
    "tilt": _tilt,
}
