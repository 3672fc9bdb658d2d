"""Running orders: made, named, filled, trimmed and re-arranged."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.orders import UsedShot, uses_of
from offcut.core.model.project import Order, OrderUse, Project, ShotRef
from offcut.core.model.shots import shot_at, shots_of
from offcut.core.model.verbs.cards import name_shot
from offcut.core.model.verbs.placing import place_seam
from offcut.core.model.verbs.replacing import clean_name


def add_order(project: Project, name: str = "", shots: Sequence[ShotRef] = ()) -> Project:
    """Make a running order; without a name it gets the next number. Its id is ``next_id``."""
    taken = {o.name for o in project.orders}
    wanted = clean_name(name)
    number = len(project.orders) + 1
    while not wanted or wanted in taken:
        base = clean_name(name) or "Running order"
        wanted = f"{base} {number}"
        number += 1
    made = Order(project.next_id, wanted)
    with_order = replace(project, orders=(*project.orders, made), next_id=project.next_id + 1)
    return put_in_order(with_order, made.id, shots)


def order_to_fill(project: Project, order_id: int, name: str = "") -> tuple[Project, int]:
    """Return a project that has a running order to fill, and its id.

    It is the one of that id, else the last one, else a new one of that name.
    """
    if any(o.id == order_id for o in project.orders):
        return project, order_id
    if project.orders:
        return project, project.orders[-1].id
    return add_order(project, name), project.next_id


def rename_order(project: Project, order_id: int, name: str) -> Project:
    """Give a running order another name. OffcutError where that is empty."""
    wanted = clean_name(name)
    if not wanted:
        raise OffcutError("a running order needs a name")
    return _with(project, replace(project.order(order_id), name=wanted))


def remove_order(project: Project, order_id: int) -> Project:
    """Take a running order away; its shots stay."""
    project.order(order_id)
    return replace(project, orders=tuple(o for o in project.orders if o.id != order_id))


def copy_order(project: Project, order_id: int) -> Project:
    """Make another running order of the same uses. Its id is ``next_id``."""
    order = project.order(order_id)
    made = project.next_id
    return put_uses(add_order(project, order.name), made, order.uses)


def put_in_order(
    project: Project, order_id: int, shots: Sequence[ShotRef], place: int | None = None
) -> Project:
    """Put shots into a running order, at its end or before a place counted from 0."""
    return put_uses(project, order_id, [OrderUse(0, r.source, r) for r in shots], place)


def put_uses(
    project: Project, order_id: int, uses: Sequence[OrderUse], place: int | None = None
) -> Project:
    """Put uses into a running order, each with an id of its own."""
    if not uses:
        return project
    order = project.order(order_id)
    at = len(order.uses) if place is None else max(0, min(len(order.uses), place))
    fresh = tuple(replace(u, id=n) for n, u in enumerate(uses, start=project.next_id))
    filled = replace(order, uses=(*order.uses[:at], *fresh, *order.uses[at:]))
    return replace(_with(project, filled), next_id=project.next_id + len(fresh))


def keep_piece(
    project: Project,
    order_id: int,
    source_id: int,
    start: int,
    end: int,
    place: int | None = None,
    name: str = "",
) -> Project:
    """Put frames [start, end) of a film into a running order, whatever its seams say.

    Raises OffcutError for frames that the film does not have.
    """
    frames = project.source(source_id).media.frames
    if not 0 <= start < end <= frames:
        raise OffcutError("a piece must lie inside the film")
    piece = OrderUse(0, source_id, None, start, end, clean_name(name))
    return put_uses(project, order_id, [piece], place)


def fill_instead(project: Project, order_id: int, use_id: int, uses: Sequence[OrderUse]) -> Project:
    """Put uses in the place of another, which goes."""
    place = _place(project.order(order_id), use_id)
    filled = put_uses(project, order_id, uses, place)
    return take_out_of_order(filled, order_id, [use_id])


def take_out_of_order(project: Project, order_id: int, use_ids: Iterable[int]) -> Project:
    """Take uses out of a running order; those it does not have are passed over."""
    order, gone = project.order(order_id), set(use_ids)
    return _with(project, replace(order, uses=tuple(u for u in order.uses if u.id not in gone)))


def arrange_order(project: Project, order_id: int, uses: Sequence[OrderUse]) -> Project:
    """Give a running order these uses in this order; those with id 0 get one of their own."""
    fresh = project.next_id
    arranged = []
    for use in uses:
        arranged.append(use if use.id else replace(use, id=fresh))
        fresh += not use.id
    changed = _with(project, replace(project.order(order_id), uses=tuple(arranged)))
    return replace(changed, next_id=fresh) if changed is not project else project


def move_uses(project: Project, order_id: int, use_ids: Iterable[int], place: int) -> Project:
    """Move uses together so that they stand before what stands at a place now, counted from 0."""
    order, moving = project.order(order_id), set(use_ids)
    at = max(0, min(len(order.uses), place))
    before = [u for u in order.uses[:at] if u.id not in moving]
    after = [u for u in order.uses[at:] if u.id not in moving]
    moved = [u for u in order.uses if u.id in moving]
    return _with(project, replace(order, uses=(*before, *moved, *after)))


def step_uses(project: Project, order_id: int, use_ids: Iterable[int], way: int) -> Project:
    """Move uses a place earlier (-1) or later (1); at an end they stay."""
    order, moving = project.order(order_id), set(use_ids)
    uses = list(order.uses)
    places = [n for n, u in enumerate(uses) if u.id in moving]
    for n in places if way < 0 else reversed(places):
        to = n + way
        if 0 <= to < len(uses) and uses[to].id not in moving:
            uses[n], uses[to] = uses[to], uses[n]
    return _with(project, replace(order, uses=tuple(uses)))


def trim_use(
    project: Project, order_id: int, use_id: int, first: int = 0, last: int = 0
) -> Project:
    """Move the in and the out of one use by so many frames; the shot itself stays.

    They stop at the ends of the film, and a frame is left at least.
    """
    shown = _shown(project, order_id, use_id)
    if shown.shot is None or shown.source is None:
        return project
    frames = shown.source.media.frames
    start = max(0, min(shown.shot.start + first, shown.shot.end - 1)) if first else shown.shot.start
    end = min(frames, max(shown.shot.end + last, start + 1)) if last else shown.shot.end
    return set_use(project, order_id, use_id, start, end)


def set_use(project: Project, order_id: int, use_id: int, start: int, end: int) -> Project:
    """Give one use an in and an out of its own; an end that is the shot's follows the shot.

    Raises OffcutError for frames that the film does not have.
    """
    shown = _shown(project, order_id, use_id)
    if shown.source is None or not 0 <= start < end <= shown.source.media.frames:
        raise OffcutError("the in and out must lie inside the film, the in first")
    whole = shown.whole
    own_start = None if whole is not None and start == whole.start else start
    own_end = None if whole is not None and end == whole.end else end
    return _changed(project, order_id, replace(shown.use, start=own_start, end=own_end))


def untrim_use(project: Project, order_id: int, use_id: int) -> Project:
    """Give one use the whole shot again."""
    use = project.order(order_id).use(use_id)
    if use.shot is None:
        return project
    return _changed(project, order_id, replace(use, start=None, end=None))


def name_piece(project: Project, order_id: int, use_id: int, name: str) -> Project:
    """Name a piece."""
    use = project.order(order_id).use(use_id)
    return _changed(project, order_id, replace(use, name=clean_name(name)))


def make_shot_of(project: Project, order_id: int, use_id: int) -> Project:
    """Make a piece a shot: seams are placed at its ends, and its use is one of that shot then.

    Its name goes to the shot. Raises OffcutError where seams lie inside it.
    """
    use = project.order(order_id).use(use_id)
    if use.shot is not None or use.start is None or use.end is None:
        return project
    source = project.source(use.source)
    if not source.start <= use.start < use.end <= source.end:
        raise OffcutError("the piece lies outside the range that is searched")
    start, end = use.start, use.end
    for frame in (start, end):
        if source.start < frame < source.end:
            project = place_seam(project, use.source, frame)
    shot = shot_at(shots_of(project.source(use.source)), start)
    if shot is None or (shot.start, shot.end) != (start, end):
        raise OffcutError("seams lie inside the piece: strike them first, or keep it as a piece")
    ref = ShotRef(use.source, shot.opened_by.id if shot.opened_by else 0)
    made = _changed(project, order_id, OrderUse(use.id, use.source, ref))
    if use.name and not shot.card.name:
        made = name_shot(made, use.source, start, use.name)
    return made


def _shown(project: Project, order_id: int, use_id: int) -> UsedShot:
    order = project.order(order_id)
    return uses_of(project, replace(order, uses=(order.use(use_id),)))[0]


def _place(order: Order, use_id: int) -> int:
    return order.uses.index(order.use(use_id))


def _changed(project: Project, order_id: int, use: OrderUse) -> Project:
    order = project.order(order_id)
    return _with(
        project, replace(order, uses=tuple(use if u.id == use.id else u for u in order.uses))
    )


def _with(project: Project, order: Order) -> Project:
    if order == project.order(order.id):
        return project
    return replace(project, orders=tuple(order if o.id == order.id else o for o in project.orders))
