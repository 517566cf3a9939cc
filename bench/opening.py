"""How long it takes until something shows: the window, the demo, a large project.

.venv/bin/python bench/opening.py
"""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import measure

DEMO = Path(__file__).resolve().parents[1] / "demo" / "apiary"
_SHOWN = """
import gc, os, sys, time
from pathlib import Path
import knitground.cli
gc.disable()  # as the command does
from knitground.app.main import make_application, open_window
app = make_application()
window = open_window(app, Path({path!r}) if {path!r} else None)
if {path!r} and not window.session.document.project.grounds:
    window.session.opened.connect(app.quit)
    app.exec()
app.processEvents()
window.repaint()
while {whole!r} and window.ground.view.draws_on:
    app.processEvents()
os._exit(0)
"""


def shown(path: Path | None, times: int = 5, *, whole: bool = False) -> float:
    """Seconds from the command until something is drawn, or all of it; the best of some starts but the first."""
    found = []
    for _ in range(times):
        began = time.perf_counter()
        code = _SHOWN.format(path=str(path or ""), whole=whole)
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)
        found.append(time.perf_counter() - began)
    return min(found[1:])


def saved_eight_layers(folder: Path) -> Path:
    """A project of eight layers of 4096 x 4096, as it lies on the disk."""
    document = measure.eight_layers("square", 4096)
    document.save(folder / "large")
    return folder / "large"


def main() -> None:
    """Prints the times, and those of an empty Python and of Qt's bindings and NumPy alone."""
    bare = measure.best(lambda: subprocess.run([sys.executable, "-c", "pass"], check=True), 4)
    parts = "import numpy, PySide6.QtWidgets"
    least = measure.best(lambda: subprocess.run([sys.executable, "-c", parts], check=True), 4)
    print(f"an empty Python: {bare:.2f} s; with NumPy and Qt's bindings: {least:.2f} s")
    print(f"the window, empty: {shown(None):.2f} s; goal 1")
    print(f"the window with the demo: {shown(DEMO):.2f} s; goal 2; until all is drawn {shown(DEMO, whole=True):.2f} s")
    with tempfile.TemporaryDirectory() as folder:
        large = saved_eight_layers(Path(folder))
        size = sum(path.stat().st_size for path in large.rglob("*") if path.is_file())
        print(f"eight layers of 4096 x 4096 ({size / 2**20:.0f} MB), from the command: {shown(large, 3):.2f} s")


if __name__ == "__main__":
    main()
