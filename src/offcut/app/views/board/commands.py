"""The commands of the Board. Their keys are in force while it is open."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from offcut.app.commands.actions import Command
from offcut.app.views.board.tools_row import LAYOUTS
from offcut.app.views.board.view import BoardView
from offcut.app.views.description import ViewContext

BOARD = "board"
SHOTS, WALK, LOOK = "Shots on the Board", "Walk on the Board", "Look of the Board"
SCENES, ORDERS = "Scenes", "Running orders"


def _show_layout(name: str, view: BoardView) -> None:
    view.show_layout(name)


def _sort_by(sort: str, view: BoardView) -> None:
    view.shots.sort_by(sort)


def _move(how: str, way: int, upto: bool, view: BoardView) -> None:
    getattr(view, how)(way, upto=upto)


def commands(context: ViewContext, view: Callable[[], BoardView]) -> list[Command]:
    """Return the table; ``view`` opens the view and returns it."""

    def c(name: str, words: str, keys: tuple[str, ...], run: Callable[[BoardView], object],
          group: str = SHOTS, needs_film: bool = True) -> Command:  # fmt: skip
        return Command(
            f"board-{name}", words, keys, group, lambda: run(view()), needs_film, None, BOARD
        )

    walking = [
        c(
            f"{name}{'-upto' if upto else ''}",
            f"{words}{', choosing as it goes' if upto else ''}",
            tuple(f"Shift+{k}" if upto else k for k in keys),
            partial(_move, move, way, upto),
            WALK,
        )
        for upto in (False, True)
        for name, words, keys, move, way in (
            ("left", "To the shot before", ("Left",), "step", -1),
            ("right", "To the shot after", ("Right",), "step", 1),
            ("up", "To the shot above", ("Up",), "step_line", -1),
            ("down", "To the shot below", ("Down",), "step_line", 1),
            ("home", "To the first shot", ("Home",), "step_end", -1),
            ("end", "To the last shot", ("End",), "step_end", 1),
        )
    ]
    return [
        c("play", "Play the chosen shots back to back", ("Space",), lambda v: v.play()),
        c("play-shown", "Play everything shown", ("Shift+Space",), lambda v: v.play_shown()),
        c("enter", "Open the shot’s first seam in Seams", ("Return", "Enter"),
          lambda v: v.enter()),
        c("find", "Find shots", ("Ctrl+F", "/"), lambda v: v.type_find()),
        c("everywhere", "Find in every project, or in this one", ("Ctrl+Shift+F",),
          lambda v: v.find_everywhere(), needs_film=False),
        *walking,
        c("all", "Choose everything shown", ("Ctrl+A",), lambda v: v.shots.choose_all()),
        c("name", "Name the chosen shots; Enter goes on to the next", ("N",),
          lambda v: v.name_here()),
        c("name-many", "Name by a pattern, or find and replace…", ("Ctrl+Shift+N",),
          lambda v: v.name_many()),
        c("scene", "Put the chosen shots into a scene", ("Ctrl+G",),
          lambda v: v.type_scene(), SCENES),
        c("aside", "Set the chosen shots aside, or take them back", ("A",),
          lambda v: v.actions_on.set_aside()),
        c("fold", "Fold the chosen shots into those before", ("F",),
          lambda v: v.actions_on.fold(-1)),
        c("fold-after", "Fold the chosen shots into those after", ("Shift+F",),
          lambda v: v.actions_on.fold(1)),
        c("new-scene", "Make a scene of the chosen shots", ("Ctrl+Shift+G",),
          lambda v: v.new_scene(), SCENES),
        c("group-after", "Show the scene or running order after", ("PgDown",),
          lambda v: v.step_group(1), SCENES),
        c("group-before", "Show the scene or running order before", ("PgUp",),
          lambda v: v.step_group(-1), SCENES),
        c("rename", "Rename the scene or running order shown", ("F2",),
          lambda v: v.rename_shown(), SCENES),
        c("scene-look", "Pattern and tint of the scene…", (), lambda v: v.scene_look(), SCENES),
        c("scene-up", "Move the scene up", ("Ctrl+Alt+Up",),
          lambda v: v.groups.step_scene(-1), SCENES),
        c("scene-down", "Move the scene down", ("Ctrl+Alt+Down",),
          lambda v: v.groups.step_scene(1), SCENES),
        c("scene-join", "Join the scene into the one before", (), lambda v: v.join_scene(), SCENES),
        c("scene-remove", "Remove the scene, its shots stay", (),
          lambda v: v.remove_scene(), SCENES),
        c("order", "Put the chosen shots into the running order", ("R",),
          lambda v: v.into_order(), ORDERS),
        c("new-order", "Make a running order of the chosen shots", ("Shift+R",),
          lambda v: v.new_order(), ORDERS),
        c("order-copy", "Copy the running order", (),
          lambda v: v.copy_order(), ORDERS),
        c("order-remove", "Remove the running order, its shots stay", (),
          lambda v: v.remove_order(), ORDERS),
        c("take-out", "Take the chosen shots out of the running order", ("Del",),
          lambda v: v.actions_on.take_out(), ORDERS),
        c("earlier", "Move a place earlier in the running order", ("Alt+Up", "Alt+Left"),
          lambda v: v.actions_on.step_order(-1), ORDERS),
        c("later", "Move a place later in the running order", ("Alt+Down", "Alt+Right"),
          lambda v: v.actions_on.step_order(1), ORDERS),
        c("in-earlier", "Its in a frame earlier", ("[",),
          lambda v: v.actions_on.trim(-1, 0), ORDERS),
        c("in-later", "Its in a frame later", ("]",), lambda v: v.actions_on.trim(1, 0), ORDERS),
        c("out-earlier", "Its out a frame earlier", ("Alt+[",),
          lambda v: v.actions_on.trim(0, -1), ORDERS),
        c("out-later", "Its out a frame later", ("Alt+]",),
          lambda v: v.actions_on.trim(0, 1), ORDERS),
        c("untrim", "The whole shot again", ("Shift+Del",),
          lambda v: v.actions_on.untrim(), ORDERS),
        c("fill-before", "Put what is marked before it", (), lambda v: v.fill(0), ORDERS),
        c("fill-after", "Put what is marked after it", (), lambda v: v.fill(1), ORDERS),
        c("fill-instead", "Put what is marked instead of it", (), lambda v: v.fill(None), ORDERS),
        c("make-shot", "Make the piece a shot, with seams at its ends", (),
          lambda v: v.actions_on.make_shots(), ORDERS),
        c("hand-over", "Hand over what is chosen", (), lambda v: v.hand_over_chosen()),
        *(
            c(name, f"Show the shots as a {words.lower()}", (),
              partial(_show_layout, name), LOOK)
            for name, words in LAYOUTS.items()
        ),
        c("layout", "Bin, sheet or table", ("W",), lambda v: v.next_layout(), LOOK),
        c("telling", "Show shots by the frame that tells most, or by their middle",
          ("Shift+W",), lambda v: v.shots.turn_telling(), LOOK),
        c("larger", "Pictures larger", ("Ctrl++", "Ctrl+="), lambda v: v.zoom(1.2), LOOK),
        c("smaller", "Pictures smaller", ("Ctrl+-",), lambda v: v.zoom(1 / 1.2), LOOK),
        *(
            c(f"sort-{sort}", f"Order by {words}", (),
              partial(_sort_by, sort), LOOK)
            for sort, words in (
                ("film", "the film"), ("length", "length"), ("name", "name"), ("scene", "scene"),
                ("light", "light"), ("likeness", "likeness to the chosen one"),
            )
        ),
    ]  # fmt: skip
