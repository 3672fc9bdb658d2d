"""The commands of the shell itself: files, films, undo, the window and its helpers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from offcut.app.commands.actions import Command
from offcut.app.session.project_files import ProjectFiles
from offcut.app.session.session import Session
from offcut.app.shared.ribbon.ribbon import Ribbon
from offcut.app.shell.file_dialogs import FileDialogs
from offcut.app.shell.status_bar import StatusBar
from offcut.app.shell.troubles import Troubles
from offcut.app.views.description import View


@dataclass(frozen=True)
class WindowDoings:
    """What the window itself can do."""

    close: Callable[[], object]
    stop_work: Callable[[], None]
    turn_full: Callable[[], None]
    turn_theme: Callable[[], None]
    open_view: Callable[[str], object]
    open_finder: Callable[[], None]
    open_keys: Callable[[], None]
    open_settings: Callable[[], None]
    open_framing: Callable[[], None]
    turn_proxy: Callable[[], None]


def file_commands(session: Session, dialogs: FileDialogs, files: ProjectFiles,
                  troubles: Troubles, window: WindowDoings) -> list[Command]:  # fmt: skip
    """Return the table of files and films."""
    c, s, d = Command, session, dialogs
    return [
        c("open-film", "Open films…", ("Ctrl+O",), "File", d.ask_films, False),
        c("paste-films", "Bring in what the clipboard names", ("Ctrl+V",), "File", d.paste, False),
        c("open-folder", "Open a folder of films…", ("Ctrl+Alt+O",), "File", d.ask_folder, False),
        c("open-project", "Open a project…", ("Ctrl+Shift+O",), "File", d.ask_project, False),
        c("new-project", "New project", ("Ctrl+N",), "File", d.new_project, False),
        c("save", "Save", ("Ctrl+S",), "File", d.save),
        c("save-as", "Save as…", ("Ctrl+Shift+S",), "File", d.save_as),
        c("by-list", "Cut by a list…", ("Ctrl+L",), "File", d.ask_list_in),
        c("cuts-out", "Hand the cuts alone to a colleague…", (), "File", d.ask_cuts_out),
        c("cuts-merge", "Merge a colleague’s cuts…", (), "File", partial(d.ask_cuts_in, True)),
        c(
            "cuts-replace",
            "Replace by a colleague’s cuts…",
            (),
            "File",
            partial(d.ask_cuts_in, False),
        ),
        c(
            "find-films",
            "Look for missing films in a folder…",
            (),
            "File",
            troubles.ask_folder,
            True,
            lambda: s.film_missing,
        ),
        *(
            c(
                f"film-{where}",
                f"To the film {where}",
                (f"Ctrl+{key}",),
                "Film",
                partial(s.step_film, way),
                True,
                lambda: len(s.project.sources) > 1,
            )
            for where, key, way in (("after", "PgDown", 1), ("before", "PgUp", -1))
        ),
        c(
            "take-film-out",
            "Remove this film from the project",
            (),
            "Film",
            lambda: files.take_film_out(s.in_hand),
        ),
        c(
            "take-films-out",
            "Remove the chosen films from the project",
            (),
            "Film",
            files.take_chosen_out,
        ),
        c("framing", "Framing, and black bars…", (), "Film", window.open_framing),
        c("quit", "Close Offcut", ("Ctrl+Q",), "File", window.close, False),
        c("undo", "Undo", ("Ctrl+Z",), "Edit", s.undo, False, lambda: bool(s.history.undoable)),
        c(
            "redo",
            "Redo",
            ("Ctrl+Shift+Z", "Ctrl+Y"),
            "Edit",
            s.redo,
            False,
            lambda: bool(s.history.redoable),
        ),
        c("stop", "Stop the work under way", ("Esc",), "File", window.stop_work, False),
    ]


def window_commands(session: Session, ribbon: Ribbon, status: StatusBar, views: tuple[View, ...],
                    window: WindowDoings) -> list[Command]:  # fmt: skip
    """Return the table of what is seen, and of help."""
    c, w = Command, window

    def type_roll() -> None:
        if session.seam_here() is None:
            session.said.emit("Park on a seam to roll it")
        else:
            status.type_roll()

    return [
        c("timecode", "Type a timecode to go to", ("T",), "Walk", status.type_place),
        c("roll-to", "Roll to a timecode typed", ("Y",), "Seam", type_roll),
        c("full", "The picture on the whole screen", ("F11",), "View", w.turn_full),
        c("proxy", "Show proxies, or the films themselves", ("E",), "View", w.turn_proxy),
        c("zoom-in", "Zoom the ribbon in", ("Ctrl+Up",), "View", partial(ribbon.zoom, 1.6)),
        c("zoom-out", "Zoom the ribbon out", ("Ctrl+Down",), "View", partial(ribbon.zoom, 0.625)),
        c("ribbon-fit", "Fit the film on the ribbon", ("Ctrl+Home",), "View", ribbon.whole_film),
        *(
            c(
                f"view-{v.id}",
                v.title,
                (f"Ctrl+{v.place}",),
                "View",
                partial(w.open_view, v.id),
                False,
            )
            for v in views
        ),
        c("theme", "Change between Day and Night", ("Ctrl+T",), "View", w.turn_theme, False),
        c("settings", "Settings…", ("Ctrl+,",), "View", w.open_settings, False),
        c("finder", "Find a command", ("Ctrl+K",), "Help", w.open_finder, False),
        c("keys", "All keys, and change them", ("F1",), "Help", w.open_keys, False),
    ]
