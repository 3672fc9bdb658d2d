"""What is done to the marked range, to zones and to markers."""

from __future__ import annotations

from offcut.app.session.seam_search import SeamSearch
from offcut.app.session.session import Session
from offcut.core.model.source import Marker, MarkerColour, Zone
from offcut.core.model.verbs.judging import counted_in, strike_range
from offcut.core.model.verbs.markers import add_marker, change_marker, remove_marker
from offcut.core.model.verbs.searching import set_range
from offcut.core.model.verbs.zones import add_zone, change_zone, remove_zone


class RangeAndMarkers:
    """Actions on the marked range and on what lies on the ribbon beside seams."""

    def __init__(self, session: Session, search: SeamSearch) -> None:
        self._s = session
        self._search = search

    # the marked range

    def mark_in(self) -> None:
        """The range begins at the playhead."""
        self._s.mark(self._s.playhead, self._s.mark_out)
        self._say()

    def mark_out(self) -> None:
        """The range ends with the frame under the playhead."""
        self._s.mark(self._s.mark_in, self._s.playhead + 1)
        self._say()

    def mark_shot(self) -> None:
        """The range is the shot under the playhead."""
        shot = self._s.shot_here()
        if shot is not None:
            self._s.mark(None, None)
            self._s.mark(shot.start, shot.end)
            self._say()

    def clear_range(self) -> None:
        """Nothing is marked."""
        self._s.mark(None, None)

    def _say(self) -> None:
        marked = self._s.marked
        if marked is not None:
            self._s.said.emit(f"Marked: {self.words(*marked)}, {marked[1] - marked[0]} frames")

    def words(self, start: int, end: int) -> str:
        """Say a stretch: its in and its out point."""
        return f"{self._s.words_of(start)} to {self._s.words_of(end)}"

    def _range(self) -> tuple[int, int] | None:
        marked = self._s.marked
        if marked is None:
            self._s.said.emit("Mark a range first: I where it begins, O where it ends")
        return marked

    def strike_all(self) -> None:
        """Strike every counted seam in the range."""
        marked = self._range()
        source = self._s.source
        if marked is None or source is None:
            return
        count = len(counted_in(source, *marked))
        if not count:
            self._s.said.emit("No counted seam lies in the marked range")
            return
        words = f"Strike {count} seam{'s' * (count > 1)} from {self.words(*marked)}"
        self._s.edit(lambda p, s: strike_range(p, s, *marked), words, marked[0])

    def hush(self) -> None:
        """Count no open seam in the range."""
        marked = self._range()
        if marked is not None:
            words = f"Hush {self.words(*marked)}"
            self._s.edit(lambda p, s: add_zone(p, s, Zone(*marked, None)), words, marked[0])

    def own_sensitivity(self) -> None:
        """Give the range a sensitivity of its own, at first a little above the film's."""
        marked = self._range()
        source = self._s.source
        if marked is None or source is None:
            return
        zone = Zone(*marked, min(100, source.sensitivity + 20))
        words = f"Give {self.words(*marked)} a sensitivity of its own, {zone.sensitivity}"
        self._s.edit(lambda p, s: add_zone(p, s, zone), words, marked[0])

    def search_only(self) -> None:
        """Look for seams in the range only; the film outside it is left out."""
        marked = self._range()
        if marked is None:
            return
        words = f"Search only {self.words(*marked)}"
        if self._s.edit(lambda p, s: set_range(p, s, *marked), words, marked[0]):
            self._search.find()

    def search_whole(self) -> None:
        """Look for seams in the whole film again."""
        source = self._s.source
        if source is None:
            return
        frames = source.media.frames
        if self._s.edit(lambda p, s: set_range(p, s, 0, frames), "Search the whole film"):
            self._search.find()

    def find_one(self) -> None:
        """Look for one seam in the range, or within a second of the playhead."""
        source = self._s.source
        if source is None:
            return
        here, second = self._s.playhead, self._s.second
        self._search.find_one(*(self._s.marked or (max(1, here - second), here + second)))

    # zones

    def set_zone(self, zone: Zone, sensitivity: int | None) -> None:
        """Give a zone another sensitivity, or hush it."""
        to = Zone(zone.start, zone.end, sensitivity)
        what = "Hush the zone" if sensitivity is None else f"Set the zone to {sensitivity}"
        self._s.edit(lambda p, s: change_zone(p, s, zone, to), what, zone.start)

    def zone_to_marked(self, zone: Zone) -> None:
        """Give a zone the marked range."""
        marked = self._range()
        if marked is not None:
            to = Zone(*marked, zone.sensitivity)
            words = f"Move the zone to {self.words(*marked)}"
            self._s.edit(lambda p, s: change_zone(p, s, zone, to), words, marked[0])

    def remove_zone(self, zone: Zone) -> None:
        """Remove a zone."""
        words = f"Remove the zone from {self.words(zone.start, zone.end)}"
        self._s.edit(lambda p, s: remove_zone(p, s, zone), words, zone.start)

    # markers

    def add_marker(self) -> int | None:
        """Put a marker at the playhead, or over the marked range; return its id."""
        source = self._s.source
        if source is None:
            return None
        number = self._s.project.next_id
        start, end = self._s.marked or (self._s.playhead, self._s.playhead + 1)
        name = f"Marker {len(source.markers) + 1}"
        words = f"Mark {self._s.words_of(start)}"
        self._s.edit(lambda p, s: add_marker(p, s, start, end, name), words, start)
        return number

    def next_marker(self, way: int = 1) -> None:
        """Go to the marker after or before the playhead."""
        source = self._s.source
        if source is None:
            return
        starts = [m.start for m in source.markers]
        ahead = [f for f in starts if (f - self._s.playhead) * way > 0]
        if ahead:
            self._s.go_to(min(ahead) if way > 0 else max(ahead))
        else:
            self._s.said.emit("No marker " + ("after" if way > 0 else "before") + " this place")

    def name_marker(self, marker: Marker, name: str, note: str) -> None:
        """Name and note a marker."""
        if (marker.name, marker.note) != (name, note):
            words = f"Name the marker at {self._s.words_of(marker.start)}"
            self._s.edit(
                lambda p, s: change_marker(p, s, marker.id, name=name, note=note),
                words,
                marker.start,
            )

    def colour_marker(self, marker: Marker, colour: MarkerColour) -> None:
        """Give a marker the colour it goes out with."""
        if marker.colour is not colour:
            words = f"Make the marker {marker.name} {colour.value or 'plain'}"
            self._s.edit(
                lambda p, s: change_marker(p, s, marker.id, colour=colour), words, marker.start
            )

    def move_marker(self, marker: Marker, frame: int) -> None:
        """Move a marker so that it begins at a frame."""
        words = f"Move the marker {marker.name} to {self._s.words_of(frame)}"
        self._s.edit(lambda p, s: change_marker(p, s, marker.id, start=frame), words, frame)

    def marker_here(self) -> Marker | None:
        """Return the marker under the playhead, the one that begins last where several do."""
        source, here = self._s.source, self._s.playhead
        held = [m for m in source.markers if m.start <= here < m.end] if source else []
        return held[-1] if held else None

    def remove_marker_here(self) -> None:
        """Remove the marker under the playhead."""
        marker = self.marker_here()
        if marker is None:
            self._s.said.emit("No marker lies under the playhead")
        else:
            self.remove_marker(marker)

    def zone_here(self) -> Zone | None:
        """Return the zone under the playhead."""
        source, here = self._s.source, self._s.playhead
        held = [z for z in source.zones if z.start <= here < z.end] if source else []
        return held[-1] if held else None

    def remove_zone_here(self) -> None:
        """Remove the zone under the playhead."""
        zone = self.zone_here()
        if zone is None:
            self._s.said.emit("No zone lies under the playhead")
        else:
            self.remove_zone(zone)

    def zone_here_to_marked(self) -> None:
        """Give the zone under the playhead the marked range."""
        zone = self.zone_here()
        if zone is None:
            self._s.said.emit("No zone lies under the playhead")
        else:
            self.zone_to_marked(zone)

    def remove_marker(self, marker: Marker) -> None:
        """Remove a marker."""
        words = f"Remove the marker {marker.name}"
        self._s.edit(lambda p, s: remove_marker(p, s, marker.id), words, marker.start)
