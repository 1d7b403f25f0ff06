"""A run in numbers, as screen, sheet and command line show them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from lesna.geometry.motion import RAPID
from lesna.physics import Array
from lesna.planning.cut.life import law_of, multiplier
from lesna.planning.program.leaning import AxisUse, Leaning
from lesna.planning.program.places import Finding
from lesna.planning.program.run import Run, held_feed

#: seconds of a minute, minutes of an hour
_SIXTY = 60.0
#: places that a list names at most
_LISTED = 200


@dataclass(frozen=True)
class Turning:
    """What a program asks of the rotary axes, and how finely that was looked at.

    Attributes
    ----------
    axes : tuple of AxisUse
        Both of them.
    limited : float
        Share of the way in contact on which an axis, not the feed, says how fast the tip goes [-].
    cell : float
        Edge of the cells of the stock [mm].
    """

    axes: tuple[AxisUse, ...]
    limited: float
    cell: float

    def data(self) -> dict[str, Any]:
        """What ``lesna nc check --json`` adds."""
        return {
            "axes": 5, "reach_limited_pct": 100.0 * self.limited, "axis_use": {axis.letter: axis.share for axis in self.axes},
            "cell_mm": self.cell,
            "rotary": [
                {"letter": axis.letter, "least_deg": axis.low, "greatest_deg": axis.high, "way_deg": axis.way,
                 "reversal_lines": list(axis.reversals[:_LISTED]), "reversals": len(axis.reversals)}
                for axis in self.axes
            ],
        }  # fmt: skip


@dataclass(frozen=True)
class Summary:
    """A run in numbers.

    Attributes
    ----------
    time, cut_time, rapid_time : float
        Whole time, time with material in contact, time of rapids [s].
    removed, torn : float
        Volume taken off by the judged tool at a feed, and by its rapids [cm3].
    fxy_peak, fxy_p95 : float
        Side force at its peak, and what 95 % of the way in contact stays under [N].
    power_peak, torque_peak : float
        Mean power over a turn at its greatest [kW], torque at its peak [Nm].
    deflection, hex, depth : float
        Greatest deflection [um], chip and depth [mm].
    level, speed, feed : float
        Depth [mm], spindle speed [1/min] and programmed feed [mm/min] of most of the way in contact, 0 where there is none.
    angle_max, angle_median : float
        Engaged angle [deg]; the median by length.
    uses : dict
        Greatest use of every limit [-].
    lines : dict
        Line at which each limit is used most.
    flux : float
        Volume that the engaged angles take off over what the cells count [-]; 1 is perfect.
    held : float or None
        Feed that the geometry lets the machine hold [mm/min].
    unreached : float
        Share of the way in contact on which the programmed feed is not reached [-].
    edges : float or None
        Edges that a part uses up; None where the tables know no life [-].
    blocks : int
        Moves of the program.
    findings : tuple of Finding
        What should not be touched.
    turning : Turning or None
        What the rotary axes do; None in three axes.
    """

    time: float
    cut_time: float
    rapid_time: float
    removed: float
    torn: float
    fxy_peak: float
    fxy_p95: float
    power_peak: float
    torque_peak: float
    deflection: float
    hex: float
    depth: float
    level: float
    speed: float
    feed: float
    angle_max: float
    angle_median: float
    uses: dict[str, float]
    lines: dict[str, int]
    flux: float
    held: float | None
    unreached: float
    edges: float | None
    blocks: int
    findings: tuple[Finding, ...]
    turning: Turning | None = None

    @property
    def by_use(self) -> list[tuple[str, float]]:
        """Limits and their uses, the most used first."""
        return sorted(self.uses.items(), key=lambda pair: -pair[1])

    def data(self) -> dict[str, Any]:
        """The object of ``lesna nc check --json``."""
        by_kind: dict[str, list[Finding]] = {}
        for finding in self.findings:
            by_kind.setdefault(finding.kind, []).append(finding)

        def listed(kind: str, value: str | None = None) -> list[dict[str, Any]]:
            return [
                {**dict(zip("xyz", (round(v, 4) for v in f.place), strict=True)), **({value: round(f.value, 4)} if value else {}),
                 "line": f.line} for f in by_kind.get(kind, [])[:_LISTED]
            ]  # fmt: skip

        return {
            "time_s": self.time, "cut_time_s": self.cut_time, "rapid_time_s": self.rapid_time, "removed_cm3": self.removed,
            "fxy_peak_n": self.fxy_peak, "fxy_p95_n": self.fxy_p95, "power_peak_kw": self.power_peak,
            "torque_peak_nm": self.torque_peak, "deflection_peak_um": self.deflection, "hex_max_mm": self.hex,
            "depth_max_mm": self.depth, "engagement": {"max_deg": self.angle_max, "median_deg": self.angle_median},
            "limits": [{"id": key, "use": use, "line": self.lines[key]} for key, use in self.by_use],
            "torn_cm3": self.torn, "flux_over_cells": self.flux, "held_feed_mm_min": self.held, "unreached_share": self.unreached,
            "edges_per_part": self.edges,
            "rapids_in_stock": listed("rapid_in_stock", "volume_mm3"), "plunges": listed("plunge", "depth_mm"),
            "ramps": listed("ramp", "slope_deg"), "too_deep": listed("too_deep", "depth_mm"), "holder": listed("holder", "overlap_mm"),
            "slivers": listed("sliver", "thickness_mm"), "blocks": self.blocks,
            **({} if self.turning is None else {"shank": listed("shank", "overlap_mm"), "pole": listed("pole", "turn_deg"),
                                                **self.turning.data()}),
        }  # fmt: skip


def summary_of(run: Run) -> Summary:
    """The numbers of a run.

    Parameters
    ----------
    run : Run
        The simulation.
    """
    g, state = run.geometry, run.state
    contact, steps = g.contact, g.steps
    lines = g.program.moves.line[steps.move]
    kind = g.program.moves.kind[steps.move]
    time = run.times.time
    angle = np.degrees(g.engagement.angle)
    length = steps.length
    level = g.level
    counted = float(g.engagement.volume[level].sum())
    short = contact & (60.0 * run.times.peak < 0.98 * np.nan_to_num(run.feed))

    def most(values: Array) -> float:
        return float(values[contact].max()) if contact.any() else 0.0

    def where(values: Array) -> int:
        return int(lines[np.where(g.judged, values, -1.0).argmax()])

    return Summary(
        time=g.time_of(run.times), cut_time=g.cut_time_of(run.times),
        rapid_time=float(time[kind == RAPID].sum()), removed=float(g.engagement.volume[g.judged].sum()) / 1000.0,
        torn=float(g.engagement.volume[(kind == RAPID) & (g.program.moves.tool[steps.move] == g.tool)].sum()) / 1000.0,
        fxy_peak=most(state.fxy_peak), fxy_p95=_weighted(state.fxy_peak[contact], length[contact], 0.95),
        power_peak=most(state.power_cut), torque_peak=most(state.torque_peak), deflection=most(state.deflection),
        hex=most(state.hex), depth=most(g.engagement.depth),
        level=_weighted(np.asarray(state.ap)[contact], length[contact], 0.5),
        speed=_weighted(g.program.moves.rpm[steps.move][contact], length[contact], 0.5),
        feed=_weighted(np.nan_to_num(run.feed[contact]), length[contact], 0.5), angle_max=most(angle),
        angle_median=_weighted(angle[contact], length[contact], 0.5),
        uses={key: float(use[g.judged].max(initial=0.0)) for key, use in run.uses.items()},
        lines={key: where(use) for key, use in run.uses.items()},
        flux=float(g.swept[level].sum()) / counted if counted > 0 else 1.0, held=held_feed(g),
        unreached=float(length[short].sum() / length[contact].sum()) if contact.any() else 0.0, blocks=len(g.program.moves),
        edges=_edges(run), findings=g.findings, turning=_turning(run),
    )  # fmt: skip


def _turning(run: Run) -> Turning | None:
    g = run.geometry
    if not isinstance(g, Leaning):
        return None
    length, limited = g.steps.length, g.limited_by_axes(run.feed)
    share = float(length[limited].sum() / max(length[g.contact].sum(), 1e-12))
    return Turning(g.axis_uses(run.times), share, g.left.cell)


def _edges(run: Run) -> float | None:
    """Share of edge lives that the way in contact uses up: each moment at the life of its own chip and engagement.

    Whether an edge rubs is judged by what the feed asks of it at full width: coming out of the material every chip is thin for a moment.
    """
    g = run.geometry
    law = law_of(g.setup)
    if law is None:
        return None
    whole = np.minimum(run.state.fz * run.state.s_top, law.hex_min)
    life = np.asarray(
        law.median(run.state.vc, np.maximum(run.state.hex, whole), multiplier(g.setup, run.state.ae, run.state.ap)),
        dtype=float,
    )
    counts = g.contact & (life > 0)
    return float((run.times.time[counts] / _SIXTY / life[counts]).sum())


def _weighted(values: Array, weights: Array, share: float) -> float:
    """The value under which a share of the weight lies."""
    if not len(values) or weights.sum() <= 0:
        return 0.0
    order = np.argsort(values)
    gathered = np.cumsum(weights[order]) / weights.sum()
    return float(values[order][min(int(np.searchsorted(gathered, share)), len(values) - 1)])


def gain_of(before: Summary, after: Summary, parts: int, rate: float | None) -> dict[str, float]:
    """What levelled feeds save.

    Parameters
    ----------
    before, after : Summary
        The program and its levelled form.
    parts : int
        Parts of the batch.
    rate : float or None
        Machine rate, left out where None [money/h].
    """
    saved = before.time - after.time
    hours = saved * parts / 3600.0
    told = {
        "saved_s": saved,
        "saved_pct": 100.0 * saved / before.time if before.time > 0 else 0.0,
        "per_batch_h": hours,
    }
    return told if rate is None else {**told, "per_batch_money": hours * rate}
