"""Threads that stand: they let go what nobody asks of, and serve again."""

from __future__ import annotations

import pytest
from pytestqt.qtbot import QtBot

from offcut.app.session import standing
from offcut.app.session.standing import Idle, Standing, StandingThread


class Server(StandingThread):
    """Serves once each time, and is idle at once."""

    def __init__(self) -> None:
        super().__init__()
        self.did: list[str] = []

    def serve(self) -> None:
        self.did.append("serve")
        if len(self.did) > 5:
            self.leaving.wait(20)

    def let_go(self) -> bool:
        self.did.append("let go")
        return len(self.did) == 2


def test_what_is_idle_is_let_go_and_serves_again(qtbot: QtBot) -> None:
    server = Server()
    server.start()
    qtbot.waitUntil(lambda: len(server.did) > 5, timeout=5000)
    server.leave()
    assert server.did[:6] == ["serve", "let go"] * 3
    assert server.did[-1] == "let go"


def test_memory_is_given_back_where_there_was_anything(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    given: list[int] = []
    monkeypatch.setattr(standing, "give_back", lambda: given.append(1))
    server = Server()
    server.start()
    qtbot.waitUntil(lambda: len(server.did) > 5, timeout=5000)
    server.leave()
    assert given == [1]


def test_threads_of_a_part_begin_once_and_end_with_it(qtbot: QtBot) -> None:
    made: list[Server] = []

    def make() -> Server:
        made.append(Server())
        return made[-1]

    threads = Standing()
    assert "one" not in threads
    threads.begin("one", make)
    threads.begin("one", make)
    threads.begin("other", make)
    assert len(made) == 2
    assert "one" in threads
    threads.close()
    assert not any(server.isRunning() for server in made)
    threads.begin("one", make)  # too late
    assert len(made) == 2


def test_idling_is_over_after_a_while(monkeypatch: pytest.MonkeyPatch) -> None:
    assert not Idle().over
    monkeypatch.setattr(standing, "IDLE", -1.0)
    assert Idle().over
