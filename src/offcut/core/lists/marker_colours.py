"""What the colours of markers are called and look like in the forms that have them."""

from __future__ import annotations

from offcut.core.model.source import MarkerColour

COLOUR_WORDS = {colour.value.upper(): colour for colour in MarkerColour if colour}
"""What the colour of a locator is called: the first word after its timecode, in capitals."""
USUAL_COLOUR = "YELLOW"
"""Some forms must name a colour; this one goes out where a marker has none."""
SHADES: dict[MarkerColour, tuple[int, int, int]] = {
    MarkerColour.RED: (255, 0, 0),
    MarkerColour.PINK: (255, 150, 180),
    MarkerColour.ORANGE: (255, 140, 0),
    MarkerColour.YELLOW: (255, 255, 0),
    MarkerColour.GREEN: (0, 200, 0),
    MarkerColour.CYAN: (0, 255, 255),
    MarkerColour.BLUE: (0, 0, 255),
    MarkerColour.PURPLE: (128, 0, 128),
    MarkerColour.MAGENTA: (255, 0, 255),
    MarkerColour.BLACK: (0, 0, 0),
    MarkerColour.WHITE: (255, 255, 255),
}
"""Red, green and blue, 0 to 255, where a form tells a colour by its levels."""


def nearest_colour(red: int, green: int, blue: int) -> MarkerColour:
    """Return the marker colour that lies nearest to levels of 0 to 255."""
    return min(
        SHADES,
        key=lambda c: sum((a - b) ** 2 for a, b in zip(SHADES[c], (red, green, blue), strict=True)),
    )
