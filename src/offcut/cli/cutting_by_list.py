"""A list that came with a film, on the command line: laid on the film, used and told."""

from __future__ import annotations

from offcut.cli.saying import warn
from offcut.core.lists.incoming import ReadList
from offcut.core.model.project import Project
from offcut.core.tally.cutting import Use
from offcut.core.tally.fitting import misgivings, verdicts
from offcut.core.tally.taking import CUTTING, Taking

_TOLD = 20
"""So many lines of a list are told one by one, the others as a number."""


def cut_by(project: Project, listed: ReadList, wanted: str | None) -> Project:
    """Take a list where it falls by itself: cuts with the found seams, or what it is for.

    ``wanted`` is one of `Use`, None for what it is by its contents. What is said of it goes to
    standard error. Raises OffcutError where nothing of it can be used.
    """
    source = project.sources[-1]
    taking = Taking(listed)
    use = Use(wanted) if wanted else taking.likely
    fit = taking.laid(source, use)
    joins = taking.joins if use in CUTTING else None
    if joins is not None:
        said = [f"{fit.agree} of {fit.whole} joins lie on a found seam ({fit.why})"]
        off = []
        for verdict in verdicts(joins, source, fit.offset)[0]:
            if not verdict.agrees and verdict.join.event is not None:
                far = f"{abs(verdict.off)} frames {'later' if verdict.off > 0 else 'earlier'} than"
                how = f"{far} the film’s seam" if verdict.seam else "has no seam in the film"
                off.append(f"event {verdict.join.event.number}: {how}")
        said += _summed(off, len(off), "joins")
    else:
        said = [taking.told(project, source.id, fit.offset, use)[0]]
    said += misgivings(listed, joins, source.media, fit.offset)
    project = taking.take(project, source.id, fit.offset, use)
    said += _summed([str(t) for t in listed.troubles], listed.lost + listed.odd, "lines")
    for words in said:
        warn(f"{listed.name}: {words}")
    return project


def _summed(said: list[str], whole: int, what: str) -> list[str]:
    """Return the first of what is said, and how many there are more."""
    more = whole - min(len(said), _TOLD)
    return said[:_TOLD] + ([f"and {more:,} more {what}"] if more > 0 else [])
