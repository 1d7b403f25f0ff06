"""Forces of a cutter that leans: one turn of the full force model at each step, each piece of the edge with a feed of its own.

Where the axis swings, a piece higher up goes on faster than the tip: its chip is ``h = fz vn``, with vn its way against the material over
that of the tip (Ozturk and Budak 2007, Ferry and Altintas 2008). The elementary forces are those of the upright cutter
(Engin and Altintas 2001); a flat end cuts where it goes down along its axis.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array, engine
from lesna.physics.edge.along import Loads
from lesna.physics.edge.cutter import Cutter, Slices, slices_between
from lesna.physics.edge.forces import ForceLaw

#: angles of a turn at least
_BINS = 180
#: chips of the force table lie so far apart [mm]
_CHIP_STEP = 0.0005
#: a relief ground into the edge is resolved by so many slices of its length
_PER_WAVE = 6


@dataclass(frozen=True)
class LeaningLoads(Loads):
    """What a cutter that leans feels on each step.

    Attributes
    ----------
    fz : array (n,)
        Mean force along the axis [N].
    at_peak : array (n, 3)
        Force forward, left and along the axis where the side force is greatest [N].
    """

    fz: Array
    at_peak: Array


@dataclass(frozen=True)
class Pieces:
    """Pieces of the edge: rings from the middle of the end upward.

    Attributes
    ----------
    z, r, kappa, edge : array (m,)
        Middle height, radius [mm], lead angle [rad], edge length [mm].
    low, high : array (m,)
        Heights of the ends [mm].
    """

    z: Array
    r: Array
    kappa: Array
    edge: Array
    low: Array
    high: Array


@dataclass(frozen=True)
class RingTable:
    """Edges of one cutter in one material, for whatever its rings meet.

    Attributes
    ----------
    firsts : array (rings + 1,) of int
        Slices of each ring.
    slices : Slices
        All slices.
    law : ForceLaw
        Force per millimetre of edge.
    fold : int
        Equal teeth that are computed as one, else 1.
    """

    firsts: NDArray[np.int64]
    slices: Slices
    law: ForceLaw
    fold: int

    def loads(self, met: tuple[NDArray[np.int64], NDArray[np.int64], Array, Array], feed: Array) -> LeaningLoads:
        """Loads of every step at its feed.

        Parameters
        ----------
        met : tuple of arrays
            Number of spans before each step (n + 1,), ring of each span (m,), entry, exit [rad] and share of its edge (m, 3), and the way
            of tip and axis on each step (n, 4), as `lesna.stock.leaning` has them.
        feed : array (n,)
            Feed of the tip a turn [mm].
        """
        begins, ring, span, way = met
        out = np.zeros((len(feed), 13))
        s = self.slices
        columns = np.column_stack((s.r, s.z, np.sin(s.kappa), np.cos(s.kappa), s.db, s.smear, s.arm))
        engine.kernel("ring_loads")(
            begins, ring, np.ascontiguousarray(span), np.ascontiguousarray(way), np.ascontiguousarray(feed, dtype=float), self.firsts,
            columns, np.ascontiguousarray(s.trail.T), np.ascontiguousarray(s.share.transpose(2, 0, 1)),
            np.ascontiguousarray(s.gap.transpose(2, 0, 1)), self._forces(float(np.max(feed, initial=0.0)), way), _CHIP_STEP, self.fold,
            np.zeros((-(-_BINS // self.fold), 4)), out,
        )  # fmt: skip
        return _named(out)

    def _forces(self, feed: float, way: Array) -> Array:
        """Tangential, radial and axial force per millimetre of edge over the chip (k, 3) [N/mm]."""
        swing = float(np.abs(way).max(initial=1.0)) * (1.0 + float(self.slices.z.max()) + float(self.slices.r.max()))
        thickest = min(feed * swing + float(np.abs(self.slices.gap).max(initial=0.0)), 5.0)
        chips = _CHIP_STEP * np.arange(int(thickest / _CHIP_STEP) + 3)
        return np.ascontiguousarray(self.law.directions(chips).T)


def _named(out: Array) -> LeaningLoads:
    return LeaningLoads(
        fxy_peak=out[:, 0], fx=out[:, 1], fy=out[:, 2], fz=out[:, 3], axial_max=out[:, 4], axial_min=out[:, 5], torque_peak=out[:, 6],
        torque=out[:, 7], hex=out[:, 8], height=out[:, 9], at_peak=out[:, 10:],
    )  # fmt: skip


def ring_table(cutter: Cutter, law: ForceLaw, pieces: Pieces) -> RingTable:
    """The table of a cutter.

    Parameters
    ----------
    cutter : Cutter
        Its teeth.
    law : ForceLaw
        Force per millimetre of edge.
    pieces : Pieces
        The rings.
    """
    firsts = [0]
    rows: list[Sequence[float]] = []
    relief = cutter.profile.length if cutter.profile.kind == "wave" else cutter.profile.width
    fine = relief / _PER_WAVE if cutter.profile.kind != "plain" and relief > 0 else np.inf
    for z, r, kappa, edge, low, high in zip(
        *(getattr(pieces, name).tolist() for name in pieces.__dataclass_fields__), strict=True
    ):
        count = max(int(np.ceil((high - low) / fine)), 1)
        ends = np.linspace(low, high, count + 1)
        middles = 0.5 * (ends[:-1] + ends[1:]) if count > 1 else np.array([z])
        rows += [
            (middle, r, kappa, edge / count, a, b)
            for middle, a, b in zip(middles.tolist(), ends[:-1], ends[1:], strict=True)
        ]
        firsts.append(len(rows))
    z_, r_, kappa_, edge_, low_, high_ = (np.array(column, dtype=float) for column in zip(*rows, strict=True))
    slices = slices_between(cutter, (low_, high_), z_, r_, kappa_, edge_)
    return RingTable(np.array(firsts), slices, law, cutter.teeth if cutter.is_even else 1)


def loads_plain(
    table: RingTable, met: tuple[NDArray[np.int64], NDArray[np.int64], Array, Array], feed: Array, angles: int = 720
) -> LeaningLoads:
    """The same sums written plainly: every tooth at every angle of a turn.

    Parameters
    ----------
    table : RingTable
        The edges.
    met : tuple of arrays
        As `RingTable.loads` has it.
    feed : array (n,)
        Feed of the tip a turn [mm].
    angles : int
        Of a turn.
    """
    begins, ring, span, way = met
    s, teeth = table.slices, table.slices.trail.shape[0]
    theta = 2 * np.pi * (np.arange(angles) + 0.5) / angles
    out = np.zeros((len(feed), 13))
    for n in range(len(feed)):
        tx, tz, ax, ay = way[n].tolist()
        forces, moment, force, thickest = np.zeros((4, angles)), 0.0, 0.0, 0.0
        for i in range(begins[n], begins[n + 1]):
            a, b, fill = span[i].tolist()
            for p in range(table.firsts[ring[i]], table.firsts[ring[i] + 1]):
                for j in range(teeth):
                    # the slice's ends lag behind its middle: what of it is in the span
                    phi = a + (theta - s.trail[j, p] - a + s.smear[p] / 2) % (2 * np.pi) - s.smear[p] / 2
                    low, high = np.maximum(phi - s.smear[p] / 2, a), np.minimum(phi + s.smear[p] / 2, b)
                    part = (
                        np.clip((high - low) / max(s.smear[p], 1e-9), 0.0, 1.0)
                        if s.smear[p] > 1e-9
                        else (phi <= b) * 1.0
                    )
                    at = np.clip(phi, a, b)
                    sine, cosine, s_k, c_k = np.sin(at), np.cos(at), np.sin(s.kappa[p]), np.cos(s.kappa[p])
                    turned = ax * sine + ay * cosine
                    vn = s_k * (tx * sine + s.z[p] * turned) - c_k * (tz - s.r[p] * turned)
                    h = np.min(
                        [
                            feed[n] * s.share[j, back, p] * vn + s.gap[j, back, p] * s_k
                            for back in range(s.share.shape[1])
                        ],
                        axis=0,
                    )
                    h = np.where((vn > 0) & (part > 0), np.maximum(h, 0.0), 0.0)
                    t, u, v = (np.where(h > 0, f, 0.0) * part * s.db[p] * fill for f in table.law.directions(h))
                    forces += np.stack((-u * sine * s_k - t * cosine - v * sine * c_k, -u * cosine * s_k + t * sine - v * cosine * c_k,
                                        u * c_k - v * s_k, t * s.arm[p] / 1000.0))  # fmt: skip
                    thickest, force, moment = max(thickest, float(h.max())), force + t.sum(), moment + t.sum() * s.z[p]
        side = np.hypot(forces[0], forces[1])
        best = int(side.argmax())
        out[n] = (side[best], *forces[:3].mean(axis=1), max(forces[2].max(), 0.0), min(forces[2].min(), 0.0), forces[3].max(),
                  forces[3].mean(), thickest, moment / force if force > 0 else 0.0, *forces[:3, best])  # fmt: skip
    return _named(out)
