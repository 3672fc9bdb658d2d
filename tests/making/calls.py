"""The command line called in this process: what it prints, and how it ends."""

from __future__ import annotations

import io
from contextlib import redirect_stderr, redirect_stdout
from typing import NamedTuple

from offcut.cli.main import main


class Called(NamedTuple):
    """What a call came to, by the names a process has for it."""

    returncode: int
    stdout: str
    stderr: str


def called(*words: object) -> Called:
    """Call the command line; a process of its own would take a second more to begin."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        try:
            status = main([str(word) for word in words])
        except SystemExit as left:  # what argparse does
            status = int(left.code or 0)
    return Called(status, out.getvalue(), err.getvalue())
