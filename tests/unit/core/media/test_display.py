"""Displays: log seen as light. Held against the Cineon conversion and OpenColorIO's own way."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio
import pytest

from offcut.core.errors import MediaError
from offcut.core.media.display import CINEON, Display, display_of, display_words, displays
from offcut.core.media.log import cineon_code, cineon_light


def codes(*values: int) -> np.ndarray:
    wide = np.round(np.array(values) / 1023 * 65535).astype(np.uint16)
    return np.repeat(wide[None, :, None], 3, axis=2)


def test_cineon_has_black_at_95_and_white_at_685() -> None:
    """Values of the Cineon system: Kennel, SMPTE Journal 103 (1994), from memory."""
    light = cineon_light(np.array([95, 445, 685]))
    assert light[0] == pytest.approx(0, abs=1e-6)
    assert light[2] == pytest.approx(1, abs=1e-6)
    assert light[1] == pytest.approx(0.18, abs=0.04)  # the grey card lies about 445
    assert cineon_code(light) == pytest.approx(np.array([95, 445, 685]), abs=0.01)
    seen = Display(CINEON).seen(codes(0, 95, 445, 685, 800, 1023))[0, :, 0].astype(int)
    assert seen[0] == 0
    assert seen[1] <= 1
    assert 95 <= seen[2] <= 125
    assert seen[3] >= 235
    assert seen[3] < seen[4] < seen[5] <= 255  # what is over white is told apart


def test_a_camera_log_is_seen_as_openscolorio_shows_it() -> None:
    config = ocio.Config.CreateFromBuiltinConfig("studio-config-v2.1.0_aces-v1.3_ocio-v2.3")
    rng = np.random.default_rng(3)
    light = rng.random((40, 60, 3)).astype(np.float32)
    for name in list(displays())[1:4]:
        view = ocio.DisplayViewTransform()
        view.setSrc(name)
        view.setDisplay("sRGB - Display")
        view.setView("ACES 1.0 - SDR Video")
        wanted = light.copy()
        config.getProcessor(view).getDefaultCPUProcessor().applyRGB(wanted)
        seen = display_of(name).seen((light * 65535).round().astype(np.uint16))  # type: ignore[union-attr]
        assert np.abs(seen / 255 - np.clip(wanted, 0, 1)).mean() < 0.004


def test_large_pictures_are_done_in_halves_and_come_out_the_same() -> None:
    rng = np.random.default_rng(1)
    large = rng.integers(0, 255, (401, 302, 3), dtype=np.uint8)
    display = Display(CINEON)
    rows = np.vstack([display.seen(large[k : k + 40]) for k in range(0, 401, 40)])
    assert np.array_equal(display.seen(large), rows)
    assert display.seen(large, deep=True).dtype == np.uint16


def test_a_cube_of_ones_own(tmp_path: Path) -> None:
    steps = (0.0, 0.5, 1.0)
    lines = [f"{1 - r} {g} {b}" for b in steps for g in steps for r in steps]
    cube = tmp_path / "turned.cube"
    cube.write_text("LUT_3D_SIZE 3\n" + "\n".join(lines) + "\n")
    seen = display_of(str(cube)).seen(np.full((4, 4, 3), (250, 10, 10), np.uint8))  # type: ignore[union-attr]
    assert np.abs(seen[0, 0].astype(int) - (5, 10, 10)).max() <= 2
    assert display_words(str(cube)) == "turned.cube"
    cube.write_text("LUT_3D_SIZE 3\nnonsense\n")
    with pytest.raises(MediaError, match=r"turned\.cube: cannot be read as a cube"):
        display_of(str(cube))
    with pytest.raises(MediaError, match="there is no such file"):
        display_of(str(tmp_path / "gone.cube"))
    with pytest.raises(MediaError, match="no display of that name"):
        display_of("moonlight")
