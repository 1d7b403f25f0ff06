"""Writes the sample bank of Kilnbrook Lock Works: `python tools/make_demo_bank.py`.

Invented trials on the cuts of the sample jobs, drawn from seeds round what the tables say of each, with good and bad outcomes.
"""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from lesna.bank.exchange import MARK
from lesna.bank.store import plain
from lesna.data.library import Library
from lesna.data.places import shipped_folder
from lesna.document.drawings import Drawings
from lesna.learning.edges import CRITERION, land_share
from lesna.learning.settings import columns_of, setting_of
from lesna.model.files import load_job, write_atomic
from lesna.model.trials import Reading
from lesna.physics import engine
from lesna.planning.cut.result import Result
from lesna.planning.evaluate import evaluate

OUT = shipped_folder() / "demo" / "kilnbrook-bank.json"
_RUN_IN, _SCATTER, _FORCE = 0.22, 0.28, 1.08


@dataclass(frozen=True)
class Tried:
    """One edge: minutes of its looks, how it ended, and what was special about it.

    `feed`, `speed` and `life` multiply what the cut and the shop have; `seen` goes into its last reading.
    """

    looks: tuple[float, ...]
    end: str = ""
    feed: float = 1.0
    speed: float = 1.0
    life: float = 1.0
    seen: dict[str, Any] = field(default_factory=dict)


#: job, cut, trial, day of its first look, life of this shop over the table's, and the edges
TRIALS: tuple[tuple[str, str, str, str, float, tuple[Tried, ...]], ...] = (
    ("sluice-hinge-block", "Rough cavity", "Hinge cavity", "2026-09-08", 1.3, (
        Tried((12, 25, 48, 66), "worn"), Tried((12, 30, 52), "good", feed=1.1), Tried((11, 24, 45), "worn", feed=1.2),
        Tried((6,), "worn", feed=1.2, life=0.2, seen={"wear_kind": "chipping", "wear_zone": "corner", "vb_mm": 0.31,
              "note": "air nozzle stood beside the cut, chips cut again"}),
        Tried((12, 26), "good", feed=1.35, seen={"wear_kind": "uniform"}),
        Tried((8,), "", feed=1.5, seen={"wear_kind": "chipping", "wear_zone": "flute", "vb_mm": 0.07, "sound": "harsher than before"}),
        Tried((10, 22, 38), "worn", feed=1.35, speed=1.1), Tried((15, 40), "good", feed=1.35, speed=0.95))),
    ("sluice-hinge-block", "Pin slot", "Pin slot", "2026-09-29", 0.9, (
        Tried((14, 40, 63), "worn"), Tried((14, 38), "good"),
        Tried((9,), "", feed=1.2, seen={"sound": "chatter", "finish": "marks at even distance on the wall"}),
        Tried((12, 35, 58), "worn"))),
    ("sensor-bracket", "Rough outside", "Bracket outside", "2026-10-06", 0.75, (
        Tried((10, 22, 41), "worn", seen={"wear_kind": "notch", "wear_zone": "depth_line", "vb_mm": 0.5}),
        Tried((10, 25, 38), "worn", seen={"wear_zone": "corner"}), Tried((9, 20), "good", feed=1.1),
        Tried((7,), "worn", speed=1.25, life=0.5, seen={"wear_kind": "deformation", "wear_zone": "corner", "vb_mm": 0.42,
              "chip_colour": "blue"}),
        Tried((10, 30, 52), "worn", speed=0.9))),
    ("paddle-gear-housing", "Bearing shelf", "Housing shelf", "2026-10-20", 1.1, (
        Tried((12, 26, 46), "worn"), Tried((12, 30), "good", feed=1.1), Tried((10, 22, 39), "worn", feed=1.2))),
    ("gauge-panel", "Window rough", "Panel window", "2026-11-03", 1.0, (
        Tried((30, 120), ""), Tried((15,), "good", speed=0.5, seen={"wear_kind": "built_up", "wear_zone": "flute", "vb_mm": 0.05,
              "finish": "smeared"}))),
    ("sluice-hinge-block", "Cavity floor", "Cavity floor", "2026-11-17", 1.0, (Tried((15, 45)), Tried((20,), "good"))),
    ("valve-plate", "Seat rough", "Valve seat", "2026-11-10", 1.15, (
        Tried((12, 28), ""), Tried((8,), "", feed=1.25, seen={"sound": "chatter at the corners"}), Tried((12, 31, 55), "worn"))),
)  # fmt: skip
#: what was proven: job, cut, title, and the minutes and edges that say so
RECIPES = (
    ("sluice-hinge-block", "Rough cavity", "Hinge cavity, light and deep", 1.35, "Hinge cavity"),
    ("sluice-hinge-block", "Rough cavity", "Hinge cavity, careful start", 1.0, "Hinge cavity"),
    ("sluice-hinge-block", "Pin slot", "Pin slot by loops", 1.0, "Pin slot"),
    ("sluice-hinge-block", "Face top", "Hinge block, top face", 1.0, ""),
    ("sluice-hinge-block", "Cavity floor", "Hinge cavity, floor in high feed", 1.0, ""),
    ("sluice-hinge-block", "Cavity walls", "Hinge cavity, walls finished", 1.0, ""),
    ("sensor-bracket", "Rough outside", "Bracket outside, thin and deep", 1.0, "Bracket outside"),
    ("sensor-bracket", "Bowl, ball pass", "Bracket bowl, ball pass", 1.0, ""),
    ("paddle-gear-housing", "Bearing shelf", "Bearing shelf with inserts", 1.2, "Housing shelf"),
    ("paddle-gear-housing", "Flange face", "Flange face", 1.0, ""),
    ("gauge-panel", "Window rough", "Panel window, light and fast", 1.0, "Panel window"),
    ("valve-plate", "Seat rough", "Valve seat, light", 1.0, "Valve seat"),
)
#: what a recipe says of its set-up
_OF_SETUP = ("material", "hardness_hrc", "tool_kind", "DC", "ZEFP", "RE", "substrate", "coating", "tool_id", "stick_out_mm", "holder",
             "machine", "coolant", "strategy", "direction")  # fmt: skip
_WHO = ("shift A", "shift B", "tool room")


def results() -> dict[tuple[str, str], Result]:
    """Result of every cut of the sample jobs."""
    engine.ready()
    library, out = Library(), {}
    for path in sorted((shipped_folder() / "demo").glob("*.lesna")):
        job = Drawings().of(load_job(path), path.parent)
        for index, cut in enumerate(job.cuts):
            out[path.stem, cut.name] = evaluate(job, index, library, wait=False)
    return out


def readings_of(
    job: str, result: Result, trial: str, day: str, shop: float, edges: tuple[Tried, ...], rng: np.random.Generator
) -> list[Reading]:
    """The readings of one trial."""
    out, date = [], np.datetime64(day)
    for number, tried in enumerate(edges, start=1):
        base = columns_of(result)
        n, vf = round(base["n_rpm"] * tried.speed), round(base["vf_mm_min"] * tried.speed * tried.feed)
        fz = vf / (n * base["ZEFP"])
        found = setting_of(result.setup.parts.with_cut(n_rpm=float(n), vc_m_min=None, fz_mm=fz, hex_mm=None, book=None))
        life = found.life * shop * tried.life * math.exp(rng.normal(0, _SCATTER))
        # an edge that ends worn does so at its last look
        life = tried.looks[-1] if tried.end == "worn" else max(life, tried.looks[-1] * 1.4)
        for place, minutes in enumerate(tried.looks):
            is_last = place + 1 == len(tried.looks)
            land = CRITERION * float(land_share(np.array(minutes / life), np.array(_RUN_IN)))
            land = round(max(land + rng.normal(0, 0.01), 0.0), 2)
            load = (found.idle_load or 0.0) + (found.cut_load or 0.0) * _FORCE * (1 + land) * (1 + rng.normal(0, 0.03))
            values = {
                **base, "trial": trial, "edge": f"E{number}", "step": number, "taken_on": str(date + number - 1), "who": _WHO[number % 3],
                "job": job, "n_rpm": n, "vf_mm_min": vf, "minutes": minutes, "load_pct": round(load), "vb_mm": land,
                "wear_kind": "uniform" if land >= 0.03 else "none", "wear_zone": "corner" if land >= 0.03 else None,
                "retired": tried.end if is_last else "", "chip_colour": "straw", "sound": "calm",
                **(tried.seen if is_last else {}),
            }  # fmt: skip
            out.append(Reading.read({key: value for key, value in values.items() if value is not None}))
    return out


def main() -> None:
    """Writes the file."""
    rng = np.random.default_rng(1926)
    known = results()
    readings: list[Reading] = []
    trials = []
    for job, cut, trial, day, shop, edges in TRIALS:
        readings += readings_of(job, known[job, cut], trial, day, shop, edges, rng)
        trials.append({"id": trial, "job": job, "cut": cut, "note": "invented, Kilnbrook Lock Works"})
    recipes = [
        recipe(known[job, cut], title, job, feed, [one for one in readings if one.trial == trial])
        for job, cut, title, feed, trial in RECIPES
    ]
    data = {MARK: 1, "recipes": recipes, "trials": trials, "readings": [plain(one) for one in readings]}
    write_atomic(OUT, (json.dumps(data, indent=1, ensure_ascii=False) + "\n").encode())
    print(f"{Path(OUT).name}: {len(readings)} readings, {len(recipes)} recipes")


def _ran_at(one: Reading, feed: float, speed: float) -> bool:
    return bool(
        one.vf_mm_min and one.n_rpm and abs(one.vf_mm_min / feed - 1) < 0.05 and abs(one.n_rpm / speed - 1) < 0.05
    )


def recipe(result: Result, title: str, job: str, feed: float, proof: list[Reading]) -> dict[str, Any]:
    """A recipe with what says that it holds."""
    parts, state = result.setup.parts, result.state
    base = columns_of(result)
    # only what ran like this proves it
    set_ = (base["vf_mm_min"] * feed, base["n_rpm"])
    proof = [one for one in proof if _ran_at(one, *set_)]
    minutes = sum(
        max((one.minutes for one in proof if one.edge == edge), default=0.0) for edge in {one.edge for one in proof}
    )
    edges = len({one.edge for one in proof})
    q = float(state.q) * feed
    return {
        "id": title, "job": job, "cut": parts.cut.name, "role": parts.cut.role,
        "setup": {key: base[key] for key in _OF_SETUP if key in base},
        "set": {"ae_mm": base["ae_mm"], "ap_mm": base["ap_mm"], "n_rpm": round(base["n_rpm"]), "vf_mm_min": round(base["vf_mm_min"] * feed),
                "fz_mm": round(float(state.fz) * feed, 4), "q_cm3_min": round(q, 2)},
        "evidence": {"edges": edges, "minutes": minutes, "cm3_per_edge": round(q * minutes / edges) if edges else None,
                     "readings": sorted({one.trial for one in proof})},
    }  # fmt: skip


if __name__ == "__main__":
    main()
