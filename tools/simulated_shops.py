"""How well simulated shops are learned from: `python tools/simulated_shops.py [--shops 200]`.

Shops are drawn whose edges, tables and ways of looking are known; the band that is then told for the next edge is compared with
the chance that it really has. `simulated_coach.py` beside it compares the coach with ladders of fixed steps.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from lesna.learning.edges import CRITERION, Edge, Look, Mark, land_share
from lesna.learning.posterior import fit, prior_covariance

TABLE, N, A = 45.0, 0.25, 0.28
SPEEDS = np.log(np.linspace(0.8, 1.35, 7))
COVARIANCE = prior_covariance(N, A)


@dataclass(frozen=True)
class Shop:
    """What is true in one shop: level and exponents off the table, scatter, running-in, and the share of wild edges."""

    beta: np.ndarray
    scatter: float
    run_in: float
    wild: float

    def life(self, x: np.ndarray, rng: np.random.Generator) -> float:
        """Life of one edge over the table's."""
        wild = rng.uniform(np.log(1 / 8), np.log(1 / 4)) if rng.random() < self.wild else 0.0
        return float(np.exp(self.beta @ x + rng.normal(0, self.scatter) + wild))


def shop_of(rng: np.random.Generator, truth: str, wild: float) -> Shop:
    """A shop drawn from the prior, one whose table is far off, or one with every spread doubled."""
    wide = 2.0 if truth == "twice" else 1.0
    beta = rng.normal(0, wide * np.sqrt(np.diag(COVARIANCE)))
    scatter = 0.37 * np.exp(wide * rng.normal(0, 0.30))
    run_in = float(np.clip(rng.normal(0.25, wide * 0.10), 0.02, 0.5))
    if truth == "off2":
        beta = np.array([rng.choice([-1, 1]) * np.log(2), *(rng.choice([-2, 2], 2) * np.sqrt(np.diag(COVARIANCE))[1:])])
        scatter, run_in = 0.37 * rng.choice([1.5, 1 / 1.5]), float(rng.choice([0.1, 0.4]))
    return Shop(beta, float(scatter), run_in, wild)


def edge_of(shop: Shop, name: str, looks: str, rng: np.random.Generator) -> Edge:
    """One edge of a shop, looked at in its way: early, worn, or taken out good mostly."""
    x = np.array([1.0, rng.normal(0, 0.12), rng.normal(0, 0.15)])
    table = TABLE * np.exp(-x[1] / N - A / N * x[2])
    life = table * shop.life(x, rng)
    run_in = float(np.clip(shop.run_in + rng.normal(0, 0.06), 0.0, 0.55))

    def look(at: float, since: float, mark: Mark = "", told: bool = True) -> Look:
        true = CRITERION * land_share(np.array(at / life), np.array(run_in))
        land = max(0.0, float(true + rng.normal(0, np.hypot(0.015, 0.1 * true)))) if told else None
        return Look(at - since, float(table), (float(x[1]), float(x[2])), land, "uniform", mark)

    if looks == "early":
        times = sorted(rng.uniform(8, 15, int(rng.integers(1, 3))))
        return Edge(name, tuple(look(t, s) for t, s in zip(times, (0.0, *times), strict=False)))
    if looks == "good" and rng.random() < 0.8:
        # taken out by the clock, whatever the edge would have lived
        end = float(table * np.exp(shop.beta @ x) * rng.uniform(0.3, 0.9))
        if end < life:
            return Edge(name, (look(end, 0.0, "good", told=rng.random() < 0.3),))
    times = life * np.array([0.25, 0.5, 0.8, 1.0])
    last = len(times) - 1
    return Edge(
        name,
        tuple(
            look(t, s, "worn" if k == last else "") for k, (t, s) in enumerate(zip(times, (0.0, *times), strict=False))
        ),
    )


def coverage(truth: str, looks: str, edges: int, shops: int, wild: float = 0.0) -> tuple[float, float, float, float]:
    """Chance [%] that the next edge lies in its 90 % band, wild ones among them and not, and below it; error of ln median."""
    inside, usual, below, errors = [], [], [], []
    for seed in range(shops):
        rng = np.random.default_rng([seed, edges, len(looks), len(truth)])
        shop = shop_of(rng, truth, wild)
        found = fit([edge_of(shop, str(k), looks, rng) for k in range(edges)], COVARIANCE, np.array([1.0, 0.0, 0.0]))
        for speed in SPEEDS:
            x = np.array([1.0, speed, 0.0])
            low, high = (found.quantile(x, share) for share in (0.05, 0.95))
            chance = _chance(shop, x)
            inside.append(chance(high) - chance(low))
            usual.append(float(np.diff(ndtr((np.array([low, high]) - shop.beta @ x) / shop.scatter))[0]))
            below.append(chance(low))
            errors.append(abs(found.shift(x) - shop.beta @ x))
    return (
        100 * float(np.mean(inside)),
        100 * float(np.mean(usual)),
        100 * float(np.mean(below)),
        float(np.mean(errors)),
    )


def _chance(shop: Shop, x: np.ndarray) -> Callable[[float], float]:
    """Chance that an edge of the shop lives shorter than so much of the table's life, wild ones among them."""
    mean = float(shop.beta @ x)
    drops = np.linspace(np.log(1 / 8), np.log(1 / 4), 9)

    def below(at: float) -> float:
        usual = float(ndtr((at - mean) / shop.scatter))
        odd = float(np.mean(ndtr((at - mean - drops) / shop.scatter)))
        return (1 - shop.wild) * usual + shop.wild * odd

    return below


def bands(shops: int) -> None:
    """Prints the table of bands."""
    print("truth   looks   wild edges   90 % band holds   of those not wild   below low   |error of ln median|")
    for truth, looks, wild, edges in cells():
        inside, usual, below, error = coverage(truth, looks, edges, shops, wild)
        print(
            f"{truth:7} {looks:7} {wild:4.1f} {edges:5}   {inside:8.1f} %        {usual:8.1f} %          {below:6.1f} %   {error:6.2f}",
            flush=True,
        )


def cells() -> Sequence[tuple[str, str, float, int]]:
    """Truth, way of looking, share of wild edges and number of edges of each row."""
    plain = [
        (truth, looks, 0.0, edges)
        for truth in ("prior", "off2", "twice")
        for looks in ("early", "worn", "good")
        for edges in (5, 30)
    ]
    return [*plain, *(("prior", looks, 0.1, 30) for looks in ("early", "worn", "good"))]


def main() -> None:
    """The command."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--shops", type=int, default=200)
    chosen = options.parse_args()
    bands(chosen.shops)


if __name__ == "__main__":
    sys.exit(main())
