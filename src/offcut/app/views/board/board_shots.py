"""What the Board shows and what of it is chosen; the layouts and panels all look at this one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from operator import is_not

import numpy as np
from PySide6.QtCore import QObject, QSettings, Signal

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.session import Session
from offcut.app.views.board.shot_painting import frame_of_sheet
from offcut.core.board.rows import (
    SORTS,
    BoardRow,
    RowFinder,
    ordered,
    rows_of,
    rows_of_order,
)
from offcut.core.facts.in_shot import NOTHING, InShot
from offcut.core.facts.looks import ShotLook, likeness_to
from offcut.core.facts.query import Query, query_of
from offcut.core.model.orders import ref_of
from offcut.core.model.project import Order, ShotRef
from offcut.core.model.slivers import suggested_limit
from offcut.core.timecode import base_of

_BY_LENGTH_OR_LOOK = ("film", "length", "light", "likeness")
"""Orders that no card has a say in; of the film's own, shots lie by scenes."""
_FEW = 100

Key = ShotRef | int
EVERY, UNSORTED, ASIDE, ORDER = "every", "unsorted", "aside", "order"
Group = str | int
"""What is shown: every shot, those in no scene or set aside, an order, or a scene by its id."""


def _lying(row: BoardRow) -> tuple[object, ...]:
    """Return what says where a row lies and what is seen of it: all but the words of its card."""
    shot, source = row.shot, row.source
    of = (source.media, source.ticket, source.framing) if source is not None else ()
    if shot is None:
        return row.key, of
    aside = shot.card.set_aside
    return row.key, of, shot.number, shot.start, shot.end, row.clean_end, row.scene, aside


class BoardShots(QObject):
    """Rows, in their order, and which are chosen.

    Attributes: ``film`` the id of the film that is shown alone, 0 for all; ``group`` what is
    shown; ``query`` what was typed; ``sort`` by what rows are ordered (a running order has its
    own), ``back`` True the other way round; ``by_telling`` True where shots are shown by the frame
    that tells most; ``rows`` those shown, ``bag`` those set aside that lie
    below; ``chosen`` keys of rows in the order they were chosen, ``current`` the one that keys go
    on from; ``looks`` how shots look, as far as known.

    Signals: ``changed`` other rows, or in another order; ``renamed`` the same rows, some of whose
    cards say something else; ``chosen_changed``; ``current_changed``.
    """

    changed = Signal()
    renamed = Signal()
    chosen_changed = Signal()
    current_changed = Signal()

    def __init__(
        self, session: Session, settings: QSettings, facts: FactsInHand | None = None
    ) -> None:
        super().__init__()
        self._s = session
        self._facts = facts
        self._settings = settings
        self._finding = RowFinder()
        self.film = 0
        self.group: Group = EVERY
        self.query = Query()
        self.sort = str(settings.value("board-sort", "film"))
        if self.sort not in SORTS:
            self.sort = "film"
        self.by_telling = settings.value("board-telling", False, type=bool)
        self.back = False
        self.rows: tuple[BoardRow, ...] = ()
        self.bag: tuple[BoardRow, ...] = ()
        self.all_rows: tuple[BoardRow, ...] = ()
        self.places: dict[Key, int] = {}
        self.chosen: tuple[Key, ...] = ()
        self.current: Key | None = None
        self.looks: dict[ShotRef, tuple[tuple[int, int], ShotLook]] = {}
        self._anchor: Key | None = None
        self._like: ShotRef | None = None
        self._shown: tuple[object, ...] | None = None
        self._rows_of: object = None
        self.alive: Callable[[], bool] = lambda: True
        session.changed.connect(self.refresh)
        session.order_changed.connect(self.refresh)
        session.project_changed.connect(self._begin_again)
        session.picked_changed.connect(self._picked)
        if facts is not None:
            facts.known_changed.connect(self._facts_came)

    def inside(self, row: BoardRow) -> InShot:
        """Return what is known to be in the shot of a row."""
        return self._facts.in_shot(row.source, row.shot) if self._facts is not None else NOTHING

    def frame_of(self, row: BoardRow) -> int:
        """Return the frame that stands for a shot: its middle, or the one that tells most.

        Where nobody looked yet, and of a piece that is trimmed, it is the middle.
        """
        if self.by_telling and row.shot is not None:
            still = self.inside(row).still
            if still is not None and row.shot.start <= still < row.shot.end:
                return still
        return frame_of_sheet(row)

    def turn_telling(self) -> None:
        """Show shots by what tells most of them, or by their middle again."""
        self.by_telling = not self.by_telling
        self._settings.setValue("board-telling", self.by_telling)
        telling = "the frame that tells most, where films were looked through"
        self._s.said.emit(f"Shots are shown by {telling if self.by_telling else 'their middle'}")
        self.renamed.emit()

    def _shows(self, row: BoardRow) -> str:
        return self.inside(row).sought

    def _facts_came(self) -> None:
        """Look again where something is looked for; else what is shown says something else."""
        if self.query:
            self._shown = None
            self.refresh()
        elif self.alive():
            self.renamed.emit()

    def _begin_again(self) -> None:
        self.film, self.group = 0, EVERY
        self.chosen, self.current, self._anchor = (), None, None
        self.looks.clear()
        self._shown = None

    # what is shown

    def refresh(self) -> None:
        """Work out the rows anew, where the project or what is looked for changed."""
        if not self.alive():
            return
        s = self._s
        project = s.project
        if self.film and not project.holds(self.film):
            self.film = 0
        if isinstance(self.group, int) and project.scene(self.group) is None:
            self.group = EVERY
        if self.group == ORDER and s.order is None:
            self.group = EVERY
        told = (
            project.sources, project.scenes, project.orders, self.film, self.group, self.query,
            self.sort, self.back, s.order_id, s.sliver_limit, self._like,
        )  # fmt: skip
        if told == self._shown:
            return
        # where only the films are others, and nothing asked for all to be worked out anew
        only_films = self._shown is not None and told[1:] == self._shown[1:]
        self._shown = told
        before = self.all_rows
        if (project.sources, self.film) != self._rows_of:
            self._rows_of = project.sources, self.film
            self.all_rows = rows_of(project, self.film)
        renamed = self._renamed(before) if only_films else None
        if renamed is not None:
            self._put(renamed)
            return
        order = self.order
        if order is not None:
            rows = rows_of_order(project, order)
            self.bag = ()
            found = self._finding.found(rows, self.query, project, self._slivers(), self._shows)
        else:
            found = self._finding.found(
                self.all_rows, self.query, project, self._slivers(), self._shows
            )
            aside = tuple([r for r in found if r.shot is not None and r.shot.card.set_aside])
            found = self._of_group(found)
            self.bag = () if self.group == ASIDE or self._asks_aside() else aside
            found = ordered(found, self.sort, project, self._measure(), back=self.back)
        self.rows = found
        self.places = {row.key: n for n, row in enumerate(found)}
        bag = {r.key for r in self.bag}
        self._choose(tuple(k for k in self.chosen if k in self.places or k in bag))
        if self.current not in self.places and self.current not in bag:
            self.current = None
        self.changed.emit()

    def _renamed(self, before: tuple[BoardRow, ...]) -> list[BoardRow] | None:
        """Return the rows whose cards say something else, where nothing lies elsewhere for it.

        None where all is to be worked out anew.
        """
        many = len(before)
        if many != len(self.all_rows) or self.query or self.sort not in _BY_LENGTH_OR_LOOK:
            return None
        if self.order is not None:
            return None
        differ = np.fromiter(map(is_not, before, self.all_rows), np.bool_, many)
        found: list[BoardRow] = []
        for place in np.flatnonzero(differ).tolist():
            was, now = before[place], self.all_rows[place]
            if len(found) == _FEW or _lying(was) != _lying(now):
                return None
            found.append(now)
        return found

    def _put(self, rows: list[BoardRow]) -> None:
        """Put rows in the places of what they were."""
        shown, bag = list(self.rows), list(self.bag)
        for row in rows:
            place = self.places.get(row.key)
            if place is not None:
                shown[place] = row
            bag = [row if r.key == row.key else r for r in bag]
        self.rows, self.bag = tuple(shown), tuple(bag)
        self.renamed.emit()

    def prepare(self, begin: int, count: int) -> bool:
        """Fold the words of some rows, so that finding is at once; tell whether there are more."""
        rows = self.all_rows[begin : begin + count]
        self._finding.prepare(rows, self._s.project, self._slivers(), self._shows)
        return begin + count < len(self.all_rows)

    def _asks_aside(self) -> bool:
        return any(t.flag == "aside" and not t.without for t in self.query.terms)

    def _of_group(self, rows: Sequence[BoardRow]) -> tuple[BoardRow, ...]:
        """Return the rows that belong to what is shown."""
        cards = [(row, row.shot.card) for row in rows if row.shot is not None]
        if self.group == ASIDE:
            return tuple([row for row, card in cards if card.set_aside])
        if not self._asks_aside():
            cards = [(row, card) for row, card in cards if not card.set_aside]
        if self.group == UNSORTED:
            return tuple([row for row, card in cards if not card.scene])
        if isinstance(self.group, int):
            return tuple([row for row, card in cards if card.scene == self.group])
        return tuple([row for row, _card in cards])

    def _slivers(self) -> dict[int, int]:
        limit = self._s.sliver_limit
        return {
            s.id: limit or suggested_limit(s, base_of(s.media.rate))
            for s in self._s.project.sources
        }

    def _measure(self) -> Callable[[BoardRow], float] | None:
        if self.sort == "light":
            return self.light_of
        if self.sort != "likeness" or self._like is None or self._like not in self.looks:
            return None
        refs = list(self.looks)
        liked = self.looks[self._like][1]
        values = likeness_to(liked, [self.looks[r][1] for r in refs])
        likeness = dict(zip(refs, values.tolist(), strict=True))
        return lambda row: likeness.get(row.ref, -1.0) if row.ref else -1.0

    def light_of(self, row: BoardRow) -> float:
        """Return how light a shot is, 0 to 100, -1 where nobody looked yet."""
        held = self.looks.get(row.ref) if row.ref is not None else None
        return held[1].light if held is not None else -1.0

    @property
    def order(self) -> Order | None:
        """The running order that is shown, None where shots are."""
        return self._s.order if self.group == ORDER else None

    def show_group(self, group: Group) -> None:
        """Show something else."""
        self.group = group
        self.refresh()

    def show_film(self, film: int) -> None:
        """Show the shots of one film, or of all for 0."""
        self.film = film
        self.refresh()

    def look_for(self, text: str) -> str:
        """Show only what is looked for; returns what of it makes no sense, empty for nothing."""
        self.query = query_of(text)
        self.refresh()
        return self.query.problem

    def sort_by(self, sort: str, *, back: bool = False) -> None:
        """Show rows in another order, and remember it; by likeness, to the current one.

        ``back`` turns it round.
        """
        self.sort, self.back = sort, back
        self._settings.setValue("board-sort", sort)
        row = self.row_of(self.current) if self.current is not None else None
        self._like = row.ref if row is not None and sort == "likeness" else None
        self.refresh()

    # what is chosen

    def row_of(self, key: Key | None) -> BoardRow | None:
        """Return a row that is shown, or lies in the bag."""
        if key is None:
            return None
        place = self.places.get(key)
        if place is not None:
            return self.rows[place]
        return next((r for r in self.bag if r.key == key), None)

    @property
    def chosen_rows(self) -> tuple[BoardRow, ...]:
        """The chosen rows in the order they are shown in."""
        if len(self.chosen) < 200:
            places = sorted(self.places[k] for k in self.chosen if k in self.places)
            shown = tuple(self.rows[n] for n in places)
            rest = {k for k in self.chosen if k not in self.places}
            return shown + tuple(r for r in self.bag if rest and r.key in rest)
        wanted = set(self.chosen)
        return tuple(r for r in (*self.rows, *self.bag) if r.key in wanted)

    @property
    def chosen_refs(self) -> tuple[ShotRef, ...]:
        """The shots that are chosen, each once, in the order they are shown in."""
        refs = (r.ref for r in self.chosen_rows if r.shot is not None)
        return tuple(dict.fromkeys(ref for ref in refs if ref is not None))

    def _choose(self, keys: tuple[Key, ...]) -> None:
        if keys == self.chosen:
            return
        self.chosen = keys
        self._s.pick(self.chosen_refs)
        self.chosen_changed.emit()

    def _picked(self) -> None:
        """Follow what was chosen elsewhere."""
        picked = self._s.picked
        if picked and picked != self.chosen_refs and self.places.keys() >= set(picked):
            self.choose(picked)

    def choose(self, keys: Iterable[Key], current: Key | None = None) -> None:
        """Choose rows; ``current`` is the one that keys go on from, the last one for None."""
        wanted = tuple(dict.fromkeys(keys))
        self._set_current(current if current is not None else wanted[-1] if wanted else None)
        self._anchor = self.current
        self._choose(wanted)

    def click(self, key: Key, *, adding: bool = False, upto: bool = False) -> None:
        """Choose as a click does: alone, besides the others, or all up to it."""
        if upto and self._anchor in self.places and key in self.places:
            low, high = sorted((self.places[self._anchor], self.places[key]))
            anchor = self._anchor
            self._set_current(key)
            self._choose(tuple(r.key for r in self.rows[low : high + 1]))
            self._anchor = anchor
        elif adding:
            left = tuple(k for k in self.chosen if k != key)
            self._set_current(key)
            self._anchor = key
            self._choose(left if key in self.chosen else (*self.chosen, key))
        else:
            self.choose([key])

    def choose_all(self) -> None:
        """Choose everything that is shown."""
        self._choose(tuple(r.key for r in self.rows))

    def step(self, place: int, *, upto: bool = False) -> None:
        """Go to the row at a place."""
        if self.rows:
            self.click(self.rows[max(0, min(len(self.rows) - 1, place))].key, upto=upto)

    @property
    def place(self) -> int:
        """Where the current row stands, -1 for none."""
        return self.places.get(self.current, -1) if self.current is not None else -1

    def _set_current(self, key: Key | None) -> None:
        if key == self.current:
            return
        self.current = key
        row = self.row_of(key)
        if row is not None and row.source is not None and row.shot is not None:
            self._s.take_in_hand(row.source.id)
            self._s.go_to(row.shot.start)
        self.current_changed.emit()

    def choose_here(self) -> None:
        """Choose the shot under the playhead, where it is shown and nothing is chosen."""
        source, shot = self._s.source, self._s.shot_here()
        if self.chosen or source is None or shot is None:
            return
        ref = ref_of(source, shot)
        if ref in self.places:
            self.choose([ref])

    # how shots look

    def take_looks(self, found: Iterable[tuple[ShotRef, tuple[int, int], ShotLook]]) -> None:
        """Take in how shots look."""
        for ref, span, look in found:
            self.looks[ref] = span, look
        if self.sort in ("light", "likeness"):
            self._shown = None
            self.refresh()

    def unlooked(self) -> list[BoardRow]:
        """Return the rows of all films whose looks are not known as they are now."""
        return [
            r
            for r in rows_of(self._s.project)
            if r.ref is not None
            and r.shot is not None
            and self.looks.get(r.ref, ((-1, -1), None))[0] != (r.shot.start, r.shot.end)
        ]
