"""What the command line says: nothing that a name brought along ever steers a terminal."""

from __future__ import annotations

import sys
from typing import Any

from offcut.core.words import as_json, printable_lines


def say(words: str) -> None:
    """Say what was asked for, on standard output."""
    print(printable_lines(words))


def warn(words: object) -> None:
    """Say what is beside it, or went wrong, on standard error."""
    print(f"offcut: {printable_lines(str(words))}", file=sys.stderr)


def beside(words: str) -> None:
    """Say on standard error what a person reads beside a list, as it is."""
    print(printable_lines(words), file=sys.stderr)


def answer(document: Any) -> None:
    """Say a document as JSON, on a line of its own."""
    print(as_json(document))
