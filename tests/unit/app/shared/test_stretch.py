"""The ribbon's arithmetic: zooming holds the place under the hand, panning stays inside."""

import itertools

from hypothesis import given
from hypothesis import strategies as st

from offcut.app.shared.ribbon.stretch import Stretch
from offcut.core.timecode import PAL


@given(st.floats(0.2, 5), st.floats(0, 1000), st.integers(100, 300_000))
def test_zooming_holds_the_frame_under_the_hand(factor: float, x: float, whole: int) -> None:
    start = Stretch(whole * 0.3, whole * 0.6, whole, 1000)
    held = start.left + x / start.scale
    zoomed = start.zoomed(factor, x)
    assert 0 <= zoomed.left < zoomed.right <= whole + 1e-6
    if zoomed.left > 0 and zoomed.right < whole:
        assert abs(zoomed.x_of(held) - x) < 0.01


@given(st.floats(-1e6, 1e6))
def test_panning_stays_inside_the_film(pixels: float) -> None:
    panned = Stretch(100, 200, 1000, 800).panned(pixels)
    assert 0 <= panned.left < panned.right <= 1000
    assert abs(panned.right - panned.left - 100) < 1e-6


def test_labels_on_the_ruler_keep_their_distance() -> None:
    for right in (40, 400, 4000, 400_000):
        stretch = Stretch(0, right, 400_000, 1200)
        ticks = stretch.ticks(PAL)
        assert ticks
        assert all((b - a) * stretch.scale >= 96 for a, b in itertools.pairwise(ticks))
