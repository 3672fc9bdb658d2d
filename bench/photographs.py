"""Photographs under open licences that Debian's packages carry, for films of more than few sources.

Each package's own copyright file tells them: mate-backgrounds (CC BY-SA), palapeli-data (its puzzles: CC BY-SA,
public domain), lomiri-wallpapers-16.04 and -20.04 (CC BY-SA 4.0), plasma-workspace-wallpapers (CC BY-SA 4.0 and
LGPL). Whole packages are learn or bench material, so no photographer is on both sides. They are fetched by
``apt-get download``, unpacked beside the bench films, and not kept in git.
"""

from __future__ import annotations

import subprocess
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

_LOMIRI = "usr/share/backgrounds"
_PLASMA = "usr/share/wallpapers/{}/contents/screenshot.jpg"
_MATE = "usr/share/backgrounds/mate/nature"
_PUZZLES = "usr/share/palapeli/collection"
_LEARN = {
    "lomiri-wallpapers-16.04": [
        f"{_LOMIRI}/{name}.jpg"
        for name in (
            "Bridge_by_Sander_Klootwijk", "Dragonfly_by_Bolly", "Picture_0B_by_freespace",
            "Picture_1A_by_freespace", "Wine_by_Jakkub_Mede", "aitzgorri_by_Aitzol_Berasategi",
            "free_by_Peter_Nerlich", "friends_by_Aitzol_Berasategi", "greentock_by_Peter_Nerlich",
            "life_by_Aitzol_Berasategi", "picosdeeuropa_by_Aitzol_Berasategi",
            "seeding_by_Clements_Engelhardt", "sunset_by_Aitzol_Berasategi",
        )
    ],
    "plasma-workspace-wallpapers": [
        _PLASMA.format(name).replace("screenshot", "images/2560x1600")
        for name in (
            "BytheWater", "ColdRipple", "ColorfulCups", "EveningGlow", "FallenLeaf", "Grey", "Kite",
            "OneStandsOut", "Path", "summer_1am", "Autumn",
        )
    ],
}  # fmt: skip
_BENCH = {
    "mate-backgrounds": [
        f"{_MATE}/{name}.jpg"
        for name in (
            "Aqua", "Blinds", "Dune", "FreshFlower", "Garden", "GreenMeadow", "LadyBird", "RainDrops",
            "Storm", "TwoWings", "Wood", "YellowFlower",
        )
    ],
    "palapeli-data": [
        f"{_PUZZLES}/{name}.jpg"
        for name in (
            "castle-maintenon", "cincinnati-bridge", "citrus-fruits", "european-honey-bee",
            "panther-chameleon-female",
        )
    ],
    "lomiri-wallpapers-20.04": [f"{_LOMIRI}/Kleiber_by_Lukas_Baubkus.jpg"],
}  # fmt: skip
SMALLEST = 640
"""Lines or columns, whichever are fewer."""


def photographs(side: str, home: Path) -> list[NDArray[np.float32]]:
    """Return the photographs of a side, "learn" or "bench", as RGB (h, w, 3) of 0 to 255.

    Fetches the packages where they are not there yet; CalledProcessError where that fails.
    """
    made = []
    for package, names in (_LEARN if side == "learn" else _BENCH).items():
        folder = _unpacked(package, home / "photographs")
        for name in names:
            read = cv2.imread(str(folder / name), cv2.IMREAD_COLOR)
            if read is None:
                raise FileNotFoundError(folder / name)
            scale = SMALLEST / min(read.shape[:2])
            small = cv2.resize(read, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
            made.append(small[..., ::-1].astype(np.float32))
    return made


def _unpacked(package: str, home: Path) -> Path:
    folder = home / package
    if not folder.exists():
        home.mkdir(parents=True, exist_ok=True)
        subprocess.run(["apt-get", "download", "-qq", package], cwd=home, check=True)
        (fetched,) = home.glob(f"{package}_*.deb")
        subprocess.run(["dpkg-deb", "-x", str(fetched), str(folder)], check=True)
    return folder
