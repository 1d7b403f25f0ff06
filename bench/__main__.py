"""All benchmarks in one run: ``python -m bench [NAME ...]``."""

from __future__ import annotations

import importlib
import sys

NAMES = (
    "planning",
    "forces",
    "accuracy",
    "compare",
    "program",
    "paths",
    "surface",
    "five_axes",
    "drag",
    "start",
    "learning",
    "units",
)

for name in sys.argv[1:] or NAMES:
    importlib.import_module(f"bench.{name}").main()
