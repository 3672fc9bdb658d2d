"""Lists are read and written in jobs, in a process that nobody has prepared for it."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

HANDING_OVER = """
import sys
from pathlib import Path
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QApplication
from offcut.app.shell.main import settle
from offcut.app.shell.window import Window

film, folder = sys.argv[1:]
app = QApplication(["offcut"])
window = Window(QSettings(f"{folder}/settings.ini", QSettings.Format.IniFormat))
window.show()
window.files.open_films([film])
settle(window, 30)
assert "opentimelineio" not in sys.modules  # not at start: it is slow to load
view = window.open_view("turnover")
view.outcome.folder.setText(f"{folder}/out")
for code in ("otio", "xml", "aaf", "ale"):
    view.output.lists[code].setChecked(True)
for _ in range(3):
    view.plan = None
    view._check()
    view._check()
    settle(window, 10)
    view.outcome.over.setChecked(True)
    view.hand_over()
    view._check()
    settle(window, 10)
print(sorted(p.suffix for p in Path(folder, "out").iterdir()), window.session.jobs.running)
window.session.history.mark_saved()
window.close()
"""


def test_a_library_that_one_job_loads_serves_the_jobs_after_it(
    four_shots: Path, tmp_path: Path
) -> None:
    # OpenTimelineIO once waited for itself for ever: see `offcut.core.machine.loading`.
    done = subprocess.run(
        [sys.executable, "-c", HANDING_OVER, str(four_shots), str(tmp_path)],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip() == "['.aaf', '.ale', '.edl', '.otio', '.xml'] []"
