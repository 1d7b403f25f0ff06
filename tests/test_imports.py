"""The direction of imports, and that nothing outside the desktop needs Qt."""

from __future__ import annotations

import ast
import pkgutil
import subprocess
import sys
import unittest
from functools import cache
from pathlib import Path

import lesna

ROOT = Path(lesna.__file__).parent
#: each room may import only rooms before it in this list, and itself
ORDER = (
    "model",
    "data",
    "physics",
    "geometry",
    "devices",
    "nc",
    "stock",
    "paths",
    "surface",
    "planning",
    "learning",
    "document",
    "report",
    "bank",
    "cli",
    "desktop",
)
#: rooms that know no other than these
NARROW = {"physics": {"physics"}, "devices": {"model", "physics", "devices"}, "nc": {"model", "geometry", "nc"},
          "stock": {"model", "physics", "geometry", "stock"}, "paths": {"model", "physics", "geometry", "paths"},
          "surface": {"model", "physics", "surface"},
          "model": {"model"}, "data": {"model", "data"}, "cli": set(ORDER) - {"desktop"},
          "desktop": set(ORDER) - {"cli"}}  # fmt: skip
FILE_READERS = {"model/files.py", "model/schema.py"}


def modules(room: str = "") -> list[Path]:
    return sorted((ROOT / room).rglob("*.py"))


@cache
def said(path: Path) -> tuple[frozenset[str], frozenset[str]]:
    """What a module imports and what it calls by a plain name, read once for every test."""
    imports, calls = set(), set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            imports |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            imports.add(node.module)
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
            calls.add(node.func.id)
    return frozenset(imports), frozenset(calls)


def imported(path: Path) -> frozenset[str]:
    return said(path)[0]


class ImportDirection(unittest.TestCase):
    def test_rooms_import_only_rooms_before_them(self) -> None:
        for room in ORDER:
            allowed = NARROW.get(room, set(ORDER[: ORDER.index(room) + 1]))
            for path in modules(room):
                for name in imported(path):
                    if name.startswith("lesna.") and name.split(".")[1] in ORDER:
                        with self.subTest(module=str(path.relative_to(ROOT)), imports=name):
                            self.assertIn(name.split(".")[1], allowed)

    def test_every_room_is_in_the_order(self) -> None:
        rooms = {p.name for p in ROOT.iterdir() if p.is_dir() and (p / "__init__.py").exists()}
        self.assertEqual(rooms, set(ORDER))

    def test_only_the_desktop_names_qt(self) -> None:
        for path in modules():
            if "desktop" not in path.relative_to(ROOT).parts:
                heavy = [n for n in imported(path) if n.split(".")[0] in ("PySide6", "shiboken6", "pyqtgraph")]
                self.assertEqual(heavy, [], path)

    def test_only_the_bank_names_sql(self) -> None:
        for path in modules():
            if "bank" not in path.relative_to(ROOT).parts:
                named = [n for n in imported(path) if n.split(".")[0] in ("sqlalchemy", "alembic", "sqlite3")]
                self.assertEqual(named, [], path)

    def test_core_opens_no_files_of_its_own(self) -> None:
        for room in ("model", "physics", "geometry", "devices", "planning", "learning", "document"):
            for path in modules(room):
                if str(path.relative_to(ROOT)) in FILE_READERS:
                    continue
                self.assertNotIn("open", said(path)[1], path)

    def test_everything_but_the_desktop_imports_where_qt_cannot(self) -> None:
        # kernels come past their loader, which knows where they are kept
        apart = ("lesna.desktop", "lesna.__main__", "lesna.bank.migrations.env", "lesna.physics.compiled.")
        names = [m.name for m in pkgutil.walk_packages([str(ROOT)], "lesna.") if not m.name.startswith(apart)]
        self.assertGreater(len(names), 40)
        code = "import sys; sys.modules['PySide6'] = None\nimport importlib\n"
        code += "".join(f"importlib.import_module({name!r})\n" for name in names)
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)

    def test_the_window_needs_nothing_heavy_to_appear(self) -> None:
        code = ("import lesna.desktop.app, lesna.cli.main, sys;"
                "print([m for m in ('numpy', 'pydantic', 'contourpy', 'jinja2') if m in sys.modules])")  # fmt: skip
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.strip(), "[]")


if __name__ == "__main__":
    unittest.main()
