"""Writes the layers of docs/architecture.md as the import contracts have them.

python tools/layers.py           writes them
python tools/layers.py --check   says whether they are as written, exit 1 where not
"""

from __future__ import annotations

import re
import sys
import tomllib
from pathlib import Path

HERE = Path(__file__).parents[1]
DOCUMENT = HERE / "docs" / "architecture.md"
_BLOCK = re.compile(r"(<!-- layers: [^>]*-->\n).*?(\n<!-- end -->)", re.DOTALL)


def layers() -> str:
    """Return the layers of core and app, lowest first, in a sentence each."""
    told = tomllib.loads((HERE / "pyproject.toml").read_text())
    said = []
    for container, name in (("offcut.core", "Core"), ("offcut.app", "App")):
        for contract in told["tool"]["importlinter"]["contracts"]:
            if contract.get("containers") == [container]:
                rows = [row.replace(" | ", ", ") for row in reversed(contract["layers"])]
                said.append(f"{name}: {' < '.join(rows)}.")
    return "\n".join(said)


def with_layers(document: str) -> str:
    """Return the document with the layers as they are."""
    return _BLOCK.sub(lambda found: found[1] + layers() + found[2], document)


def main() -> int:
    """Write or check."""
    document = DOCUMENT.read_text()
    now = with_layers(document)
    if "--check" in sys.argv:
        if now != document:
            print("docs/architecture.md: its layers are others; run tools/layers.py")
        return int(now != document)
    DOCUMENT.write_text(now)
    return 0


if __name__ == "__main__":
    sys.exit(main())
