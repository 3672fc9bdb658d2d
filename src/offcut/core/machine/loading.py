"""Loading large libraries on a thread of their own, and working in a process apart."""

from __future__ import annotations

import importlib
import sys
import threading
from typing import Any

_LOADING = threading.Lock()
"""A module stands among those that are loaded before it is, and would be taken half made."""


def loaded_apart(name: str) -> Any:
    """Return a module, loaded on a thread of its own where it is not there yet.

    pybind11, which OpenTimelineIO and Matplotlib are made with, remembers the Python state of the
    thread that loads it; Qt's pool gives a thread another state for each job, and the thread that
    had loaded it would wait for itself at the next use. Two that ask at once wait for the same.
    """
    with _LOADING:
        if name not in sys.modules:
            loading = threading.Thread(
                target=importlib.import_module, args=(name,), name="offcut-load"
            )
            loading.start()
            loading.join()
    return sys.modules.get(name) or importlib.import_module(name)


def apart(module: str, *words: str) -> list[str]:
    """Return the command that runs the ``main`` of a module in a process of its own.

    ``words`` are handed to it.
    """
    code = f"import sys; sys.path[:] = {sys.path!r}\n"
    code += f"from {module} import main; main(*sys.argv[1:])"
    return [sys.executable, "-c", code, *words]
