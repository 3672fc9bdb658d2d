"""A word that is no command says so, whether there is a display or not."""

from __future__ import annotations

import pytest

from offcut.cli.main import main


def test_an_unknown_word_says_so(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["verfy", "x"]) == 2
    assert "verfy: there is no such command, and no such file" in capsys.readouterr().err
    assert main(["detct", "film.mov"]) == 2
    assert "“detect” is one" in capsys.readouterr().err
