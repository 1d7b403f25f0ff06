"""Where a cut begins to chatter: the fast zero-order lobes, and what fast and sure methods share.

Regenerative chatter of a cutter with straight teeth in x and y: ``F = -a H(t) (u(t) - u(t - T))`` with

    H = sum of g [[(Kt c + Kr s) s, (Kt c + Kr s) c], [(Kr c - Kt s) s, (Kr c - Kt s) c]]

for teeth in the cut, s and c the sine and cosine of their position. The sure method is in `floquet`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from lesna.physics import Array
from lesna.physics.structure.beam import Mode

#: frequencies around each mode at which the zero-order solution is sampled
_PER_MODE = 170
#: damping ratio beyond which a mode no longer swings
_MOST_DAMPED = 0.95
#: tangential over radial force of the rubbing flank
_RUBBING = 0.3


@dataclass(frozen=True)
class Dynamics:
    """A vibrating tool in a cut.

    Parameters
    ----------
    x, y : tuple of Mode
        Modes at the tip in feed direction and normal to it; one may be empty (stiff).
    Kt, Kr : float
        Growth of tangential and radial force with the chip, per millimetre of depth [N/mm2].
    shares : array (z,)
        Share of a turn from the tooth ahead to each tooth, 1 in all [-].
    window : tuple of float
        Entry and exit angle [rad].
    lead : float
        Lag of the teeth over the height, 0 for straight teeth [rad/mm].
    process : float
        Process damping of the rubbing flank: what a millimetre of depth adds to the damping of a tooth that always cuts, at
        one turn a minute [N s/m], ``60 Ci / (pi DC)`` (Altintas, Eynian and Onozuka 2008; Eynian 2010).
    """

    x: tuple[Mode, ...]
    y: tuple[Mode, ...]
    Kt: float
    Kr: float
    shares: Array
    window: tuple[float, float]
    lead: float = 0.0
    process: float = 0.0

    def damped(self, n: float, ap: float) -> Dynamics:
        """The same cut with the process damping of a speed and a depth put into the damping ratios of its modes.

        The flank pushes back in proportion to its speed into the surface: ``dFr = -(Ci/vc) db dn/dt``, with 0.3 of it along
        the cut. What remains over a turn damps x and y.
        """
        if self.process == 0.0:
            return self
        start, end = self.window
        both = window_integral(np.array([start, end]), _RUBBING, 1.0)
        sides = (both[:, 1] - both[:, 0]) * self.teeth / (2 * np.pi)
        c = self.process * ap / n
        x, y = (
            tuple(Mode(m.frequency, m.stiffness, min(m.zeta + c * share * _per_mode(m), _MOST_DAMPED)) for m in modes)
            for modes, share in ((self.x, max(float(sides[0]), 0.0)), (self.y, max(float(sides[3]), 0.0)))
        )
        return replace(self, x=x, y=y, process=0.0)

    @property
    def teeth(self) -> int:
        """Number of teeth."""
        return len(self.shares)

    @property
    def is_even(self) -> bool:
        """Whether the teeth stand at equal distances."""
        return bool(np.allclose(self.shares, 1.0 / self.teeth, rtol=0.0, atol=1e-9))

    @property
    def teeth_cutting(self) -> float:
        """Teeth in the cut on average, the helix left aside."""
        return self.teeth * (self.window[1] - self.window[0]) / (2 * np.pi)


def _per_mode(mode: Mode) -> float:
    """Damping ratio that a newton per metre and second adds to a mode: ``omega / (2 k)``."""
    return 2 * np.pi * mode.frequency / (2 * 1e6 * mode.stiffness)


@dataclass(frozen=True)
class Edge:
    """The boundary at some speeds.

    Attributes
    ----------
    n : array (k,)
        Spindle speeds [1/min].
    ap : array (k,)
        Depth at which chatter begins; infinite where none was found [mm].
    frequency : array (k,)
        Frequency that chatter would have there [Hz].
    """

    n: Array
    ap: Array
    frequency: Array


def window_integral(phi: Array, Kt: float, Kr: float) -> Array:
    """Integral of one tooth's H from 0 to an angle."""
    ss = phi / 2 - np.sin(2 * phi) / 4
    cc = phi / 2 + np.sin(2 * phi) / 4
    sc = (1 - np.cos(2 * phi)) / 4
    return np.stack((Kt * sc + Kr * ss, Kt * cc + Kr * sc, Kr * sc - Kt * ss, Kr * cc - Kt * sc))


def receptance(modes: tuple[Mode, ...], f: Array) -> Array:
    """Tip receptance of a sum of modes."""
    total = np.zeros(len(f), dtype=complex)
    for mode in modes:
        ratio = f / mode.frequency
        total += 1.0 / (1000.0 * mode.stiffness) / (1 - ratio**2 + 2j * mode.zeta * ratio)
    return total


def zero_order(dynamics: Dynamics, n: Array) -> Edge:
    """Fast boundary: directional coefficients averaged, unequal pitch taken as equal, helix left aside.

    ``a = (L_R + L_I^2 / L_R) / 2`` with ``L = -1/lambda`` for both eigenvalues of the oriented receptance at every frequency; the boundary
    at a speed is the least depth over all lobes.

    References
    ----------
    Budak, E. and Altintas, Y. 1998, Analytical prediction of chatter stability in milling, J. Dyn. Sys. 120;
    Altintas 2012, Manufacturing Automation, 2nd ed., ch. 4.
    """
    f = _frequencies(dynamics)
    start, end = dynamics.window
    mean = window_integral(np.array([start, end]), dynamics.Kt, dynamics.Kr)
    A = (mean[:, 1] - mean[:, 0]) * dynamics.teeth / (2 * np.pi)
    gx, gy = receptance(dynamics.x, f), receptance(dynamics.y, f)
    trace = gx * A[0] + gy * A[3]
    det = gx * gy * (A[0] * A[3] - A[1] * A[2])
    root = np.sqrt(trace**2 - 4 * det)
    period = 60.0 / (n * dynamics.teeth)
    best, where = np.full(len(n), np.inf), np.zeros(len(n))
    for value in ((trace + root) / 2, (trace - root) / 2):
        _lowest(f, value, period, best, where)
    return Edge(np.asarray(n, dtype=float), best, where)


def _lowest(f: Array, value: Array, period: Array, best: Array, where: Array) -> None:
    """Lowers `best` to the least depth at which one eigenvalue meets the delay of each speed."""
    with np.errstate(divide="ignore", invalid="ignore"):
        inverse = -1.0 / value
        real, imag = inverse.real, inverse.imag
        depth = np.where(real > 0, (real + imag**2 / real) / 2, np.nan)
        phase = np.arctan2(real, imag)
    turns = f[None, :] * period[:, None] - phase[None, :] / np.pi
    lobe = np.floor(turns)
    crossing = (
        (lobe[:, 1:] != lobe[:, :-1])
        & (np.maximum(lobe[:, 1:], lobe[:, :-1]) >= 0)
        & np.isfinite(depth[1:] + depth[:-1])[None, :]
    )
    row, place = np.nonzero(crossing)
    low, high = turns[row, place], turns[row, place + 1]
    share = np.clip((np.maximum(lobe[row, place], lobe[row, place + 1]) - low) / (high - low), 0.0, 1.0)
    at = depth[place] + share * (depth[place + 1] - depth[place])
    order = np.argsort(-at)
    found = np.full(len(best), np.inf)
    found[row[order]] = at[order]  # the last one written is the least
    which = np.zeros(len(best))
    which[row[order]] = (f[place] + share * (f[place + 1] - f[place]))[order]
    lower = found < best
    best[lower], where[lower] = found[lower], which[lower]


def _frequencies(dynamics: Dynamics) -> Array:
    """Frequencies to look at: dense where a mode turns its phase, thin between."""
    parts = []
    for mode in (*dynamics.x, *dynamics.y):
        spread = np.concatenate((-np.geomspace(0.3, 1e-4, _PER_MODE // 3), np.geomspace(1e-4, 1.2, _PER_MODE)))
        parts.append(mode.frequency * (1 + spread))
    return np.unique(np.concatenate(parts))
