"""Starting and ending: the window is up first, then furnished; pictures of the views."""

import builtins
import json
import shutil
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import QTimer
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from lesna.desktop import app as desktop
from lesna.desktop import shots
from lesna.desktop.memory import Memory
from lesna.desktop.window import MainWindow
from lesna.model.resolve import CutParts, Shelf
from lesna.model.work import Pulse
from lesna.planning.schools import ranking
from lesna.planning.schools.ranking import rank_tools
from lesna.planning.search import more
from lesna.planning.search.aims import Aim
from tests.desktop.coarse import coarse
from tests.desktop.driver import APP, wait_for
from tests.desktop.remembering import remembering
from tests.support import DEMOS, HINGE


class OpenWindow(unittest.TestCase):
    def run_window(self, *args: object, demo: bool = False) -> tuple[int, str]:
        """Runs the application until the workbench is in, then closes; gives exit code and window title."""
        titles: list[str] = []

        def look() -> None:
            windows = [w for w in QApplication.topLevelWidgets() if isinstance(w, MainWindow) and w.isVisible()]
            if windows and windows[0].bench is not None and windows[0].bench.answers.map.value is not None:
                titles.append(windows[0].windowTitle())
                timer.stop()
                windows[0].close()
                APP.quit()

        timer = QTimer()
        timer.timeout.connect(look)
        timer.start(20)
        APP.setQuitOnLastWindowClosed(False)
        code = desktop.open_window(*args, demo=demo)  # type: ignore[arg-type]
        APP.setQuitOnLastWindowClosed(True)
        return code, titles[0]

    def setUp(self) -> None:
        Memory()._settings.clear()
        self.enterContext(coarse())
        self.enterContext(remembering())

    def test_a_job_opens_and_is_there_next_time(self) -> None:
        self.assertEqual(self.run_window(DEMOS[0]), (0, f"Gauge panel[*] ({DEMOS[0].name})"))
        self.assertEqual(self.run_window(None)[1], f"Gauge panel[*] ({DEMOS[0].name})")
        self.assertIn("Sluice hinge block", self.run_window(None, demo=True)[1])

    def test_the_first_time_it_is_the_demo(self) -> None:
        self.assertIn("not saved yet", self.run_window(None)[1])

    def test_without_a_display_it_says_so(self) -> None:
        with mock.patch.dict(desktop.os.environ, clear=True), mock.patch("builtins.print") as said:
            self.assertEqual(desktop.open_window(None), 2)
        self.assertIn("no display", said.call_args[0][0])


class Shell(unittest.TestCase):
    def test_the_bare_window_paints_and_can_say_what_failed(self) -> None:
        window = MainWindow(Memory())
        window.show()
        before = window.grab().toImage()
        window.say("a part of Lesna cannot be loaded")
        self.assertNotEqual(window.grab().toImage(), before)
        window.close()

    def test_a_package_that_is_missing_becomes_a_sentence(self) -> None:
        loader, said = desktop._Loader(), []
        loader.failed.connect(said.append)

        def no_workbench(name: str, *args: object, **kwargs: object) -> object:
            if name == "lesna.desktop.workbench":
                raise ImportError("No module named 'numpy'")
            return real(name, *args, **kwargs)  # type: ignore[arg-type]

        real = builtins.__import__
        with mock.patch.object(builtins, "__import__", no_workbench):
            loader._load()
        wait_for(lambda: bool(said))
        self.assertIn("numpy", said[0])


class Remembered(unittest.TestCase):
    def test_recent_jobs_latest_first_without_those_that_are_gone(self) -> None:
        memory = Memory()
        memory._settings.clear()
        with tempfile.TemporaryDirectory() as folder:
            gone = Path(folder) / "gone.lesna"
            gone.write_text(HINGE.read_text())
            for path in (HINGE, gone, DEMOS[0], HINGE):
                memory.remember(path)
            self.assertEqual(memory.recent(), [HINGE.resolve(), DEMOS[0].resolve(), gone.resolve()])
        self.assertEqual(memory.recent(), [HINGE.resolve(), DEMOS[0].resolve()])

    def test_theme_and_tour(self) -> None:
        memory = Memory()
        memory._settings.clear()
        self.assertEqual((memory.theme, memory.tour_seen), ("day", False))
        memory.theme = "night"
        memory.tour_done()
        self.assertEqual((Memory().theme, Memory().tour_seen), ("night", True))
        memory.theme = "day"


def small_jobs(folder: Path) -> None:
    """The jobs of the pictures with less to do: two cuts of the block, coarse ways and one level of a program."""
    for path in (*DEMOS, *(file for ending in ("nc", "dxf", "cl") for file in DEMOS[0].parent.glob(f"*.{ending}"))):
        shutil.copy(path, folder)
    block = json.loads((folder / desktop.DEMO).read_text())
    block["cuts"] = block["cuts"][:2]
    (folder / desktop.DEMO).write_text(json.dumps(block))
    plate = json.loads((folder / "valve-plate.lesna").read_text())
    small = {"kind": "pocket", "length_mm": 24.0, "width_mm": 20.0, "depth_mm": 3.0}
    plate["cuts"][0].update(ae_mm=3.0, ap_mm=3.0, feature=small)
    (folder / "valve-plate.lesna").write_text(json.dumps(plate))
    program = (folder / "hinge-block-cavity.nc").read_text().splitlines()
    (folder / "hinge-block-cavity.nc").write_text("\n".join([*program[:14], "N430 G0 Z10.", "M30", "%"]))
    channel = (folder / "runner-channel.cl").read_text().splitlines()
    (folder / "runner-channel.cl").write_text("\n".join([*channel[:96], "FINI", ""]))
    runner = json.loads((folder / "paddle-runner.lesna").read_text())
    runner["cuts"][0]["program"]["stock"] = "block:36,-14,-20,64,14,0"
    (folder / "paddle-runner.lesna").write_text(json.dumps(runner))


def few_tools(parts: CutParts, shelf: Shelf, aim: Aim, *, pulse: Pulse) -> Any:
    """Ranks two tools of a library."""
    few = mock.Mock(wraps=shelf, tools={id: shelf.tools[id] for id in ("sq-d12-z4", "sq-d10-z4")},
                    cutting_data=shelf.cutting_data, holders=shelf.holders, tapers=shelf.tapers)  # fmt: skip
    return rank_tools(parts, few, aim, pulse=pulse)


class Pictures(unittest.TestCase):
    def test_every_view_renders_at_its_size(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            small_jobs(folder)
            with (
                mock.patch.object(shots, "DEMO", folder),
                mock.patch.object(desktop, "demo_job", lambda: folder / desktop.DEMO),
                mock.patch.object(ranking, "rank_tools", few_tools),
                mock.patch.object(more, "PROPOSALS", more.PROPOSALS[5:6]),
                mock.patch.multiple(shots, LATE_MS=20, LOOKS=10, WISHES=shots.WISHES[2:]),
                coarse(),
                remembering(),
            ):
                files = shots.take(folder / "pictures", list(shots.VIEWS))
            self.assertEqual([f.stem for f in files], list(shots.VIEWS))
            for file in files:
                image = QImage(str(file))
                self.assertEqual((image.width(), image.height()), shots.VIEWS[file.stem][1])
                colours = {image.pixel(x, y) for x in range(0, image.width(), 8) for y in range(0, image.height(), 8)}
                self.assertGreater(len(colours), 30, "a picture, not a blank page")

    def test_the_published_pictures_are_these(self) -> None:
        published = {path.stem for path in (Path(__file__).parents[2] / "docs" / "screenshots").glob("*.png")}
        self.assertEqual(published, set(shots.VIEWS))
