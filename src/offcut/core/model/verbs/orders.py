"""Running orders: made, named, filled and re-arranged."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from offcut.core.errors import OffcutError
from offcut.core.model.project import Order, Project, ShotRef
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
    made = Order(project.next_id, wanted, tuple(shots))
    return replace(project, orders=(*project.orders, made), next_id=project.next_id + 1)


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


def arrange_order(project: Project, order_id: int, shots: Sequence[ShotRef]) -> Project:
    """Give a running order these shots in this order."""
    return _with(project, replace(project.order(order_id), shots=tuple(shots)))


def put_in_order(
    project: Project, order_id: int, shot: ShotRef, place: int | None = None
) -> Project:
    """Put a shot into a running order, at its end or before a place counted from 0."""
    order = project.order(order_id)
    at = len(order.shots) if place is None else max(0, min(len(order.shots), place))
    return arrange_order(project, order_id, (*order.shots[:at], shot, *order.shots[at:]))


def take_out_of_order(project: Project, order_id: int, place: int) -> Project:
    """Take the shot at a place, counted from 0, out of a running order."""
    order = project.order(order_id)
    if not 0 <= place < len(order.shots):
        raise OffcutError(f"the running order {order.name} has no place {place + 1}")
    return arrange_order(project, order_id, (*order.shots[:place], *order.shots[place + 1 :]))


def _with(project: Project, order: Order) -> Project:
    if order == project.order(order.id):
        return project
    return replace(project, orders=tuple(order if o.id == order.id else o for o in project.orders))
