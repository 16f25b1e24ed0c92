"""How the parts of a wording stand to each other: lines, monograms, a logo beside the words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from kizami.artwork.artwork import Artwork
from kizami.lettering.block import Block, beside, scaled, set_artwork, set_line, shifted, stack
from kizami.lettering.round_about import ONE_TURN, RoundAbout
from kizami.lettering.shapes import STRAIGHT, LetterShape
from kizami.lettering.typeface import Style, Typeface

__all__ = ["Arrangement", "LogoPlace", "MonogramForm", "arrange"]


class MonogramForm(Enum):
    """How the letters of a monogram stand."""

    IN_LINE = "in line"
    MIDDLE_LARGER = "middle larger"
    STACKED = "stacked"


class LogoPlace(Enum):
    """Where a line's logo stands."""

    ALONE = "alone"
    BEFORE = "before the words"
    ABOVE = "above the words"


@dataclass(frozen=True, kw_only=True, slots=True)
class Arrangement:
    """A product's arrangement of its wording.

    Attributes
    ----------
    monogram : form of three letters
    logo : where a logo stands
    features : OpenType features by tag, such as (("smcp", 1),)
    language : BCP 47 tag, or ""
    vertical : from top to bottom
    direction : “left to right” or “right to left” for a line of mixed directions; "" is as its first letter
    word_space : added between words, as a share of the cap height
    shape : what the line is bent or set along
    turn : how it goes round a closed area
    level : on a cone the line is set on an arc, so that it runs level; otherwise it is straight and droops
    upside_down : on purpose, for pieces that are worn or held the other way up
    mirrored : on purpose, for seals and stamps
    even_spacing : the white between letters is evened; otherwise it is as the typeface has it
    along_mm, across_mm : how far it stands from the area's own place, along the reading direction and across
    turned_deg : how far it is turned about its middle, anticlockwise; on level lines it is not turned
    """

    monogram: MonogramForm = MonogramForm.IN_LINE
    logo: LogoPlace = LogoPlace.ALONE
    features: tuple[tuple[str, int], ...] = ()
    language: str = ""
    vertical: bool = False
    direction: str = ""
    word_space: float = 0.0
    shape: LetterShape = STRAIGHT
    turn: RoundAbout = ONE_TURN
    level: bool = True
    upside_down: bool = False
    mirrored: bool = False
    even_spacing: bool = True
    along_mm: float = 0.0
    across_mm: float = 0.0
    turned_deg: float = 0.0

    def style(self, tracking: float) -> Style:
        """The style of a line with this tracking."""
        return Style(
            tracking=tracking,
            features=self.features,
            language=self.language,
            vertical=self.vertical,
            direction=self.direction,
            word_space=self.word_space,
            evened=self.even_spacing,
        )


#: The side letters of a monogram whose middle letter is larger (common practice, no source).
_SIDE_SHARE = 0.68
#: Gap between a logo and its words, and the height of a logo before or above them, in cap heights.
_LOGO_GAP, _LOGO_BEFORE, _LOGO_ABOVE = 0.45, 1.7, 1.8


def arrange(
    lines: Sequence[tuple[int, str]],
    typeface: Typeface,
    arrangement: Arrangement,
    *,
    text: str,
    tracking: float,
    leading: float,
    artwork: Artwork | None = None,
) -> Block:
    """Set lines as one block.

    Parameters
    ----------
    lines : each with the index of its first character in `text`
    tracking : share of the cap height
    leading : from line to line, cap heights
    """
    words = _words(lines, typeface, arrangement, text=text, tracking=tracking, leading=leading)
    if artwork is None:
        return words
    logo = set_artwork(artwork, text=text)
    if arrangement.logo is LogoPlace.ALONE or not words.marks:
        return logo
    if arrangement.logo is LogoPlace.BEFORE:
        # Larger than a capital, centred on the middle of the first line's capitals.
        large = shifted(scaled(logo, _LOGO_BEFORE), 0.0, (1.0 - _LOGO_BEFORE) / 2.0)
        return beside((large, words), gap=_LOGO_GAP, text=text)
    large = scaled(logo, _LOGO_ABOVE)
    return stack((large, shifted(words, 0.0, 0.0)), leading=1.0 + _LOGO_GAP, text=text)


def _words(
    lines: Sequence[tuple[int, str]],
    typeface: Typeface,
    arrangement: Arrangement,
    *,
    text: str,
    tracking: float,
    leading: float,
) -> Block:
    style = arrangement.style(tracking)
    if arrangement.monogram is not MonogramForm.IN_LINE and len(lines) == 1 and len(lines[0][1]) == 3:
        return _monogram(lines[0][1], typeface, arrangement, style, text=text)
    set_lines = [set_line(line, typeface, style, first_cluster=start) for start, line in lines]
    return set_lines[0] if len(set_lines) == 1 else stack(set_lines, leading=leading, text=text)


def _monogram(
    letters: str, typeface: Typeface, arrangement: Arrangement, style: Style, *, text: str
) -> Block:
    """Three letters: the middle one as high as the height says, the others smaller beside or above it."""
    first, middle, last = (
        set_line(letter, typeface, style, first_cluster=place) for place, letter in enumerate(letters)
    )
    if arrangement.monogram is MonogramForm.STACKED:
        # Two small letters above one another beside the large one, as on signets.
        half = 0.5 - style.tracking / 2.0 - 0.06
        upper = shifted(scaled(first, half), 0.0, 1.0 - half)
        lower = scaled(last, half)
        column = Block(text=text, marks=_aligned(upper, lower), missing=(*upper.missing, *lower.missing))
        return beside((column, middle), gap=0.14 + style.tracking, text=text)
    # Side letters are centred on the height of the large one.
    low = (1.0 - _SIDE_SHARE) / 2.0
    sides = [shifted(scaled(letter, _SIDE_SHARE), 0.0, low) for letter in (first, last)]
    return beside((sides[0], middle, sides[1]), gap=0.14 + style.tracking, text=text)


def _aligned(upper: Block, lower: Block) -> tuple:  # type: ignore[type-arg]
    centred = stack((upper, lower), leading=0.0, text="")
    return centred.marks
