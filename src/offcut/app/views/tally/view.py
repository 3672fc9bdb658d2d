"""Tally put together: its pages, one of them open."""

from __future__ import annotations

from PySide6.QtWidgets import QStackedLayout, QVBoxLayout

from offcut.app.commands.actions import Actions
from offcut.app.shared.shot_pictures import ShotPictures
from offcut.app.views.description import ViewContext, ViewPage
from offcut.app.views.tally.lists_page import ListsPage
from offcut.app.views.tally.originals_page import OriginalsPage
from offcut.app.views.tally.tally_page import SectionChoice, TallyPage
from offcut.app.views.tally.two_lists_page import TwoListsPage
from offcut.app.views.tally.versions_page import VersionsPage
from offcut.core.model.shots import shot_at, shots_of
from offcut.core.model.source import Source


class TallyView(ViewPage):
    """A film held against a list, another version of it, or its originals."""

    takes_keys = True

    def __init__(self, context: ViewContext, table: Actions) -> None:
        super().__init__()
        self._settings = context.settings
        self._facts = context.facts
        self.pictures = ShotPictures(context.session)
        self.lists = ListsPage(context, table, self.pictures)
        self.versions = VersionsPage(context, table, self.pictures)
        self.originals = OriginalsPage(context, table, self.pictures)
        self.two_lists = TwoListsPage(context, table, self.pictures)
        self.pages: dict[str, TallyPage] = {
            page.section: page
            for page in (self.lists, self.two_lists, self.versions, self.originals)
        }
        self.lists.two_wanted.connect(lambda: self.open_page("two-lists"))
        self.two_lists.film_wanted.connect(lambda: self.open_page("lists"))
        self.sections = SectionChoice()
        self.sections.wanted.connect(self.open_page)
        self._stack = QStackedLayout()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.sections)
        box.addLayout(self._stack, 1)
        for page in self.pages.values():
            self._stack.addWidget(page)
            page.menu_wanted.connect(self.menu_wanted)
            page.tally.shows = self._shows
            context.facts.known_changed.connect(page.rows.viewport().update)
        self.open_page(str(context.settings.value("tally-page", "versions")))

    def _shows(self, source: Source | None, frame: int) -> str:
        """Return what is known to be in the shot that holds a frame."""
        if source is None:
            return ""
        return self._facts.in_shot(source, shot_at(shots_of(source), frame)).line

    @property
    def page(self) -> TallyPage:
        """The page that is open."""
        return next(p for p in self.pages.values() if p is self._stack.currentWidget())

    def open_page(self, section: str) -> None:
        """Open a page, the first for one that is not known."""
        self._stack.setCurrentWidget(self.pages.get(section, self.versions))
        self.sections.show_section(self.page.section)
        self._settings.setValue("tally-page", self.page.section)

    def take_keys(self) -> None:
        """Take the keys."""
        self.page.rows.setFocus()

    def next_page(self) -> None:
        """Open the page after this one."""
        names = list(self.pages)
        self.open_page(names[(names.index(self.page.section) + 1) % len(names)])

    def restyle(self) -> None:
        """Take the theme in force."""
        for page in self.pages.values():
            page.restyle()

    def close_pictures(self) -> None:
        """Stop what works for this view in the background."""
        self.pictures.close()
        for page in self.pages.values():
            page.close_pictures()
