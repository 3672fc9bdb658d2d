"""What was asked of a hand-over and what came of it; kept with the project, to do it again."""

from __future__ import annotations

from dataclasses import dataclass

PATTERN = "{project}-{number}"


@dataclass(frozen=True, slots=True)
class Asked:
    """Everything a person chooses in Turnover.

    Attributes: ``source`` the id of the film whose shots go (0 for the first one); ``which`` of
    them: all, marked, scene (``scene`` by id), chosen (``chosen`` holds the seams that open them,
    0 for the first shot, in their order), picked (``picked`` holds film and seam of each, of any
    films), or order (a running order by its id, of any films);
    ``film_order`` writes them in the film's own order all the same; ``offcuts`` take along what
    was set aside; ``lists`` the formats by their codes; ``movies`` a way to write each shot as
    a movie, empty for none; ``handles`` frames before and after; ``framing`` cuts movies and
    pictures to the source's; ``seen`` writes movies as the display shows them, which cannot be
    taken back; ``stills`` which frame of each shot, empty for none, as
    ``still_format``; ``sheets`` contact sheets as pdf or png on ``paper``,
    with the frame ``sheet_still`` of each shot; ``pattern`` names of
    files, counted from ``first`` in steps of ``step`` with ``padding`` digits; ``record_start``
    where the record side of lists begins; ``shortest`` frames under which a shot is pointed
    out.
    """

    source: int = 0
    which: str = "all"
    chosen: tuple[int, ...] = ()
    picked: tuple[tuple[int, int], ...] = ()
    scene: int = 0
    order: int = 0
    film_order: bool = False
    offcuts: bool = False
    lists: tuple[str, ...] = ("edl",)
    movies: str = ""
    handles: int = 0
    framing: bool = False
    seen: bool = False
    stills: str = ""
    still_format: str = "png"
    sheets: tuple[str, ...] = ()
    sheet_still: str = "middle"
    paper: str = "A4"
    pattern: str = PATTERN
    first: int = 1
    step: int = 1
    padding: int = 3
    record_start: str = "01:00:00:00"
    shortest: int = 0


@dataclass(frozen=True, slots=True)
class Handover:
    """One hand-over that was made: ``when`` in ISO 8601, where, what was asked, what was written.

    ``files`` are names inside ``folder``; ``seconds`` how long it took.
    """

    when: str
    folder: str
    asked: Asked
    files: tuple[str, ...]
    seconds: float
