"""The posterior of edge life over the tables: a mixture of normals along the level that is asked about (docs/physics.md section 14).

``ln T = ln T_table + b0 + b1 ln vc_eq/ref + b2 ln hex/ref`` for every set-up, set-ups tied by how far each is believed of the
other; scatter, running-in and the chance that the tables are far off are averaged over, not chosen.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.special import ndtr, ndtri

from lesna.learning.edges import GRID, RUN_IN, STEP, Edge, likelihoods
from lesna.physics import Array

#: spread of ln life that set-ups of the same table have: level, and relative ones of the exponents of speed and chip
LEVEL, OF_SPEED, OF_CHIP = 0.5, 0.15, 0.30
#: share of tables that are far off, and how many times further; the share of edges that are wild, and their spread [ln]
_FAR_SHARE, _FAR, _WILD_SHARE, _WILD = 0.15, 2.5, 0.05, 1.2
#: scatter of edges: its median, spread in ln, and nodes
_SCATTER, _SCATTER_SPREAD = 0.37, 0.30
_NODES = np.linspace(-2.4, 2.4, 7)
_SCATTERS = _SCATTER * np.exp(_SCATTER_SPREAD * _NODES)
#: running-in of a shop and of its edges
_ALPHA, _ALPHA_SPREAD, _ALPHA_EDGE = 0.25, 0.10, 0.06
_ALPHA_NODES = np.linspace(-1.8, 1.8, 5)
#: means over which an edge's likelihood is tabled
_MEANS = np.arange(-5.6, 5.6 + STEP / 2, STEP)
#: points of a node along the level, in its own spread
_ALONG = np.linspace(-3.6, 3.6, 11)
#: nodes lighter than this say nothing; steps of Newton, and of halving
_LIGHT, _STEPS, _NEWTONS = 1e-5, 30, 60
#: ln of life to which a share of edges is found
_EXACT = 1e-9
_ROOT_TWO_PI = math.sqrt(2.0 * math.pi)
#: what ties two set-ups that trust each other by rho: ``0.97 rho`` and 0.03 of its own
_SHARED = 0.97


def prior_covariance(n: float, a: float) -> Array:
    """Covariance of level, exponent of speed and exponent of chip of one set-up (3, 3)."""
    return np.diag(np.array([LEVEL, OF_SPEED / n, OF_CHIP * max(a, 0.05) / n]) ** 2)


@lru_cache(maxsize=1)
def _bins() -> tuple[Array, Array]:
    """Mass of each bin (bins, scatters x means) of edges that are normal or wild, and borders of the bins."""
    borders = np.concatenate(([-np.inf], GRID[:-1] + STEP / 2, [np.inf]))
    columns = []
    for s in _SCATTERS:
        for share, spread in ((1 - _WILD_SHARE, s), (_WILD_SHARE, _WILD)):
            columns.append(share * np.diff(ndtr((borders[:, None] - _MEANS) / spread), axis=0))
    masses = np.stack([columns[2 * k] + columns[2 * k + 1] for k in range(len(_SCATTERS))], axis=1)
    return masses, borders


@dataclass(frozen=True)
class _Table:
    """ln likelihood of each edge over scatter and mean, for each running-in of the shop (alphas, edges, scatters, means)."""

    values: Array
    slopes: Array

    def at(self, alpha: Array, s: Array, m: Array) -> tuple[Array, Array, Array]:
        """Value, slope and bend by cubics between the means, for nodes (k,) and means (k, edges)."""
        place = np.clip((m - _MEANS[0]) / STEP, 0.0, len(_MEANS) - 1.001)
        left = place.astype(int)
        t = place - left
        edge = np.arange(m.shape[-1])
        picked = (alpha[:, None], edge[None, :], s[:, None])
        y0, y1 = self.values[(*picked, left)], self.values[(*picked, left + 1)]
        d0, d1 = self.slopes[(*picked, left)] * STEP, self.slopes[(*picked, left + 1)] * STEP
        a, b = 2 * (y0 - y1) + d0 + d1, 3 * (y1 - y0) - 2 * d0 - d1
        value = y0 + t * (d0 + t * (b + t * a))
        # beyond the means nothing is told apart any more: the prior alone holds
        inside = (m >= _MEANS[0]) & (m <= _MEANS[-1])
        slope = np.where(inside, (d0 + t * (2 * b + 3 * t * a)) / STEP, 0.0)
        return value, slope, np.where(inside, (2 * b + 6 * t * a) / STEP**2, 0.0)


def _table_of(edges: Sequence[Edge]) -> tuple[_Table, Array]:
    """The table, and each edge's likelihood over the bins, running-in averaged over (edges, bins)."""
    raw = likelihoods(edges)
    alphas = _ALPHA + _ALPHA_SPREAD * _ALPHA_NODES
    mix = np.exp(-0.5 * ((RUN_IN[None, :] - alphas[:, None]) / _ALPHA_EDGE) ** 2)
    mix /= mix.sum(axis=1, keepdims=True)
    over = np.einsum("ka,ead->ked", mix, raw)
    masses, _ = _bins()
    product = over.reshape(-1, over.shape[-1]) @ masses.reshape(masses.shape[0], -1)
    values = np.log(np.maximum(product, 1e-300)).reshape(len(alphas), len(edges), len(_SCATTERS), len(_MEANS))
    weights = np.exp(-0.5 * _ALPHA_NODES**2)
    return _Table(values, np.gradient(values, STEP, axis=-1)), np.einsum("k,ked->ed", weights / weights.sum(), over)


def _node_weights() -> tuple[Array, Array, Array, Array]:
    """Far or not, running-in and scatter of each node as positions, and ln of its weight before any edge (nodes,)."""
    far, alpha, s = (
        part.ravel() for part in np.meshgrid([0, 1], range(len(_ALPHA_NODES)), range(len(_SCATTERS)), indexing="ij")
    )
    log = np.log(np.where(far == 1, _FAR_SHARE, 1 - _FAR_SHARE)) - 0.5 * _ALPHA_NODES[alpha] ** 2 - 0.5 * _NODES[s] ** 2
    return far, alpha, s, log - np.log(np.exp(log).sum())


@dataclass(frozen=True)
class Posterior:
    """What edges say of life: points, each a normal of what is known of the exponents, and of the scatter of edges.

    Attributes
    ----------
    weights : array (points,)
        Their weights, summing to 1.
    beta : array (points, 3)
        Level and exponents of the set-up asked about, off the table's.
    left : array (points, 3, 3)
        Covariance that each point leaves.
    scatter : array (points,)
        Spread of ln life of its edges.
    logs : array (points, edges)
        ln likelihood of each edge at each point.
    means, spreads : array (points, edges)
        Of ln life over the table of each edge as the point has it.
    edges : tuple of Edge
        Those that were taken.
    alone : array (edges, bins)
        Likelihood of each edge over the bins of ln life over the table.
    """

    weights: Array
    beta: Array
    left: Array
    scatter: Array
    logs: Array
    means: Array
    spreads: Array
    edges: tuple[Edge, ...]
    alone: Array

    @property
    def mean(self) -> Array:
        """Level and exponents off the table's, on average (3,)."""
        return np.asarray(self.weights @ self.beta)

    @property
    def typical_scatter(self) -> float:
        """Spread of ln life between edges of one setting."""
        return float(np.exp(self.weights @ np.log(self.scatter)))

    def shift(self, x: Array) -> float:
        """ln of the median life over the table's at a setting (1, ln vc_eq, ln hex)."""
        return float(self.mean @ x)

    def _normals(self, x: Array) -> tuple[Array, Array]:
        """Mean and variance of ln median life over the table's at each point."""
        return self.beta @ x, np.maximum(np.einsum("i,kij,j->k", x, self.left, x), 0.0)

    def median_spread(self, x: Array) -> float:
        """Standard deviation of ln median life at a setting."""
        mean, var = self._normals(x)
        middle = self.weights @ mean
        return float(np.sqrt(self.weights @ (var + (mean - middle) ** 2)))

    def chance_below(self, x: Array, log_ratio: Array) -> Array:
        """Chance that the next edge lives shorter than so much of the table's life, for each ln of that share."""
        return self._below(*self._normals(x), np.asarray(log_ratio))

    def _below(self, mean: Array, var: Array, log_ratio: Array) -> Array:
        off = log_ratio[..., None] - mean
        usual = ndtr(off / np.sqrt(var + self.scatter**2))
        wild = ndtr(off / np.sqrt(var + _WILD**2))
        return np.asarray(((1 - _WILD_SHARE) * usual + _WILD_SHARE * wild) @ self.weights)

    def quantile(self, x: Array, share: float) -> float:
        """ln of life over the table's that a share of the next edges falls below."""
        return float(self.quantiles(x, (share,))[0])

    def quantiles(self, x: Array, shares: Sequence[float]) -> Array:
        """The same of several shares at once (shares,)."""
        mean, var = self._normals(x)
        spreads = np.sqrt(var + np.array([self.scatter**2, np.full(len(mean), _WILD**2)]))
        kinds = np.array([1 - _WILD_SHARE, _WILD_SHARE])
        wanted = np.asarray(shares)
        low, high = np.full(wanted.shape, -14.0), np.full(wanted.shape, 14.0)
        # from where one normal curve of the same middle and width has them
        middle = float(self.weights @ mean)
        width = np.sqrt(self.weights @ (kinds @ spreads**2 + (mean - middle) ** 2))
        at = np.clip(middle + width * ndtri(wanted), low, high)
        # Newton's steps, halved where they would leave what is known to hold the answer
        for _ in range(_NEWTONS):
            off = (at[:, None, None] - mean) / spreads
            below = np.einsum("j,sjk,k->s", kinds, ndtr(off), self.weights)
            density = np.einsum("j,sjk,k->s", kinds, np.exp(-0.5 * off**2) / spreads, self.weights) / _ROOT_TWO_PI
            is_under = below < wanted
            low, high = np.where(is_under, at, low), np.where(is_under, high, at)
            step = at + (wanted - below) / np.maximum(density, 1e-12)
            # one that is found stays where it is while the others are sought
            moved = np.where((step >= low) & (step <= high), step, 0.5 * (low + high))
            if np.abs(moved - at).max() < _EXACT:
                return moved
            at = moved
        return at

    def without(self) -> Array:
        """Weights of the points as they would be without each edge (edges, points)."""
        logs = np.log(np.maximum(self.weights, 1e-300))[None, :] - self.logs.T
        out = np.exp(logs - logs.max(axis=1, keepdims=True))
        return np.asarray(out / out.sum(axis=1, keepdims=True))

    def influence(self, x: Array) -> Array:
        """How far each edge moves ln of the median life at a setting (edges,)."""
        level = self.beta @ x
        return np.asarray(self.weights @ level - self.without() @ level)

    def wild(self) -> Array:
        """Chance that each edge is wild: of another kind than its setting's (edges,)."""
        without = self.without()
        mean = np.einsum("ek,ke->e", without, self.means)
        var = np.einsum("ek,ke->e", without, self.spreads**2 + (self.means - mean) ** 2)
        s = np.exp(without @ np.log(self.scatter))
        borders = _bins()[1]
        usual, odd = (np.diff(ndtr((borders[:, None] - mean) / np.sqrt(var + spread**2)), axis=0)
                      for spread in (s, np.full(len(s), _WILD)))  # fmt: skip
        chance = np.einsum("ed,de->e", self.alone, odd) * _WILD_SHARE
        other = np.einsum("ed,de->e", self.alone, usual) * (1 - _WILD_SHARE)
        return np.asarray(chance / np.maximum(chance + other, 1e-300))

    def held_out(self) -> tuple[int, int]:
        """Edges whose own looks bound their life, and how many of them lie in the band that the others give."""
        own = self.alone / self.alone.sum(axis=1, keepdims=True)
        mean = own @ GRID
        sd = np.sqrt(np.maximum(own @ GRID**2 - mean**2, 0.0))
        known = sd < _BOUNDED
        if not known.any():
            return 0, 0
        var = self.spreads**2
        usual = ndtr((mean - self.means) / np.sqrt(var + self.scatter[:, None] ** 2))
        odd = ndtr((mean - self.means) / np.sqrt(var + _WILD**2))
        below = np.einsum("ek,ke->e", self.without(), (1 - _WILD_SHARE) * usual + _WILD_SHARE * odd)
        return int(known.sum()), int((known & (below > 0.05) & (below < 0.95)).sum())


#: an edge's own looks bound its life where they leave no more than this [ln]
_BOUNDED = 0.3


def fit(edges: Sequence[Edge], covariance: Array, level: Array, trust: Array | None = None) -> Posterior:
    """The posterior of life of the first set-up.

    Parameters
    ----------
    edges : sequence of Edge
        Their `group` counts set-ups; 0 is the one asked about.
    covariance : array (3, 3)
        Of one set-up before any edge (see `prior_covariance`).
    level : array (3,)
        1, ln vc_eq and ln hex of the setting along which the posterior is followed.
    trust : array (set-ups, set-ups) or None
        How far set-ups are believed of each other, 1 on the diagonal; None where there is one.
    """
    edges = tuple(edges)
    if not edges:
        return _before_any(covariance)
    groups = 1 if trust is None else len(trust)
    tied = np.ones((1, 1)) if trust is None else _SHARED * trust + (1 - _SHARED) * np.eye(groups)
    whole = np.kron(tied, covariance)
    far, alpha, s, log = _node_weights()
    scale = np.where(far == 1, _FAR**2, 1.0)
    asked = np.zeros(3 * groups)
    asked[:3] = level
    table, alone = _table_of(edges)
    X = np.zeros((len(edges), 3 * groups))
    for row, edge in enumerate(edges):
        X[row, 3 * edge.group : 3 * edge.group + 3] = edge.covariates
    precision = np.linalg.inv(whole)[None] / scale[:, None, None]
    beta, C = _newton(table, X, precision, alpha, s)
    value = table.at(alpha, s, beta @ X.T)[0].sum(axis=1) - 0.5 * np.einsum("ki,kij,kj->k", beta, precision, beta)
    log = log + value + 0.5 * np.linalg.slogdet(C)[1] - 0.5 * (np.linalg.slogdet(whole)[1] + len(whole) * np.log(scale))
    return _along(log, beta, C, asked, _SCATTERS[s], edges, alone, X, table, precision, (alpha, s))


def _before_any(covariance: Array) -> Posterior:
    """What is known before any edge: a normal for each scatter, and for tables that are near and far off."""
    far, alpha, s, log = _node_weights()
    one = alpha == 0  # no look tells running-in apart
    weights, count = np.exp(log[one]), int(one.sum())
    return Posterior(
        weights / weights.sum(), np.zeros((count, 3)), np.where(far[one] == 1, _FAR**2, 1.0)[:, None, None] * covariance,
        _SCATTERS[s[one]], np.zeros((count, 0)), np.zeros((count, 0)), np.zeros((count, 0)), (), np.zeros((0, len(GRID))),
    )  # fmt: skip


def _newton(table: _Table, X: Array, precision: Array, alpha: Array, s: Array) -> tuple[Array, Array]:
    """The most likely exponents of each node and the covariance there; a node that would get worse takes half the step."""
    beta = np.zeros((len(alpha), X.shape[1]))

    def judged(at: Array) -> tuple[Array, Array, Array]:
        value, slope, bend = table.at(alpha, s, at @ X.T)
        return value.sum(axis=1) - 0.5 * np.einsum("ki,kij,kj->k", at, precision, at), slope, bend

    value, slope, bend = judged(beta)
    for _ in range(_STEPS):
        bent = np.maximum(-bend, 0.0)  # the wild part bends the other way
        hessian = precision + np.matmul(X.T[None], bent[:, :, None] * X[None])
        gradient = slope @ X - np.einsum("kij,kj->ki", precision, beta)
        step = np.linalg.solve(hessian, gradient[:, :, None])[:, :, 0]
        size = np.ones(len(beta))
        for _ in range(6):
            new, new_slope, new_bend = judged(beta + size[:, None] * step)
            worse = new < value - 1e-9
            if not worse.any():
                break
            size = np.where(worse, size / 2, size)
        taken = (new >= value - 1e-9)[:, None]
        moved = np.where(taken, size[:, None] * step, 0.0)
        beta = beta + moved
        value, slope, bend = (
            np.where(taken[:, 0], new, value),
            np.where(taken, new_slope, slope),
            np.where(taken, new_bend, bend),
        )
        if np.abs(moved).max() < 1e-4:
            break
    return beta, np.linalg.inv(precision + np.matmul(X.T[None], np.maximum(-bend, 0.0)[:, :, None] * X[None]))


def _along(
    log: Array, beta: Array, C: Array, level: Array, scatter: Array, edges: tuple[Edge, ...], alone: Array, X: Array,
    table: _Table, precision: Array, nodes: tuple[Array, Array],
) -> Posterior:  # fmt: skip
    """Each node as a row of points along the level, with the true posterior on it and the rest normal."""
    weight = np.exp(log - log.max())
    kept = weight / weight.sum() > _LIGHT
    log, beta, C, scatter = log[kept], beta[kept], C[kept], scatter[kept]
    spread = np.einsum("kij,j->ki", C, level)
    u = spread / np.sqrt(np.maximum(spread @ level, 1e-300))[:, None]
    points = beta[:, None, :] + _ALONG[None, :, None] * u[:, None, :]
    left = C - u[:, :, None] * u[:, None, :]
    count = len(_ALONG)
    flat = points.reshape(-1, points.shape[-1])
    alpha, s = (np.repeat(node[kept], count) for node in nodes)
    spreads = np.sqrt(np.maximum(np.einsum("ei,kij,ej->ke", X, left, X), 0.0)).repeat(count, axis=0)
    precision = precision[kept]
    logs = table.at(alpha, s, flat @ X.T)[0]
    bent = np.einsum("kpi,kij,kpj->kp", points, precision, points)
    total = logs.sum(axis=1).reshape(-1, count) - 0.5 * bent
    middle = total[:, count // 2][:, None]
    here = (log[:, None] + total - middle).ravel()
    weights = np.exp(here - here.max())
    weights /= weights.sum()
    heavy = weights > _LIGHT / count
    weights = weights[heavy] / weights[heavy].sum()
    return Posterior(
        weights, flat[heavy][:, :3], left[:, :3, :3].repeat(count, axis=0)[heavy], np.repeat(scatter, count)[heavy], logs[heavy],
        (flat @ X.T)[heavy], spreads[heavy], edges, alone,
    )  # fmt: skip
