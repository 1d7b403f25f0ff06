"""The coach against ladders of fixed steps on simulated shops: `python tools/simulated_coach.py [--shops 40]`.

Once with one limit that is only met by passing it (feed), once with two (feed and depth). A sign is seen 12 % before a limit, so that
whoever stops at it ends 6 % below on average, with two limits twice that.
"""

from __future__ import annotations

import argparse
import math
from dataclasses import dataclass, field

import numpy as np
from simulated_shops import COVARIANCE, TABLE, A, N, Shop, shop_of

from lesna.learning.edges import CRITERION, Edge, Look, land_share
from lesna.learning.next_step import Limit, Outcome, Point, Prices, Quantity, Step, next_step
from lesna.learning.posterior import Posterior, fit

#: a careful start: feed and depth over the table's limits, speed over the reference; with one limit the depth is the feature's
_START = {"feed": 0.55, "depth": 0.5, "speed": 0.85}
_STEPPED: dict[int, tuple[Quantity, ...]] = {1: ("feed", "speed"), 2: ("feed", "depth", "speed")}
_SIGN, _MOST_TRIALS = 0.12, 14
LEVEL = np.array([1.0, 0.0, 0.0])


@dataclass
class World:
    """One shop, one job: true limits of feed and depth over the table's, prices, and what was tried."""

    shop: Shop
    limits: dict[str, float]
    prices: Prices
    rng: np.random.Generator
    edges: list[Edge] = field(default_factory=list)
    seen: dict[str, list[tuple[float, Outcome]]] = field(default_factory=dict)
    lost: int = 0
    trials: int = 0
    near: tuple[bool, bool] = (False, False)

    def __post_init__(self) -> None:
        self.seen = {name: [] for name in self.limits}

    def point(self, setting: dict[str, float]) -> Point:
        """A setting as it is judged."""
        x = np.array([1.0, math.log(setting["speed"]), math.log(setting["feed"] / 0.6)])
        table = TABLE * math.exp(-x[1] / N - A / N * x[2])
        used = {name: setting[name] for name in self.limits}
        hard = max(setting["feed"] / 1.6, setting["depth"] / 1.8, setting["speed"] / 2.0)
        return Point(100.0 * setting["feed"] * setting["depth"] * setting["speed"], table, x, used, hard)

    def true_cost(self, setting: dict[str, float]) -> float:
        """Cost of a cm3 at the true median life, without end where a limit is passed."""
        point = self.point(setting)
        if any(setting[name] > limit for name, limit in self.limits.items()) or point.hard > 1.0 + 1e-9:
            return math.inf
        return self.prices.per_volume(point.q, point.table * math.exp(self.shop.beta @ point.x))

    def best(self) -> float:
        """The true best."""
        speeds = np.geomspace(0.3, 2.0, 200)
        top = {"feed": min(self.limits["feed"], 1.6), "depth": min(self.limits.get("depth", _START["depth"]), 1.8)}
        return min(self.true_cost({**top, "speed": float(v)}) for v in speeds)

    def is_near(self, setting: dict[str, float]) -> tuple[bool, bool]:
        """Whether the feed, and whether the speed, is within a tenth of the best that the other things set allow."""
        feed = setting["feed"] / min(self.limits["feed"], 1.6)
        speeds = np.geomspace(0.3, 2.0, 200)
        best = min(speeds, key=lambda v: self.true_cost({**setting, "speed": float(v)}))
        return 0.9 <= feed <= 1.0, abs(setting["speed"] / best - 1.0) <= 0.1

    def run(self, setting: dict[str, float], minutes: float) -> Outcome:
        """One trial: an edge run for some minutes and looked at."""
        self.trials += 1
        point = self.point(setting)
        worst: Outcome = "ok"
        for name, limit in self.limits.items():
            over = math.log(setting[name] / limit)
            outcome: Outcome = "lost" if over > 0 else "sign" if over > -_SIGN else "ok"
            self.seen[name].append((setting[name], outcome))
            worst = "lost" if "lost" in (worst, outcome) else "sign" if "sign" in (worst, outcome) else "ok"
        if worst == "lost":
            self.lost += 1
            return worst
        life = point.table * self.shop.life(point.x, self.rng)
        true = CRITERION * float(land_share(np.array(minutes / life), np.array(self.shop.run_in)))
        land = max(0.0, true + self.rng.normal(0, math.hypot(0.015, 0.1 * true)))
        self.lost += minutes > life
        mark = "worn" if land >= CRITERION else ""
        self.edges.append(
            Edge(
                str(self.trials),
                (Look(minutes, point.table, (float(point.x[1]), float(point.x[2])), land, "uniform", mark),),
            )
        )
        return worst

    def posterior(self) -> Posterior:
        """What is known of life."""
        return fit(self.edges, COVARIANCE, LEVEL)


def world(seed: int, count: int) -> World:
    """A shop and a job with so many limits that are only met by passing them."""
    rng = np.random.default_rng([seed, 77])
    limits = {name: math.exp(rng.normal(0, 0.30)) for name in ("feed", "depth")[:count]}
    return World(shop_of(rng, "prior", 0.0), limits, Prices(1.0, rng.uniform(8, 40), 1.0), rng)


def begun(w: World) -> dict[str, float]:
    """The careful start; in few shops even that is too much."""
    here = dict(_START)
    while not math.isfinite(w.true_cost(here)):
        here |= {name: 0.8 * here[name] for name in w.limits}
    return here


def coached(seed: int, count: int, risk: float) -> tuple[World, list[float]]:
    """The coach's way: cost over the true best after each trial."""
    w = world(seed, count)
    standing = begun(w)
    path, looks = [], 0
    w.run(standing, 8.0)
    path.append(w.true_cost(standing) / w.best())
    while w.trials < _MOST_TRIALS:
        limits = {name: Limit(seen) for name, seen in w.seen.items()}

        def at(what: Quantity, factor: float, here: dict[str, float] = standing) -> Point:
            return w.point({**here, what: here[what] * factor})

        step: Step = next_step(w.posterior(), limits, at, w.prices, risk, among=_STEPPED[count], looks_of_speed=looks)
        if not step.what:
            break
        tried = {**standing, step.what: standing[step.what] * step.factor}
        looks = looks + 1 if step.what == "speed" else 0
        if w.run(tried, step.look_after) != "lost":
            standing = tried
        path.append(w.true_cost(standing) / w.best())
    w.near = w.is_near(standing)
    return w, path


def climbed(seed: int, count: int, size: float) -> tuple[World, list[float]]:
    """A ladder of fixed steps: feed, then depth, until a sign or a loss; then speed by a straight line through the lands."""
    w = world(seed, count)
    here = begun(w)
    w.run(here, 12.0)
    path = [w.true_cost(here) / w.best()]
    for what in w.limits:
        while w.trials < _MOST_TRIALS:
            tried = {**here, what: here[what] * (1 + size)}
            if w.point(tried).hard > 1.0:
                break
            outcome = w.run(tried, 12.0)
            if outcome != "lost":
                here = tried
            path.append(w.true_cost(here) / w.best())
            if outcome != "ok":
                break
    lands = [(look.minutes, look.land, look.table) for edge in w.edges for look in edge.looks if look.land]
    if lands:
        ratio = float(np.median([minutes * CRITERION / land / table for minutes, land, table in lands]))
        speeds = np.geomspace(0.4, 2.0, 60)

        def cost(speed: float) -> float:
            point = w.point({**here, "speed": speed})
            return w.prices.per_volume(point.q, point.table * ratio)

        tried = {**here, "speed": float(min(speeds, key=cost))}
        w.run(tried, 12.0)
        here = tried
        path.append(w.true_cost(here) / w.best())
    w.near = w.is_near(here)
    return w, path


def ladders(shops: int, count: int) -> None:
    """Prints the table."""
    starts = [w.true_cost(begun(w)) / w.best() for w in (world(seed, count) for seed in range(shops))]
    print(f"limits that are only met by passing them: {count}; start {np.median(starts):.2f} times the best")
    print(
        "rule             trials  lost edges  risk x trials  cost over the best after 4 / 6 / 8 / end (90 % below)",
        end="",
    )
    print("   within 10 % of the best: cost, feed, speed, feed or speed")
    ways = [(f"coach, risk {risk:.0%}", risk, coached) for risk in (0.03, 0.10)]
    ways += [(f"ladder {size:.0%}", size, climbed) for size in (0.10, 0.25)]
    for name, size, way in ways:
        done = [way(seed, count, size) for seed in range(shops)]
        ends = np.array([path[-1] for _, path in done])
        trials = float(np.mean([w.trials for w, _ in done]))
        after = [float(np.median([path[min(k, len(path)) - 1] for _, path in done])) for k in (4, 6, 8)]
        feed, speed = np.array([w.near for w, _ in done]).T
        may_lose = f"{size * trials:9.2f}" if way is coached else "        -"
        print(f"{name:16} {trials:6.1f} {np.mean([w.lost for w, _ in done]):9.2f} {may_lose}      "
              f"{after[0]:.2f} / {after[1]:.2f} / {after[2]:.2f} / {np.median(ends):.2f} ({np.quantile(ends, 0.9):.2f})      "
              f"{np.mean(ends < 1.1):.0%}, {feed.mean():.0%}, {speed.mean():.0%}, {(feed | speed).mean():.0%}", flush=True)  # fmt: skip


if __name__ == "__main__":
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--shops", type=int, default=40)
    given = options.parse_args()
    for limits in (1, 2):
        ladders(given.shops, limits)
