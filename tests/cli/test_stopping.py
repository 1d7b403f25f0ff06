"""Ctrl-C at any moment of a command: words, a known exit code, and soon."""

import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import time
import unittest

from lesna.cli import refusal
from lesna.cli.common import _json
from lesna.data.places import shipped_folder

JOB = shipped_folder() / "demo" / "sluice-hinge-block.lesna"


class Stopping(unittest.TestCase):
    def test_a_large_map_is_given_up_in_words(self) -> None:
        for after in (0.7, 2.2):
            process = subprocess.Popen(
                [sys.executable, "-m", "lesna", "map", str(JOB), "--cut", "Rough cavity", "--size", "512x512", "--json"],
                stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True, env=os.environ,
                # whoever runs behind a terminal, or under nohup, is told to pass over it
                preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
            )  # fmt: skip
            time.sleep(after)
            process.send_signal(signal.SIGINT)
            said = process.communicate(timeout=20)[1]
            self.assertEqual((process.returncode, said.strip()), (2, "lesna: stopped"))

    def test_what_goes_wrong_once_it_was_asked_for_comes_of_that(self) -> None:
        said = io.StringIO()
        with contextlib.redirect_stderr(said), self.assertRaises(SystemExit):
            refusal.ASKED_TO_STOP.set()
            self.addCleanup(refusal.ASKED_TO_STOP.clear)
            refusal.fail("no compiled object yet")
        self.assertEqual(said.getvalue(), "lesna: stopped\n")

    def test_what_is_printed_in_pieces_is_json(self) -> None:
        data = {"a": {"b": [1.5, {"c": None}], "d": {}}, "ü": "x", "e": []}
        self.assertEqual("".join(_json(data)), json.dumps(data, ensure_ascii=False))
