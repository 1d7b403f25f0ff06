"""Forces of one turn of a cutter whose rings each have a feed of their own; the plain reference is `ring_loads.loads_plain`."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {
    "nogil": True,
    "error_model": "numpy",
    "boundscheck": False,
    "fastmath": {"contract", "nsz", "arcp", "reassoc"},
}
#: columns of slices: radius, height, sine and cosine of the lead angle, edge length, lag between its ends, lever
R, Z, SINE, COSINE, EDGE, SMEAR, ARM = range(7)
#: what is filled for each step: side force at its peak, means forward, left and along the axis, axial force at most and at least [N],
#: torque at its peak and in the mean [Nm], thickest chip [mm], height at which the tangential force acts [mm], forces at the peak [N]
OUTPUTS = 13


@machine_code("void(f8[:,::1],f8,f8,f8,f8,f8,f8,f8)", inline="always", **_OPTIONS)
def _add(wave, low, high, per_bin, fx, fy, fz, torque):  # type: ignore[no-untyped-def]
    """Adds forces that act evenly from one angle to another, in bins."""
    bins = wave.shape[0]
    a, b = low * per_bin, high * per_bin
    k = int(np.floor(a))
    last = int(np.floor(b))
    wide = max(b - a, 1e-12)
    at = k % bins
    while k <= last:
        share = (min(b, k + 1.0) - max(a, float(k))) / wide
        wave[at, 0] += share * fx
        wave[at, 1] += share * fy
        wave[at, 2] += share * fz
        wave[at, 3] += share * torque
        k += 1
        at += 1
        if at == bins:
            at = 0


@machine_code(
    "void(i8[::1],i8[::1],f8[:,::1],f8[:,::1],f8[::1],i8[::1],f8[:,::1],f8[:,::1],f8[:,:,::1],f8[:,:,::1],f8[:,::1],f8,i8,f8[:,::1],f8[:,::1])",
    **_OPTIONS,
)
def run_ring_loads(begins, ring, span, way, feeds, firsts, slices, trail, share, gap, law, per_step, fold, wave, out):  # type: ignore[no-untyped-def] # fmt: skip
    """Loads of every step at its feed.

    begins (n + 1), ring (m,), span (m, 3), way (n, 4): what is met, as `stock.leaning.Met` has it; feeds (n,): of the tip a turn [mm];
    firsts (rings + 1): slices of each ring; slices (p, 7); trail (p, teeth) [rad]; share, gap (p, teeth, back) as `Slices` has them;
    law (k, 3): force per millimetre of edge at chips `per_step` apart [mm]; fold: equal teeth that are
    one, else 1; wave (bins, 4): room for a turn, or a pitch where teeth are folded; out (n, OUTPUTS).
    """
    bins = wave.shape[0]
    whole = 2.0 * np.pi / fold
    per_bin = bins / whole
    step = whole / bins
    most = law.shape[0] - 2
    teeth, reach = 1 if fold > 1 else trail.shape[1], share.shape[2]
    for n in range(feeds.shape[0]):
        out[n, :] = 0.0
        if begins[n + 1] == begins[n] or feeds[n] <= 0.0:
            continue
        wave[:] = 0.0
        tx, tz, ax, ay = way[n, 0], way[n, 1], way[n, 2], way[n, 3]
        force = moment = chip = 0.0
        for i in range(begins[n], begins[n + 1]):
            a, b, fill = span[i, 0], span[i, 1], span[i, 2]
            for p in range(firsts[ring[i]], firsts[ring[i] + 1]):
                for end in range(2):  # the thickest chip is often where the span ends, not in the middle of a bin
                    phi = b if end == 1 else a
                    turned = ax * np.sin(phi) + ay * np.cos(phi)
                    vn = slices[p, SINE] * (tx * np.sin(phi) + slices[p, Z] * turned) - slices[p, COSINE] * (
                        tz - slices[p, R] * turned
                    )
                    for j in range(teeth):
                        h = 1e30
                        for back in range(reach):
                            h = min(h, feeds[n] * share[p, j, back] * vn + gap[p, j, back] * slices[p, SINE])
                        chip = max(chip, h if vn > 0.0 else 0.0)
                r, z, s_k, c_k = slices[p, R], slices[p, Z], slices[p, SINE], slices[p, COSINE]
                edge, half, arm = slices[p, EDGE] * fill, 0.5 * slices[p, SMEAR], slices[p, ARM] / 1000.0
                pieces = max(int(np.ceil((b - a) / step)), 1)
                wide = (b - a) / pieces
                weight = edge * wide * per_bin
                for q in range(pieces):
                    low = a + q * wide
                    phi = low + 0.5 * wide
                    sine, cosine = np.sin(phi), np.cos(phi)
                    turned = ax * sine + ay * cosine
                    vn = s_k * (tx * sine + z * turned) - c_k * (tz - r * turned)
                    if vn <= 0.0:
                        continue
                    for j in range(teeth):
                        h = 1e30
                        for back in range(reach):
                            h = min(h, feeds[n] * share[p, j, back] * vn + gap[p, j, back] * s_k)
                        if h <= 0.0:
                            continue
                        chip = max(chip, h)
                        at = h / per_step
                        k = min(int(at), most)
                        f = at - k
                        t = (law[k, 0] + f * (law[k + 1, 0] - law[k, 0])) * weight
                        u = (law[k, 1] + f * (law[k + 1, 1] - law[k, 1])) * weight
                        v = (law[k, 2] + f * (law[k + 1, 2] - law[k, 2])) * weight
                        force += t
                        moment += t * z
                        lag = trail[p, j]
                        _add(
                            wave, low + lag - half, low + wide + lag + half, per_bin, -u * sine * s_k - t * cosine - v * sine * c_k,
                            -u * cosine * s_k + t * sine - v * cosine * c_k, u * c_k - v * s_k, t * arm,
                        )  # fmt: skip
        best = -1.0
        at_best = 0
        top = low_axial = peak = 0.0
        for k in range(bins):
            side = wave[k, 0] * wave[k, 0] + wave[k, 1] * wave[k, 1]
            if side > best:
                best, at_best = side, k
            top, low_axial = max(top, wave[k, 2]), min(low_axial, wave[k, 2])
            peak = max(peak, wave[k, 3])
            out[n, 1] += wave[k, 0] / bins
            out[n, 2] += wave[k, 1] / bins
            out[n, 3] += wave[k, 2] / bins
            out[n, 7] += wave[k, 3] / bins
        out[n, 0], out[n, 4], out[n, 5], out[n, 6] = np.sqrt(best), top, low_axial, peak
        out[n, 8] = chip
        out[n, 9] = moment / force if force > 0.0 else 0.0
        for c in range(3):
            out[n, 10 + c] = wave[at_best, c]
