"""Ruled: what was found with what a person says put in its place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from offcut.core.model.orders import shot_of
from offcut.core.model.project import Project, Ruling
from offcut.core.model.seam import Certainty, Reason
from offcut.core.tally.versions.by_list import with_moves
from offcut.core.tally.versions.changes import Change, Comparison, Span, What, in_order

_SAID = Reason("said by hand", code="hand")


def with_rulings(comparison: Comparison, project: Project, old_id: int, new_id: int) -> Comparison:
    """Return what became of each shot, with what was ruled on it.

    A shot of the old version that loses its shot to a ruling is gone; one that gets one is not.
    """
    ruled: dict[Span, tuple[Span | None, Ruling]] = {}
    for ruling in project.rulings:
        if ruling.against != old_id or ruling.new.source != new_id:
            continue
        new = shot_of(project, ruling.new)
        old = shot_of(project, ruling.old) if ruling.old is not None else None
        if new is not None and (old is not None or ruling.old is None):
            span = (old.start, old.end) if old is not None else None
            ruled[(new.start, new.end)] = span, ruling
    if not ruled:
        return comparison
    taken = {old for old, _ in ruled.values() if old is not None}
    rows: list[Change] = []
    lost: list[Span] = []
    for change in comparison.changes:
        if change.new is None:
            continue
        if change.new in ruled:
            said, ruling = ruled[change.new]
            if change.old is not None and change.old != said and change.old not in taken:
                lost.append(change.old)
            rows.append(_ruled(change, said, ruling))
        elif change.old is not None and change.old in taken:
            why = Reason("its shot was tied to another by hand", code="hand")
            rows.append(Change(What.NEW, None, change.new, reasons=(why,)))
        else:
            rows.append(change)
    still = {c.old for c in rows}
    gone = [
        c for c in comparison.changes if c.new is None and c.old not in taken and c.old not in still
    ]
    gone += [Change(What.GONE, span, None, reasons=(_SAID,)) for span in lost if span not in still]
    return replace(comparison, changes=in_order(with_moves(rows), gone))


def _ruled(change: Change, old: Span | None, ruling: Ruling) -> Change:
    """Return a change as it was ruled; where a person agrees with what was found it is sure now."""
    assert change.new is not None
    if old == change.old and ruling.offset in (None, change.offset):
        reasons = (*(r for r in change.reasons if not r.against), _SAID)
        return replace(change, certainty=Certainty.SURE, reasons=reasons, by_hand=True)
    if old is None:
        return Change(What.NEW, None, change.new, reasons=(_SAID,), by_hand=True)
    offset = ruling.offset
    if offset is None:
        offset = old[0] - change.new[0]
    head = old[0] - offset - change.new[0]
    tail = change.new[1] - (old[1] - offset)
    what = What.SAME
    if head or tail:
        what = What.LONGER if head + tail > 0 else What.SHORTER
    return Change(
        what, old, change.new, head, tail, change.moved, Certainty.SURE, (_SAID,), offset=offset,
        by_hand=True,
    )  # fmt: skip


def doubt_first(changes: Sequence[Change]) -> list[Change]:
    """Return what happened to shots in the order in which it is worth a look: the doubtful ones
    first, then what changed, as the new version has it; shots that are the same are left out unless
    they are in doubt.
    """
    rank = {Certainty.DOUBTFUL: 0, Certainty.LIKELY: 1, Certainty.SURE: 2}
    shown = [c for c in changes if not c.alike or (c.certainty is not Certainty.SURE)]
    return sorted(shown, key=lambda c: 3 if c.by_hand else rank[c.certainty])
