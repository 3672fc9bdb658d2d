"""Upright: pictures that a file says are to be shown turned, turned."""

from __future__ import annotations

from fractions import Fraction

import av
from av.filter import Graph

_TURNS = {90: ("cclock",), 270: ("clock",), 180: ("clock", "clock")}
"""FFmpeg's transposes for degrees that a display matrix turns a picture counterclockwise."""


class Upright:
    """Turns pictures as their file says; those of most files pass as they are.

    Attributes: ``turn`` degrees counterclockwise that the last one was turned.
    """

    def __init__(self) -> None:
        self.turn = 0
        self._key: object = None
        self._graph = Graph()

    def __call__(self, frame: av.VideoFrame) -> av.VideoFrame:
        """Return the picture upright, its format and colours as they are."""
        turn = self.turn = round(frame.rotation / 90) * 90 % 360
        if not turn:
            return frame
        key = (frame.width, frame.height, frame.format.name, turn)
        if key != self._key:
            self._key, self._graph = key, _made(frame, turn)
        self._graph.push(frame)
        upright = self._graph.pull()
        assert isinstance(upright, av.VideoFrame)
        return upright


def _made(frame: av.VideoFrame, turn: int) -> Graph:
    graph = Graph()
    source = graph.add_buffer(
        width=frame.width,
        height=frame.height,
        format=frame.format,
        time_base=frame.time_base or Fraction(1),
    )
    turns = [graph.add("transpose", way) for way in _TURNS[turn]]
    graph.link_nodes(source, *turns, graph.add("buffersink")).configure()
    return graph
