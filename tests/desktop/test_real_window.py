"""One smoke test in a real window, where a virtual screen is to be had."""

import os
import shutil
import subprocess
import sys
import unittest

#: the way a user starts it; leaving does not wait for sums that are still being compiled
CODE = """
import sys
import lesna.__main__
from PySide6.QtCore import QTimer
from lesna.desktop import app as lesna_app
from PySide6.QtWidgets import QApplication
import lesna.desktop.workbench
app = lesna_app.application()
print(app.platformName(), flush=True)
QTimer.singleShot(6000, lambda: [w.close() for w in QApplication.topLevelWidgets()])
def look():
    window = next(w for w in QApplication.topLevelWidgets() if w.isVisible() and hasattr(w, "bench"))
    print(window.bench is not None and len(window.bench.rail.cards), flush=True)
QTimer.singleShot(4000, look)
sys.argv = ["lesna", "--demo"]
raise SystemExit(lesna.__main__.main())
"""


class RealWindow(unittest.TestCase):
    @unittest.skipUnless(shutil.which("xvfb-run"), "no virtual screen here")
    def test_the_demo_comes_up_and_goes(self) -> None:
        environment = {k: v for k, v in os.environ.items() if k != "QT_QPA_PLATFORM"}
        done = subprocess.run(["xvfb-run", "-a", sys.executable, "-c", CODE], capture_output=True, text=True,
                              env=environment, timeout=90, check=False)  # fmt: skip
        if "could not connect" in done.stderr or "no Qt platform plugin" in done.stderr:
            self.skipTest("the screen libraries of Qt are not here")
        self.assertEqual((done.returncode, done.stdout.split()), (0, ["xcb", "5"]), done.stderr)
