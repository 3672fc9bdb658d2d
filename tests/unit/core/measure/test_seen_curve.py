"""The curve that deep and full pictures are seen through."""

from __future__ import annotations

import av
import numpy as np
import pytest

from offcut.core.measure.seen_curve import HLG, PQ, curve_of


def frame(pixels: str = "yuv420p", transfer: int = 1, span: int = 1) -> av.VideoFrame:
    made = av.VideoFrame(64, 48, pixels)
    made.color_trc = transfer
    made.color_range = span
    return made


def test_usual_pictures_are_seen_as_they_are() -> None:
    assert curve_of(frame()) is None


@pytest.mark.parametrize("made", [frame("yuvj420p"), frame(span=2)])
def test_full_range_is_laid_into_the_limited_one(made: av.VideoFrame) -> None:
    table = curve_of(made)
    assert table is not None
    assert (table[0], table[255]) == (16, 235)
    assert int(table[128]) == pytest.approx(126, abs=1)


def test_pq_has_white_where_its_standard_puts_203_nits() -> None:
    """58 % of the signal is 203 nits, 38 % is 26 nits (ITU-R BT.2408, from memory)."""
    table = curve_of(frame("yuv420p10le", PQ))
    assert table is not None
    white, grey = table[round(16 + 219 * 0.58)], table[round(16 + 219 * 0.38)]
    assert 200 <= white < 235
    assert int(grey) == pytest.approx(16 + 219 * (26 / 203) ** (1 / 2.4), abs=4)
    assert (np.diff(table.astype(int)) >= 0).all()


def test_hlg_has_white_at_three_quarters() -> None:
    table = curve_of(frame("yuv420p10le", HLG))
    assert table is not None
    assert 200 <= table[round(16 + 219 * 0.75)] < 235
    assert (np.diff(table.astype(int)) >= 0).all()
