"""What a measurer is: something that turns a run of pictures into signals of its own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Protocol, runtime_checkable

from numpy.typing import NDArray

from offcut.core.measure.small_pictures import Look, SmallPictures

Arrays = Mapping[str, NDArray[Any]]
"""Signals by name, one row for each frame."""


class Kept(Protocol):
    """What signals are kept under: ``name``, ``version``, and the names of their ``arrays``."""

    @property
    def name(self) -> str: ...

    @property
    def version(self) -> int: ...

    @property
    def arrays(self) -> tuple[str, ...]: ...


@runtime_checkable
class Measurer(Kept, Protocol):
    """Measures one kind of thing. It keeps no state: it may work on several runs at once.

    Attributes: ``name`` and ``version``, under which its signals are kept, so that a new version
    is measured anew and nothing else is; ``arrays`` the names of its signals; ``bytes_a_frame``
    about what they take; ``history`` how many frames before a frame it looks at; ``look`` what it
    wants to see of every whole picture, None when the small ones do.
    """

    @property
    def bytes_a_frame(self) -> int: ...

    @property
    def history(self) -> int: ...

    @property
    def look(self) -> Look | None: ...

    def prepare(self, run: SmallPictures) -> Any:
        """Return what the measurer needs of a run, worked out without knowing any other."""

    def compare(self, before: Sequence[Any], now: Any) -> Arrays:
        """Return the signals of a run.

        ``now`` is that run prepared, ``before`` are those that adjoin it before, in order:
        at least ``history`` frames of them, or all there are.
        """
