"""The documents are true: layers are those of the contracts, files that are named exist."""

from __future__ import annotations

import ast
import importlib
import importlib.util
import re
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).parents[2]


def test_the_layers_are_those_of_the_contracts() -> None:
    words = [sys.executable, str(HERE / "tools" / "layers.py"), "--check"]
    done = subprocess.run(words, capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stdout


def test_every_file_that_is_named_is_there() -> None:
    folders = ("src", "tests", "bench", "tools")
    there = [f"/{f.relative_to(HERE)}" for at in folders for f in (HERE / at).rglob("*.py")]
    for document in ("architecture", "extending", "method", "reliability"):
        text = (HERE / "docs" / f"{document}.md").read_text()
        text = re.sub(r"```.*?```", "", text, flags=re.DOTALL)
        for name in re.findall(r"`([a-z_/]+\.py)`", text):
            assert any(file.endswith(f"/{name}") for file in there), f"{document}.md: {name}"


def test_each_walk_names_a_file_once_and_few_of_the_app() -> None:
    text = (HERE / "docs" / "architecture.md").read_text()
    walks = text.split("## Four walks")[1].split("\n## ")[0].split("\n**")[1:]
    assert len(walks) == 4
    for walk in walks:
        files = re.findall(r"`((?:app|core)/[a-z_/]+\.py)`", walk)
        assert len(files) == len(set(files)), walk
        assert sum(file.startswith("app/") for file in files) <= 8, walk
        assert all((HERE / "src" / "offcut" / file).is_file() for file in files), walk


def test_what_benches_and_tools_import_is_there() -> None:
    """They are run by hand: what moves must not leave them behind."""
    for script in (*(HERE / "bench").glob("*.py"), *(HERE / "tools").glob("*.py")):
        for node in ast.walk(ast.parse(script.read_text())):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("offcut"):
                module = importlib.import_module(node.module or "")
                for name in (alias.name for alias in node.names):
                    there = hasattr(module, name) or importlib.util.find_spec(
                        f"{node.module}.{name}"
                    )
                    assert there, f"{script.name}: {node.module} has no {name}"
