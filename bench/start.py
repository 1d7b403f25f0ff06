"""Starting: the window against a bare one, `lesna cut` against Python with its two libraries."""

from __future__ import annotations

from bench.timing import interleaved, printed_seconds, process_seconds, report
from lesna.data.places import shipped_folder

DEMO = str(shipped_folder() / "demo" / "sluice-hinge-block.lesna")

BARE = """
import time; start = time.perf_counter()
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([]); window = QMainWindow(); window.resize(1280, 800); window.show(); app.processEvents()
print(time.perf_counter() - start)
"""
SHOWN = """
import time; start = time.perf_counter()
import lesna.__main__
from lesna.desktop import app as desktop
app = desktop.application(); window = desktop.MainWindow(desktop.Memory()); window.show(); app.processEvents()
print(time.perf_counter() - start)
"""
#: the clock stops at the first picture; work behind the window goes on, and ends with the process
FURNISHED = SHOWN.replace("print(", "running = desktop.furnish(window, recover=False); app.processEvents()\nprint(")
FURNISHED = FURNISHED.replace("- start)", "- start, flush=True)") + "import os; os._exit(0)\n"


def main() -> None:
    """Prints medians of seven interleaved rounds."""
    shown, bare, ratio = interleaved(lambda: printed_seconds(SHOWN), lambda: printed_seconds(BARE), 7)
    report("window shown against a bare main window", ratio=ratio, shown_s=shown, bare_s=bare)
    full, bare, ratio = interleaved(lambda: printed_seconds(FURNISHED), lambda: printed_seconds(BARE), 7)
    report("window with the job in it against a bare main window", ratio=ratio, furnished_s=full, bare_s=bare)
    cut, python, ratio = interleaved(
        lambda: process_seconds(["-m", "lesna", "cut", DEMO, "--json"]),
        lambda: process_seconds(["-c", "import pydantic, numpy\nclass A(pydantic.BaseModel): x: int"]), 7,
    )  # fmt: skip
    report("lesna cut on the demo against Python with pydantic and NumPy", ratio=ratio, cut_s=cut, python_s=python)
