"""A command run in this process: exit code, standard output, standard error."""

from __future__ import annotations

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from lesna.cli.main import Front, run


class CommandTest(unittest.TestCase):
    """Each test has a scratch folder and a way to call commands in it."""

    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.opened: list[tuple[Path | None, bool]] = []

    def call(self, *args: object) -> tuple[int, str, str]:
        """Runs a command."""

        def open_window(path: Path | None, demo: bool) -> int:
            self.opened.append((path, demo))
            return 0

        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = run(Front(open_window, lambda html: b"%PDF-" + html.encode()), [str(a) for a in args])
        return code, out.getvalue(), err.getvalue()

    def answer(self, *args: object) -> dict[str, Any]:
        """The JSON object of a command that must succeed and say nothing else."""
        code, out, err = self.call(*args, "--json")
        self.assertEqual((code, err), (0, ""))
        data: dict[str, Any] = json.loads(out)
        self.assertEqual(data["lesna"], 1)
        return data

    def write(self, data: Any, name: str = "job.lesna") -> Path:
        """A file in the scratch folder."""
        path = self.folder / name
        path.write_text(data if isinstance(data, str) else json.dumps(data))
        return path

    def refused(self, *args: object) -> str:
        """The one line of a command that must be refused."""
        code, out, err = self.call(*args)
        self.assertEqual((code, out), (2, ""))
        self.assertRegex(err, r"\Alesna: [^\n]+\n\Z")
        self.assertNotIn("Traceback", err)
        return err
