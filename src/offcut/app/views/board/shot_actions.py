"""What is done to the shots chosen on the Board, and to scenes and running orders."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from offcut.app.session.session import Session
from offcut.app.views.board.board_shots import ORDER, BoardShots
from offcut.core.board.from_library import TakenShot
from offcut.core.board.rows import BoardRow
from offcut.core.model.orders import shots_meant
from offcut.core.model.project import OrderUse, Project, ShotRef
from offcut.core.model.scene_look import Pattern, Tint
from offcut.core.model.verbs.cards import name_shots, note_shots, set_aside, wave_away
from offcut.core.model.verbs.folding import fold_shots
from offcut.core.model.verbs.orders import (
    add_order,
    copy_order,
    fill_instead,
    make_shot_of,
    move_uses,
    name_piece,
    order_to_fill,
    put_uses,
    remove_order,
    rename_order,
    step_uses,
    take_out_of_order,
    trim_use,
    untrim_use,
)
from offcut.core.model.verbs.scenes import (
    arrange_scenes,
    join_scenes,
    put_shots_in_scene,
    remove_scene,
    rename_scene,
    scene_named,
    set_scene_look,
)
from offcut.core.words import many


class ShotActions:
    """Every action is one edit, and one step to undo."""

    def __init__(self, session: Session, shots: BoardShots) -> None:
        self._s = session
        self._b = shots

    def _refs(self) -> tuple[ShotRef, ...]:
        refs = self._b.chosen_refs
        if not refs:
            self._s.said.emit("Choose shots first")
        return refs

    def _words(self, refs: Sequence[ShotRef]) -> str:
        """Say which shots are meant: one by its name, several by their number."""
        if len(refs) != 1:
            return many(len(refs), "shot")
        row = next((r for r in self._b.chosen_rows if r.ref == refs[0]), None)
        return row.title if row is not None else "the shot"

    # cards

    def set_aside(self) -> None:
        """Set the chosen shots aside; where all are, take them back."""
        refs = self._refs()
        if not refs:
            return
        rows = [r for r in self._b.chosen_rows if r.shot is not None]
        aside = not all(r.shot.card.set_aside for r in rows if r.shot is not None)
        what = self._words(refs)
        words = f"Set {what} aside" if aside else f"Take {what} back"
        places = [self._b.places[r.key] for r in rows if r.key in self._b.places]
        self._s.edit_project(lambda p: set_aside(p, refs, aside), words)
        if aside and places and not self._b.chosen_rows:
            self._b.step(min(places))

    def put_aside(self, refs: Sequence[ShotRef], aside: bool = True) -> None:
        """Set shots aside that were dropped into the bag, or take them back out of it."""
        words = f"Set {self._words(refs)} aside" if aside else f"Take {self._words(refs)} back"
        self._s.edit_project(lambda p: set_aside(p, refs, aside), words)

    def fold(self, way: int = -1) -> None:
        """Fold the chosen shots into the ones before them, or after."""
        refs = self._refs()
        if not refs:
            return
        ways: dict[int, dict[int, int]] = {}
        for source, shot in shots_meant(self._s.project, refs):  # whole, however they are used
            ways.setdefault(source.id, {})[shot.start] = way

        def verb(project: Project) -> Project:
            for source_id, frames in ways.items():
                project = fold_shots(project, source_id, frames)
            return project

        where = "after" if way > 0 else "before"
        what = self._words(refs)
        places = [self._b.places[r.key] for r in self._b.chosen_rows if r.key in self._b.places]
        self._s.edit_project(verb, f"Fold {what} into the shot {where}")
        if places and not self._b.chosen_rows:
            self._b.step(max(0, min(places) + min(0, way)))

    def name(self, name: str) -> None:
        """Name the chosen shots, or the chosen piece."""
        pieces = [r for r in self._b.chosen_rows if r.use is not None and r.use.shot is None]
        order = self._b.order
        if order is not None and len(pieces) == 1 and len(self._b.chosen) == 1:
            use_id = pieces[0].use.id if pieces[0].use else 0
            self._s.edit_project(lambda p: name_piece(p, order.id, use_id, name), "Name a piece")
            return
        refs = self._b.chosen_refs
        if refs:
            words = f"Name {self._words(refs)}"
            self._s.edit_project(lambda p: name_shots(p, dict.fromkeys(refs, name)), words)

    def name_all(self, names: Mapping[ShotRef, str]) -> None:
        """Name many shots, each as it is said."""
        self._s.edit_project(lambda p: name_shots(p, names), f"Name {many(len(names), 'shot')}")

    def name_one(self, ref: ShotRef, name: str) -> None:
        """Name one shot."""
        self._s.edit_project(lambda p: name_shots(p, {ref: name}), "Name a shot")

    def note(self, note: str, refs: Sequence[ShotRef] | None = None) -> None:
        """Note the same about the chosen shots."""
        meant = tuple(self._b.chosen_refs if refs is None else refs)
        if meant:
            words = f"Note about {self._words(meant)}"
            self._s.edit_project(lambda p: note_shots(p, meant, note), words)

    # scenes

    def put_in_scene(self, name: str, refs: Sequence[ShotRef] | None = None) -> None:
        """Put shots into the scene of a name, made where there is none; into none for no name."""
        meant = tuple(self._b.chosen_refs if refs is None else refs)
        if not meant:
            return
        where = f"into “{name.strip()}”" if name.strip() else "into no scene"
        words = f"Put {self._words(meant)} {where}"
        self._s.edit_project(lambda p: put_shots_in_scene(p, meant, name), words)

    def new_scene(self, refs: Sequence[ShotRef] = ()) -> int:
        """Make a scene of shots, or an empty one; return its id."""
        taken = {s.name for s in self._s.project.scenes}
        number = len(taken) + 1
        while f"Scene {number}" in taken:
            number += 1
        made, name = self._s.project.next_id, f"Scene {number}"
        words = f"Make a scene of {self._words(refs)}" if refs else "Make a scene"
        self._s.edit_project(
            lambda p: put_shots_in_scene(scene_named(p, name)[0], refs, name), words
        )
        return made

    def rename_scene(self, scene_id: int, name: str) -> bool:
        """Give a scene another name; where another has it, the two are joined."""
        words = f"Rename the scene to {name}"
        other = next((s for s in self._s.project.scenes if s.name == name.strip()), None)
        if other is not None and other.id != scene_id:
            self.join_scenes([other.id, scene_id])
            return True
        return self._s.edit_project(lambda p: rename_scene(p, scene_id, name), words)

    def look_of_scene(self, scene_id: int, pattern: Pattern, tint: Tint) -> None:
        """Give a scene's band another pattern and tint."""
        words = "Change the look of a scene"
        self._s.edit_project(lambda p: set_scene_look(p, scene_id, pattern, tint), words)

    def arrange_scenes(self, ids: Sequence[int]) -> None:
        """Give the scenes another order."""
        self._s.edit_project(lambda p: arrange_scenes(p, ids), "Arrange the scenes")

    def join_scenes(self, ids: Sequence[int]) -> None:
        """Join scenes into the first one."""
        name = self._s.project.scene_name(ids[0])
        self._s.edit_project(lambda p: join_scenes(p, ids), f"Join scenes into {name}")

    def remove_scene(self, scene_id: int) -> None:
        """Take a scene away; its shots stay."""
        words = f"Remove the scene {self._s.project.scene_name(scene_id)}"
        self._s.edit_project(lambda p: remove_scene(p, scene_id), words)

    def wave_away(self, refs: Sequence[ShotRef]) -> None:
        """Suggest these shots no more."""
        self._s.edit_project(lambda p: wave_away(p, refs), "Wave a suggestion away")

    def take_suggestion(self, refs: Sequence[ShotRef]) -> None:
        """Put shots that look alike into one scene: the one most of them are in, or a new one."""
        rows = [r for r in self._b.all_rows if r.ref in set(refs)]
        scenes = [r.scene for r in rows if r.scene]
        if scenes:
            name = self._s.project.scene_name(max(set(scenes), key=scenes.count))
        else:
            named = next((r.shot.card.name for r in rows if r.shot and r.shot.card.name), "")
            taken = {s.name for s in self._s.project.scenes}
            number = len(taken) + 1
            while f"Place {number}" in taken:
                number += 1
            name = named if named and named not in taken else f"Place {number}"
        self.put_in_scene(name, refs)

    # running orders

    def new_order(self) -> int:
        """Make a running order of what is chosen and take it in hand; return its id.

        What is chosen in a running order keeps its in and out.
        """
        made = self._s.project.next_id
        uses = [_use_of(r) for r in self._b.chosen_rows if r.shot is not None]
        self._s.edit_project(lambda p: put_uses(add_order(p), made, uses), "Make a running order")
        self._s.take_order(made)
        return made

    def put_in_order(self, place: int | None = None, refs: Sequence[ShotRef] | None = None) -> None:
        """Put the chosen shots into the running order in hand, which is made where there is none.

        Their use is the whole shot; uses chosen in a running order keep their in and out.
        """
        if refs is not None:
            uses = [OrderUse(0, r.source, r) for r in refs]
        else:
            uses = [_use_of(r) for r in self._b.chosen_rows if r.shot is not None]
        if not uses:
            self._refs()
            return
        self.put_uses(uses, place)

    def put_uses(
        self, uses: Sequence[OrderUse], place: int | None = None, instead: int | None = None
    ) -> None:
        """Put uses into the running order in hand: at a place, or instead of another use."""
        in_hand = self._s.order_id

        def verb(project: Project) -> Project:
            project, order_id = order_to_fill(project, in_hand)
            if instead is not None:
                return fill_instead(project, order_id, instead, uses)
            return put_uses(project, order_id, uses, place)

        what = many(len(uses), "shot")
        if self._s.edit_project(verb, f"Put {what} into a running order"):
            self._s.take_order(order_to_fill(self._s.project, in_hand)[1])

    def put_in_taken(self, taken: TakenShot, words: str) -> None:
        """Take a shot of another project in and put it into the running order, as one edit."""
        project, order_id = order_to_fill(taken.project, self._s.order_id)
        filled = put_uses(project, order_id, [taken.use])
        if self._s.edit_project(lambda _p: filled, words):
            self._s.take_order(order_id)

    def rename_order(self, order_id: int, name: str) -> None:
        """Give a running order another name."""
        words = f"Rename the running order to {name}"
        self._s.edit_project(lambda p: rename_order(p, order_id, name), words)

    def remove_order(self, order_id: int) -> None:
        """Take a running order away; its shots stay."""
        words = f"Remove the running order {self._s.project.order(order_id).name}"
        self._s.edit_project(lambda p: remove_order(p, order_id), words)

    def copy_order(self, order_id: int) -> None:
        """Make another running order of the same uses, and take it in hand."""
        made = self._s.project.next_id
        if self._s.edit_project(lambda p: copy_order(p, order_id), "Copy a running order"):
            self._s.take_order(made)

    def _uses(self) -> list[int]:
        return [r.use.id for r in self._b.chosen_rows if r.use is not None]

    def take_out(self) -> None:
        """Take the chosen uses out of the running order."""
        order, uses = self._b.order, self._uses()
        if order is None or not uses:
            self._s.said.emit("Open a running order and choose what goes")
            return
        place = min(self._b.places.get(u, 0) for u in uses)
        words = f"Take {many(len(uses), 'shot')} out of {order.name}"
        self._s.edit_project(lambda p: take_out_of_order(p, order.id, uses), words)
        self._b.step(place)

    def step_order(self, way: int) -> None:
        """Move the chosen uses a place earlier or later."""
        order, uses = self._b.order, self._uses()
        if order is not None and uses:
            self._s.edit_project(
                lambda p: step_uses(p, order.id, uses, way), f"Arrange {order.name}"
            )

    def move_to(self, place: int, uses: Sequence[int] | None = None) -> None:
        """Move uses of the running order before another place."""
        order = self._b.order
        moving = list(self._uses() if uses is None else uses)
        if order is not None and moving:
            self._s.edit_project(
                lambda p: move_uses(p, order.id, moving, place), f"Arrange {order.name}"
            )

    def drop_into_order(self, refs: Sequence[ShotRef], uses: Sequence[int], place: int) -> None:
        """Take what was dropped before a place of the order shown: its own uses are moved."""
        known = {r.use.id for r in self._b.rows if r.use is not None}
        if uses and known.issuperset(uses):
            self.move_to(place, uses)
        else:
            self.put_in_order(place, refs)

    def trim(self, first: int = 0, last: int = 0) -> None:
        """Move the in or the out of the chosen uses by frames."""
        order, uses = self._b.order, self._uses()
        if order is None or not uses:
            self._s.said.emit("Open a running order and choose a shot: its in and out are trimmed")
            return

        def verb(project: Project) -> Project:
            for use_id in uses:
                project = trim_use(project, order.id, use_id, first, last)
            return project

        what = "in" if first else "out"
        if not self._s.edit_project(verb, f"Trim the {what} of {many(len(uses), 'shot')}"):
            self._s.said.emit("The film has no more frames there")
        row = self._b.row_of(self._b.current)
        if row is not None and row.shot is not None and row.source is not None:
            self._s.take_in_hand(row.source.id)
            self._s.go_to(row.shot.start if first else row.shot.end - 1)

    def untrim(self) -> None:
        """Give the chosen uses their whole shots again."""
        order, uses = self._b.order, self._uses()
        if order is None:
            return

        def verb(project: Project) -> Project:
            for use_id in uses:
                project = untrim_use(project, order.id, use_id)
            return project

        self._s.edit_project(verb, f"Give {many(len(uses), 'shot')} the whole length again")

    def make_shots(self) -> None:
        """Make the chosen pieces shots: seams are placed at their ends."""
        order = self._b.order
        uses = [r.use.id for r in self._b.chosen_rows if r.use is not None and r.use.shot is None]
        if order is None or not uses:
            self._s.said.emit("Choose a piece in a running order first")
            return

        def verb(project: Project) -> Project:
            for use_id in uses:
                project = make_shot_of(project, order.id, use_id)
            return project

        self._s.edit_project(verb, f"Make {many(len(uses), 'piece')} a shot")

    def show_order(self, order_id: int) -> None:
        """Take a running order in hand and show it."""
        self._s.take_order(order_id)
        self._b.show_group(ORDER)


def _use_of(row: BoardRow) -> OrderUse:
    """Return a use like a row: that of a running order, or the whole shot."""
    if row.use is not None:
        return replace(row.use, id=0)
    assert row.ref is not None
    return OrderUse(0, row.ref.source, row.ref)
