"""Learning from edges, and a large bank: one thread, warm."""

from __future__ import annotations

import statistics
import tempfile
from pathlib import Path

import numpy as np

from bench.timing import millis, report
from lesna.bank.store import Bank
from lesna.learning.edges import CRITERION, Edge, Look, land_share
from lesna.learning.posterior import fit, prior_covariance
from lesna.model.trials import Reading

_EDGES, _LOOKS, _READINGS = 200, 5, 20_000


def edges(count: int) -> list[Edge]:
    """Edges of one set-up at settings of their own, each looked at five times until it is worn."""
    rng = np.random.default_rng(1)
    out = []
    for k in range(count):
        x = rng.normal(0.0, 0.2, 2)
        table = 45.0 * float(np.exp(-4.0 * x[0] - 1.1 * x[1]))
        life, looks, before = table * float(np.exp(0.3 * rng.normal())), [], 0.0
        for share in np.linspace(1 / _LOOKS, 1.0, _LOOKS):
            land = max(
                0.0, CRITERION * float(land_share(np.array(share), np.array(0.25))) + float(rng.normal(0, 0.015))
            )
            looks.append(
                Look(
                    life * share - before,
                    table,
                    (float(x[0]), float(x[1])),
                    land,
                    "uniform",
                    "worn" if share == 1.0 else "",
                )
            )
            before = life * share
        out.append(Edge(str(k), tuple(looks)))
    return out


def main() -> None:
    """Prints the medians."""
    many, covariance, level = edges(_EDGES), prior_covariance(0.25, 0.28), np.array([1.0, 0.0, 0.0])
    fit(many, covariance, level)
    times = millis(lambda: fit(many, covariance, level), 10)
    report(
        f"fit of {_EDGES} edges x {_LOOKS} looks",
        median_ms=statistics.median(times),
        of_300_ms=statistics.median(times) / 300,
    )
    setting = {"tool_kind": "square", "DC": 10.0, "vb_mm": 0.1}
    given = [
        Reading.read(
            {
                **setting,
                "trial": f"T{k // 50}",
                "edge": f"E{k // 5}",
                "minutes": float(k % 5 + 1),
                "material": f"m{k // 1000}",
            }
        )
        for k in range(_READINGS)
    ]
    with tempfile.TemporaryDirectory() as scratch:
        path = Path(scratch) / "bank.db"
        with Bank(path) as bank:
            bank.log(given)
            wanted = [next(iter(bank.setups()))]
            listed = millis(lambda: bank.readings_of(wanted), 10)
        opened = millis(lambda: Bank(path).close(), 10)
    report(
        f"bank of {_READINGS} readings", open_ms=statistics.median(opened), scope_of_1000_ms=statistics.median(listed)
    )
