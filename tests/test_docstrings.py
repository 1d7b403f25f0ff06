"""Docstrings keep their promises: parameters as in the signature, units known, examples run."""

from __future__ import annotations

import ast
import doctest
import importlib
import inspect
import pkgutil
import re
import unittest
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from types import FunctionType, ModuleType

import lesna
import lesna.physics
from lesna.physics import compiled

ROOMS = ("model", "data", "physics", "geometry", "devices", "planning", "document", "report")
NOMENCLATURE = Path(__file__).parent.parent / "docs" / "nomenclature.md"


def core_modules(rooms: tuple[str, ...] = ROOMS) -> Iterator[ModuleType]:
    for kernels in compiled.MODULES:
        compiled.load_module(kernels)
    for found in pkgutil.walk_packages(lesna.__path__, "lesna."):
        if found.name.split(".")[1] in rooms:
            yield importlib.import_module(found.name)


def public_functions(module: ModuleType) -> Iterator[FunctionType]:
    for name, item in vars(module).items():
        if inspect.isfunction(item) and item.__module__ == module.__name__ and not name.startswith("_"):
            yield item


def asked_from_outside() -> Counter[tuple[str, str]]:
    """How many rooms besides its own use a name of physics: (module, name) to a count."""
    rooms: dict[tuple[str, str], set[Path]] = {}
    for path in Path(lesna.__path__[0]).rglob("*.py"):
        if "physics" in path.parts:
            continue
        text = path.read_text(encoding="utf-8")
        if "lesna.physics" not in text:
            continue
        nodes, seen, known = list(ast.walk(ast.parse(text))), set(), {}
        for node in nodes:
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("lesna.physics"):
                seen |= {(str(node.module), alias.name) for alias in node.names}
                known |= {alias.asname or alias.name: f"{node.module}.{alias.name}" for alias in node.names}
        for node in nodes:
            if isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name) and node.value.id in known:
                seen.add((known[node.value.id], node.attr))
        for name in seen:
            rooms.setdefault(name, set()).add(path.parent)
    return Counter({name: len(users) for name, users in rooms.items()})


def described(doc: str) -> dict[str, str]:
    """Names and descriptions of the Parameters section."""
    section = re.search(r"Parameters\n-+\n(.*?)(?:\n\n[A-Z][a-z]+\n-+|\Z)", inspect.cleandoc(doc), re.S)
    out: dict[str, str] = {}
    for match in re.finditer(r"^(\w[\w, ]*) : .*\n((?:    .*\n?)*)", section[1] if section else "", re.M):
        for name in match[1].split(","):
            out[name.strip()] = match[2]
    return out


class Docstrings(unittest.TestCase):
    def test_every_public_name_of_the_core_has_one(self) -> None:
        for module in core_modules():
            self.assertTrue(module.__doc__, module.__name__)
            for name, item in vars(module).items():
                own = getattr(item, "__module__", None) == module.__name__
                if own and not name.startswith("_") and (inspect.isclass(item) or inspect.isfunction(item)):
                    with self.subTest(name=f"{module.__name__}.{name}"):
                        self.assertTrue(inspect.getdoc(item))

    def test_what_other_rooms_ask_of_physics_names_every_parameter_with_a_known_unit(self) -> None:
        users = asked_from_outside()
        known = set(re.findall(r"`\[([^\]]+)\]`", NOMENCLATURE.read_text(encoding="utf-8")))
        self.assertIn("mm", known)
        for module in core_modules(("physics",)):
            for function in public_functions(module):
                notes = described(function.__doc__ or "")
                if users[module.__name__, function.__name__] < 2 and not notes:
                    continue  # what one neighbour calls has a line
                with self.subTest(function=f"{module.__name__}.{function.__name__}"):
                    self.assertEqual(set(notes), set(inspect.signature(function).parameters))
                    for unit in re.findall(r"\[([^\]]+)\]", "".join(notes.values())):
                        self.assertIn(unit, known)

    def test_examples_run(self) -> None:
        tried = 0
        for module in core_modules():
            if ">>>" not in inspect.getsource(module):
                continue
            outcome = doctest.testmod(module)
            self.assertEqual(outcome.failed, 0, module.__name__)
            tried += outcome.attempted
        self.assertGreater(tried, 12)


if __name__ == "__main__":
    unittest.main()
