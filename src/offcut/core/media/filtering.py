"""Filtering: pictures sent through FFmpeg's filters, their times and marks as they are."""

from __future__ import annotations

from fractions import Fraction

import av
from av.filter import Graph

Filters = tuple[tuple[str, str], ...]
"""Names of filters and what each is told, in order."""


class Filtering:
    """Sends pictures through filters; the graph is made anew only when they or the shape change."""

    def __init__(self) -> None:
        self._key: object = None
        self._graph = Graph()

    def __call__(self, frame: av.VideoFrame, filters: Filters) -> av.VideoFrame:
        """Return what the filters make of a picture. Raises FFmpegError for what they refuse."""
        key = (frame.width, frame.height, frame.format.name, filters)
        if key != self._key:
            self._key, self._graph = key, _made(frame, filters)
        self._graph.push(frame)
        filtered = self._graph.pull()
        assert isinstance(filtered, av.VideoFrame)
        return filtered


def _made(frame: av.VideoFrame, filters: Filters) -> Graph:
    graph = Graph()
    source = graph.add_buffer(
        width=frame.width,
        height=frame.height,
        format=frame.format,
        time_base=frame.time_base or Fraction(1),
    )
    between = [graph.add(name, told) for name, told in filters]
    graph.link_nodes(source, *between, graph.add("buffersink")).configure()
    return graph
