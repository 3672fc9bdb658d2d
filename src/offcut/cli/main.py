"""The command line: what was called, and the one sentence of an error."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from difflib import get_close_matches
from pathlib import Path

from offcut import __version__
from offcut.cli.detect import add_detect
from offcut.cli.facts import add_facts
from offcut.cli.find_shots import add_find
from offcut.cli.open_window import add_open
from offcut.cli.originals import add_originals
from offcut.cli.rhythm import add_rhythm
from offcut.cli.saying import warn
from offcut.cli.tally import add_tally
from offcut.cli.turnover import add_turnover
from offcut.core.errors import OffcutError
from offcut.core.machine.added import left_out
from offcut.core.machine.memory import keep_little

_COMMANDS = ("detect", "demo", "facts", "find", "open", "originals", "rhythm", "tally", "turnover")


def main(words: Sequence[str] | None = None) -> int:
    """Run the command line and return its exit status: 0, 1 (cannot) or 2 (wrong call)."""
    keep_little()
    said = list(sys.argv[1:] if words is None else words)
    parser = _parser()
    if said and said[0] == "find":  # “-word” there is a word that must not be
        said = [
            f" {w}" if w[:1] == "-" and w[1:2] not in ("-", "") and w != "-h" else w for w in said
        ]
    if said and said[0] not in _COMMANDS and not said[0].startswith("-"):
        unknown = _no_command(said[0])
        if unknown:
            warn(unknown)
            return 2
        said.insert(0, "open")
    call = parser.parse_args(said or ["open"])
    try:
        status: int = call.run(call)
        if not getattr(call, "quiet", False):
            for words in left_out():
                warn(words)
        return status
    except OffcutError as error:
        warn(error)
        return 1
    except BrokenPipeError:  # whoever read it has enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except KeyboardInterrupt:
        warn("stopped")
        return 1


def _no_command(word: str) -> str:
    """Return what is wrong with a first word that is neither a command nor looks like a file."""
    if any(sign in word for sign in "./[") or Path(word).exists():
        return ""
    near = get_close_matches(word, _COMMANDS, 1)
    meant = f"; “{near[0]}” is one" if near else f"; there are {', '.join(_COMMANDS)}"
    return f"{word}: there is no such command, and no such file{meant}"


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="offcut", description="Turns one flattened film back into its shots."
    )
    parser.add_argument("--version", action="version", version=f"offcut {__version__}")
    kinds = parser.add_subparsers(metavar="COMMAND")
    add_open(kinds)
    add_detect(kinds)
    add_turnover(kinds)
    add_find(kinds)
    add_facts(kinds)
    add_rhythm(kinds)
    add_tally(kinds)
    add_originals(kinds)
    return parser
