"""Threads that stand: they let go what nobody asks of, and serve again."""

from __future__ import annotations

from pytestqt.qtbot import QtBot

from offcut.app.session.standing import StandingThread


class Server(StandingThread):
    """Serves once each time, and is idle at once."""

    def __init__(self) -> None:
        super().__init__()
        self.did: list[str] = []

    def serve(self) -> None:
        self.did.append("serve")
        if len(self.did) > 5:
            self.leaving.wait(20)

    def let_go(self) -> None:
        self.did.append("let go")


def test_what_is_idle_is_let_go_and_serves_again(qtbot: QtBot) -> None:
    server = Server()
    server.start()
    qtbot.waitUntil(lambda: len(server.did) > 5, timeout=5000)
    server.leave()
    assert server.did[:6] == ["serve", "let go"] * 3
    assert server.did[-1] == "let go"
