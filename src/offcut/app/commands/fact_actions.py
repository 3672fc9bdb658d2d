"""What is done with stretches that were chosen by what is in them, each in one undo."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from offcut.app.session.facts_in_hand import FactsInHand
from offcut.app.session.session import Session
from offcut.core.facts.fact import Fact, Sort
from offcut.core.facts.fact_words import fact_words, value_words
from offcut.core.facts.parts import PROGRAMME, programme_of
from offcut.core.model.project import Project
from offcut.core.model.verbs.orders import order_to_fill
from offcut.core.model.verbs.stretches import (
    make_shots_of_stretches,
    mark_stretches,
    put_stretches_in_order,
    set_stretches_aside,
)
from offcut.core.words import many

_NONE = "Choose something that was found first: edge notes (U), or the list of what was found"


def named(fact: Fact) -> str:
    """Return the name that a piece or a marker gets of what is in it."""
    words = value_words(fact.sort, fact.value)
    return words[:1].upper() + words[1:]


class FactActions:
    """Acts on the facts that are chosen."""

    def __init__(self, session: Session, facts: FactsInHand) -> None:
        self._s = session
        self._facts = facts

    @property
    def any(self) -> bool:
        """True where something is chosen."""
        return bool(self._facts.chosen)

    def _chosen(self) -> tuple[Fact, ...]:
        if not self._facts.chosen:
            self._s.said.emit(_NONE)
        return self._facts.chosen

    def _do(
        self,
        words: Callable[[int], str],
        verb: Callable[[Project, int, Sequence[tuple[int, int]]], Project],
    ) -> bool:
        chosen = self._chosen()
        stretches = together(chosen)
        return bool(stretches) and self._s.edit(
            lambda p, s: verb(p, s, stretches), words(len(stretches)), stretches[0][0]
        )

    def make_shots(self) -> None:
        """Place seams at the ends of what is chosen."""
        before = len(self._s.shots)
        if not self._facts.chosen:
            self._chosen()
        elif not self._do(
            lambda n: f"Make shots of {many(n, 'stretch', 'stretches')}", make_shots_of_stretches
        ):
            self._s.said.emit("They are shots of their own already")
        elif len(self._s.shots) == before:
            self._s.said.emit("Their seams are kept now; no shot came of it")

    def set_aside(self) -> None:
        """Set aside what is chosen, as shots of its own."""
        self._do(lambda n: f"Set {many(n, 'stretch', 'stretches')} aside", set_stretches_aside)

    def mark_all(self) -> None:
        """Put a marker over each stretch that is chosen."""
        chosen = self._chosen()
        if chosen:
            self._s.edit(
                lambda p, s: mark_stretches(
                    p, s, [(f.start, f.end) for f in chosen], [named(f) for f in chosen]
                ),
                f"Put {many(len(chosen), 'marker')}",
                chosen[0].start,
            )

    def into_order(self) -> None:
        """Put what is chosen at the end of the running order in hand."""
        chosen, s = self._chosen(), self._s
        if not chosen or s.source is None:
            return
        source_id, in_hand = s.in_hand, s.order_id
        stretches = [(f.start, f.end) for f in chosen]
        names = [named(f) for f in chosen]

        def verb(project: Project) -> Project:
            project, order_id = order_to_fill(project, in_hand, "Found in the film")
            return put_stretches_in_order(project, order_id, source_id, stretches, names)

        if s.edit_project(verb, f"Put {many(len(chosen), 'stretch', 'stretches')} into an order"):
            s.take_order(order_to_fill(s.project, in_hand)[1])

    def mark_range(self) -> None:
        """Mark the range from the first to the last of what is chosen."""
        chosen = self._chosen()
        if chosen:
            self._s.mark(chosen[0].start, max(f.end for f in chosen))

    def step(self, way: int) -> None:
        """Go to the next stretch of what is chosen, or of what was found."""
        here = self._s.playhead
        among = self._facts.chosen if len(self._facts.chosen) > 1 else ()
        if not among:
            kinds = {(f.sort, f.value) for f in self._facts.chosen}
            among = tuple(f for f in self._facts.facts if not kinds or (f.sort, f.value) in kinds)
        ahead = [f for f in among if (f.start - here) * way > 0]
        if not ahead:
            self._s.said.emit("Nothing more of it " + ("after" if way > 0 else "before") + " this")
            return
        to = min(ahead, key=lambda f: (f.start - here) * way)
        self._s.go_to(to.start)
        self._s.said.emit(fact_words(to)[:1].upper() + fact_words(to)[1:])

    # the programme

    def _parts(self) -> list[Fact]:
        parts = [f for f in self._facts.facts if f.sort is Sort.PART]
        if not parts:
            self._s.said.emit("What is programme is not known yet: show the edge notes first (U)")
        return parts

    def mark_programme(self) -> None:
        """Mark the programme, without what stands before and after it."""
        parts, source = self._parts(), self._s.source
        if not parts or source is None:
            return
        found = programme_of(parts, float(source.media.rate))
        if found is None:
            self._s.said.emit("Nothing of this film is told to be programme")
            return
        self._s.mark(*found)
        self._s.said.emit(
            f"The programme goes from {self._s.words_of(found[0])} to {self._s.words_of(found[1])}"
        )

    def leave_programme(self) -> None:
        """Set aside what is no picture of the film: black, bars, leader, slates."""
        outside = [f for f in self._parts() if f.value not in (PROGRAMME, "still") and f.length > 0]
        if not outside:
            if self._facts.facts:
                self._s.said.emit("All of it is programme")
            return
        stretches = together(outside)
        self._s.edit(
            lambda p, s: set_stretches_aside(p, s, stretches),
            f"Set {many(len(stretches), 'stretch', 'stretches')} aside that are no programme",
            stretches[0][0],
        )


def together(facts: Sequence[Fact]) -> list[tuple[int, int]]:
    """Return the stretches of facts in order, each once."""
    return sorted({(f.start, f.end) for f in facts})
