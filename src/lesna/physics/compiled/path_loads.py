"""Forces of one turn at every step of a path, from antiderivatives over the angle; the plain reference is `turn_plain`."""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {
    "nogil": True,
    "error_model": "numpy",
    "fastmath": {"contract", "nsz", "arcp", "reassoc"},
}
#: what is filled for each step: side force at its peak, mean of it along and across the feed, axial force at most and at least [N],
#: torque at its peak and in the mean [Nm], thickest chip [mm], height at which the tangential force acts [mm]
OUTPUTS = 9
#: an edge without helix enters within this angle [rad]
_STRAIGHT = 1e-3


@machine_code("f8(f8[::1],f8)", **_OPTIONS)
def _read(table, place):  # type: ignore[no-untyped-def]
    """A table between its nodes."""
    n = min(int(place), table.shape[0] - 2)
    return table[n] + (place - n) * (table[n + 1] - table[n])


@machine_code("void(f8[:,::1],f8,f8[::1])", **_OPTIONS)
def _read_all(table, place, out):  # type: ignore[no-untyped-def]
    """The four sums of a table (nodes, 4) between its nodes."""
    n = min(int(place), table.shape[0] - 2)
    share = place - n
    for c in range(4):
        out[c] = table[n, c] + share * (table[n + 1, c] - table[n, c])


@machine_code(
    "void(f8[:,:,:,::1],f8[:,::1],f8[:,::1],f8[:,::1],i8,f8[:,::1],f8,i8,f8,f8[:,::1],f8[:,::1],f8[::1])", **_OPTIONS
)
def _one(tables, chips, sections, leads, count, found, radius, by_radius, fold, room, wave, out):  # type: ignore[no-untyped-def]
    """One step at one feed: adds sections, teeth and intervals to the wave (angles, 4) and reads it."""
    teeth, angles = tables.shape[1], wave.shape[0]
    per_angle = angles / (2.0 * np.pi / fold)
    per_node = (tables.shape[2] - 1) / np.pi
    wave[:] = 0.0
    torque = force = moment = chip = fx = fy = 0.0
    for i in range(count):
        for s in range(sections.shape[0]):
            low, high, r = max(sections[s, 0], found[i, 3]), min(sections[s, 1], found[i, 2]), sections[s, 2]
            if high <= low:
                continue
            arm = sections[s, 3] / 1000.0
            a, b = found[i, 0], found[i, 1]
            if by_radius and r < radius:
                # a parallel pass of the same cutter: nearer to the tip its wall lies further in
                if b > np.pi - 1e-6 and a > 1e-6:
                    a = np.pi - np.arccos(max(1.0 - radius / r * (1.0 + np.cos(a)), -1.0))
                elif a < 1e-6 and b < np.pi - 1e-6:
                    b = np.arccos(max(1.0 - radius / r * (1.0 - np.cos(b)), -1.0))
            rim = min(max(np.pi / 2, a), b)
            chip = max(chip, _read(chips[s], rim * per_node))
            share = (high - low) * fold / (2.0 * np.pi)
            for j in range(teeth if fold == 1.0 else 1):
                lead = max(leads[0, j], _STRAIGHT / (high - low))
                table = tables[s, j]
                _read_all(table, a * per_node, room[0])
                _read_all(table, b * per_node, room[1])
                mean = (room[1, 3] - room[0, 3]) * share
                torque += mean * arm
                force += mean
                moment += mean * 0.5 * (low + high)
                fx += (room[1, 0] - room[0, 0]) * share
                fy += (room[1, 1] - room[0, 1]) * share
                ahead, behind = leads[1, j] + lead * low, leads[1, j] + lead * high
                k = int(np.ceil((a + ahead) * per_angle))
                last = int(np.floor((b + behind) * per_angle))
                per = per_node / per_angle
                u, v = k * per - ahead * per_node, k * per - behind * per_node
                begin, end = a * per_node, b * per_node
                at = k % angles
                one = 1.0 / lead
                for _ in range(last - k + 1):
                    if u < end:
                        m = int(u)
                        f = u - m
                        w0 = table[m, 0] + f * (table[m + 1, 0] - table[m, 0])
                        w1 = table[m, 1] + f * (table[m + 1, 1] - table[m, 1])
                        w2 = table[m, 2] + f * (table[m + 1, 2] - table[m, 2])
                        w3 = table[m, 3] + f * (table[m + 1, 3] - table[m, 3])
                    else:
                        w0, w1, w2, w3 = room[1, 0], room[1, 1], room[1, 2], room[1, 3]
                    if v > begin:
                        m = int(v)
                        f = v - m
                        w0 -= table[m, 0] + f * (table[m + 1, 0] - table[m, 0])
                        w1 -= table[m, 1] + f * (table[m + 1, 1] - table[m, 1])
                        w2 -= table[m, 2] + f * (table[m + 1, 2] - table[m, 2])
                        w3 -= table[m, 3] + f * (table[m + 1, 3] - table[m, 3])
                    else:
                        w0 -= room[0, 0]
                        w1 -= room[0, 1]
                        w2 -= room[0, 2]
                        w3 -= room[0, 3]
                    wave[at, 0] += w0 * one
                    wave[at, 1] += w1 * one
                    wave[at, 2] += w2 * one
                    wave[at, 3] += w3 * one * arm
                    u += per
                    v += per
                    at += 1
                    if at == angles:
                        at = 0
    most = top = peak = 0.0
    low = 0.0
    for k in range(angles):
        most = max(most, wave[k, 0] * wave[k, 0] + wave[k, 1] * wave[k, 1])
        top, low = max(top, wave[k, 2]), min(low, wave[k, 2])
        peak = max(peak, wave[k, 3])
    out[0], out[1], out[2], out[3], out[4] = np.sqrt(most), fx, fy, top, low
    out[5], out[6], out[7] = peak, torque, chip
    out[8] = moment / force if force > 0.0 else 0.0


@machine_code("void(f8[:,:,:,:,::1],f8[:,:,::1],f8[:,::1],f8[:,::1],f8[::1],f8[::1],i8[::1],f8[:,:,::1],f8,i8,f8,i8,f8[:,::1])",
      **_OPTIONS)  # fmt: skip
def run_path_loads(tables, chips, sections, leads, nodes, feeds, counts, found, radius, by_radius, fold, angles, out):  # type: ignore[no-untyped-def] # fmt: skip
    """Loads of every step at its feed.

    tables (feeds, sections, teeth, nodes, 4): antiderivative of x, y, axial and tangential force of a millimetre of height;
    chips (feeds, sections, nodes); sections (m, 4): ends, radius and lever [mm], from the tip; leads (2, teeth): lag of a millimetre and
    place of each tooth [rad]; nodes: feeds per tooth of the tables [mm], rising evenly in their logarithm; feeds (n,): of the
    steps; found (n, most, 4): entry, exit [rad], upper and lower end [mm]; by_radius: 1 where angles are those of the rim and
    narrower levels meet what a parallel pass has left, 0 where each level has its own; fold: equal teeth that are one, else 1;
    angles: of a turn, or of a pitch where teeth are folded.
    """
    wave, room = np.zeros((angles, 4)), np.zeros((2, 4))
    below, above = np.zeros(OUTPUTS), np.zeros(OUTPUTS)
    ratio = np.log(nodes[1] / nodes[0])
    for k in range(feeds.shape[0]):
        count = counts[k]
        if count == 0 or feeds[k] <= 0.0:
            out[k, :] = 0.0
            continue
        if k > 0 and count == counts[k - 1] and feeds[k] == feeds[k - 1]:
            same = True
            for i in range(count):
                for c in range(4):
                    if abs(found[k, i, c] - found[k - 1, i, c]) > 1e-7:
                        same = False
            if same:  # straight runs meet the same at each step
                out[k, :] = out[k - 1, :]
                continue
        place = min(max(np.log(feeds[k] / nodes[0]) / ratio, 0.0), nodes.shape[0] - 1.0)
        n = min(int(place), nodes.shape[0] - 2)
        share = place - n
        _one(tables[n], chips[n], sections, leads, count, found[k], radius, by_radius, fold, room, wave, below)
        if share <= 1e-9:
            out[k, :] = below
            continue
        _one(tables[n + 1], chips[n + 1], sections, leads, count, found[k], radius, by_radius, fold, room, wave, above)
        for c in range(OUTPUTS):
            # forces go as powers of the feed, so between two feeds they are straight in logarithms
            if below[c] > 0.0 and above[c] > 0.0:
                out[k, c] = np.exp((1.0 - share) * np.log(below[c]) + share * np.log(above[c]))
            else:
                out[k, c] = (1.0 - share) * below[c] + share * above[c]
