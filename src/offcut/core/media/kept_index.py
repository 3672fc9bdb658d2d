"""The index of a film and its facts kept on disk: a second opening reads no packets.

One file a film in the cache folder, under its fingerprint. It can be deleted at any time; one
that is damaged, or of another version, is made anew.
"""

from __future__ import annotations

import contextlib
import io
import json
import os
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import platformdirs
from numpy.typing import NDArray

from offcut.core.files import sealed, trim_folder, unsealed, write_whole
from offcut.core.media.index import FrameIndex

VERSION = 2
LIMIT = 256 << 20


def index_folder() -> Path:
    """Return the folder that holds all kept indexes."""
    return Path(platformdirs.user_cache_path("offcut")) / "indexes"


def _file_of(fingerprint: str) -> Path:
    return index_folder() / f"{fingerprint}-{VERSION}.npz"


def kept_index(fingerprint: str) -> tuple[FrameIndex, dict[str, Any]] | None:
    """Return what is kept of the film of a fingerprint, None where nothing is."""
    file = _file_of(fingerprint)
    try:
        with np.load(io.BytesIO(unsealed(file.read_bytes())), allow_pickle=False) as data:
            facts = json.loads(bytes(data["facts"]).decode())
            index = FrameIndex(
                np.cumsum(data["times"], dtype=np.int64),
                np.cumsum(data["keys"], dtype=np.int64),
                Fraction(facts["time_base"]),
                bool(facts["by_count"]),
                int(facts["hidden"]),
                np.cumsum(data["packets"], dtype=np.int64),
                np.asarray(data["packet_keys"], np.bool_),
            )
    except Exception:  # whatever harmed it, it is made anew
        return None
    if not len(index) or len(index) != facts.get("frames"):
        return None
    with contextlib.suppress(OSError):
        os.utime(file)  # used now: the ones used longest ago go first
    return index, facts


def keep_index(fingerprint: str, index: FrameIndex, facts: dict[str, Any]) -> None:
    """Keep an index and facts (plain JSON); a full disk only means no cache."""
    told = facts | {
        "frames": len(index),
        "time_base": f"{index.time_base.numerator}/{index.time_base.denominator}",
        "by_count": index.by_count,
        "hidden": index.hidden,
    }
    out = io.BytesIO()
    np.savez_compressed(
        out,
        times=_steps(index.times),
        keys=_steps(index.keys),
        packets=_steps(index.packets),
        packet_keys=index.packet_keys,
        facts=np.frombuffer(json.dumps(told).encode(), np.uint8),
    )
    with contextlib.suppress(OSError):
        index_folder().mkdir(parents=True, exist_ok=True)
        write_whole(_file_of(fingerprint), sealed(out.getvalue()))
        trim_folder(index_folder(), LIMIT)


def _steps(numbers: NDArray[np.int64]) -> NDArray[np.int64]:
    """Return numbers as steps from one to the next, which take little room."""
    return np.diff(numbers, prepend=np.int64(0))
