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


@machine_code("void(f8[:,::1],f8,f8[::1])", **_OPTIONS)
def _read(table, place, out):  # type: ignore[no-untyped-def]
    """The columns of a table between its nodes."""
    n = min(int(place), table.shape[0] - 2)
    share = place - n
    for c in range(table.shape[1]):
        out[c] = table[n, c] + share * (table[n + 1, c] - table[n, c])


@machine_code(
    "void(f8[:,:,:,::1],f8[:,:,::1],f8[:,::1],f8[:,::1],i8,f8[:,::1],f8,i8,f8,f8[:,::1],f8[:,::1],f8[:,::1])",
    **_OPTIONS,
)
def _one(tables, chips, sections, leads, count, found, radius, by_radius, fold, room, wave, out):  # type: ignore[no-untyped-def]
    """One step at some feeds: adds sections, teeth and intervals to the wave (angles, 4 sums of each feed) and reads it."""
    teeth, many, (angles, sums) = tables.shape[1], chips.shape[2], wave.shape
    per_angle = angles / (2.0 * np.pi / fold)
    per_node = (tables.shape[2] - 1) / np.pi
    per = per_node / per_angle
    entered, left, chip = room[0], room[1], room[2, :many]
    wave[:] = 0.0
    out[:] = 0.0
    for i in range(count):
        for s in range(sections.shape[0]):
            low, high, r = max(sections[s, 0], found[i, 3]), min(sections[s, 1], found[i, 2]), sections[s, 2]
            if high <= low:
                continue
            force_of = 1000.0 / sections[s, 3] if sections[s, 3] > 0.0 else 0.0
            a, b = found[i, 0], found[i, 1]
            if by_radius and r < radius:
                # a parallel pass of the same cutter: nearer to the tip its wall lies further in
                if b > np.pi - 1e-6 and a > 1e-6:
                    a = np.pi - np.arccos(max(1.0 - radius / r * (1.0 + np.cos(a)), -1.0))
                elif a < 1e-6 and b < np.pi - 1e-6:
                    b = np.arccos(max(1.0 - radius / r * (1.0 - np.cos(b)), -1.0))
            rim = min(max(np.pi / 2, a), b)
            _read(chips[s], rim * per_node, chip)
            for q in range(many):
                out[q, 7] = max(out[q, 7], chip[q])
            share = (high - low) * fold / (2.0 * np.pi)
            begin, end = a * per_node, b * per_node
            for j in range(teeth if fold == 1.0 else 1):
                lead = max(leads[0, j], _STRAIGHT / (high - low))
                table = tables[s, j]
                _read(table, begin, entered)
                _read(table, end, left)
                for q in range(many):
                    out[q, 1] += (left[q] - entered[q]) * share
                    out[q, 2] += (left[many + q] - entered[many + q]) * share
                    mean = (left[3 * many + q] - entered[3 * many + q]) * share
                    out[q, 6] += mean
                    out[q, 5] += mean * force_of
                    out[q, 8] += mean * force_of * 0.5 * (low + high)
                ahead, behind = leads[1, j] + lead * low, leads[1, j] + lead * high
                k = int(np.ceil((a + ahead) * per_angle))
                last = int(np.floor((b + behind) * per_angle))
                u, v = k * per - ahead * per_node, k * per - behind * per_node
                at = k % angles
                one = 1.0 / lead
                for _ in range(last - k + 1):
                    if u < end and v > begin:
                        m, n = int(u), int(v)
                        f, g = u - m, v - n
                        for c in range(sums):
                            gone = table[m, c] + f * (table[m + 1, c] - table[m, c])
                            wave[at, c] += one * (gone - table[n, c] - g * (table[n + 1, c] - table[n, c]))
                    elif u < end:
                        m = int(u)
                        f = u - m
                        for c in range(sums):
                            wave[at, c] += one * (table[m, c] + f * (table[m + 1, c] - table[m, c]) - entered[c])
                    elif v > begin:
                        n = int(v)
                        g = v - n
                        for c in range(sums):
                            wave[at, c] += one * (left[c] - table[n, c] - g * (table[n + 1, c] - table[n, c]))
                    else:
                        for c in range(sums):
                            wave[at, c] += one * (left[c] - entered[c])
                    u += per
                    v += per
                    at += 1
                    if at == angles:
                        at = 0
    for q in range(many):
        most = top = peak = low = 0.0
        for k in range(angles):
            x, y = wave[k, q], wave[k, many + q]
            most = max(most, x * x + y * y)
            top, low = max(top, wave[k, 2 * many + q]), min(low, wave[k, 2 * many + q])
            peak = max(peak, wave[k, 3 * many + q])
        force = out[q, 5]
        out[q, 0], out[q, 3], out[q, 4], out[q, 5] = np.sqrt(most), top, low, peak
        out[q, 8] = out[q, 8] / force if force > 0.0 else 0.0


@machine_code("b1(i8[::1],f8[:,:,::1],i8)", **_OPTIONS)
def _as_before(counts, found, k):  # type: ignore[no-untyped-def]
    """Whether a step meets what the step before it meets, as on straight runs."""
    if k == 0 or counts[k] != counts[k - 1]:
        return False
    for i in range(counts[k]):
        for c in range(4):
            if abs(found[k, i, c] - found[k - 1, i, c]) > 1e-7:
                return False
    return True


@machine_code(
    "void(f8[:,:,:,:,::1],f8[:,:,:,::1],f8[:,::1],f8[:,::1],f8[::1],f8[::1],i8[::1],f8[:,:,::1],f8,i8,f8,i8,f8[:,::1])",
    **_OPTIONS,
)
def run_path_loads(tables, chips, sections, leads, nodes, feeds, counts, found, radius, by_radius, fold, angles, out):  # type: ignore[no-untyped-def] # fmt: skip
    """Loads of every step at its feed.

    tables (pairs, sections, teeth, nodes, 8): antiderivative of the forces along x and y, the axial force and the torque of a
    millimetre of height, each for a feed and the next side by side; chips (pairs, sections, nodes, 2); sections (m, 4): ends, radius
    and lever [mm], from the tip; leads (2, teeth): lag of a millimetre and place of each tooth [rad]; nodes: feeds per tooth of the
    tables [mm], rising evenly in their logarithm; feeds (n,): of the steps; found (n, most, 4): entry, exit [rad], upper and lower
    end [mm]; by_radius: 1 where angles are those of the rim and narrower levels meet what a parallel pass has left, 0 where each
    level has its own; fold: equal teeth that are one, else 1; angles: of a turn, or of a pitch where teeth are folded.
    """
    wave, room, held = np.zeros((angles, 8)), np.zeros((3, 8)), np.zeros((2, OUTPUTS))
    ratio = np.log(nodes[1] / nodes[0])
    for k in range(feeds.shape[0]):
        count = counts[k]
        if count == 0 or feeds[k] <= 0.0:
            out[k, :] = 0.0
            continue
        if k > 0 and feeds[k] == feeds[k - 1] and _as_before(counts, found, k):
            out[k, :] = out[k - 1, :]
            continue
        place = min(max(np.log(feeds[k] / nodes[0]) / ratio, 0.0), nodes.shape[0] - 1.0)
        n = min(int(place), nodes.shape[0] - 2)
        share, below, above = place - n, held[0], held[1]
        _one(tables[n], chips[n], sections, leads, count, found[k], radius, by_radius, fold, room, wave, held)
        for c in range(OUTPUTS):
            # forces go as powers of the feed, so between two feeds they are straight in logarithms
            if below[c] > 0.0 and above[c] > 0.0:
                out[k, c] = np.exp((1.0 - share) * np.log(below[c]) + share * np.log(above[c]))
            else:
                out[k, c] = (1.0 - share) * below[c] + share * above[c]


@machine_code(
    "void(f8[:,:,:,::1],f8[:,:,::1],f8[:,::1],f8[:,::1],i8[::1],f8[:,:,::1],f8,i8,f8,i8,f8[:,:,::1])", **_OPTIONS
)
def run_path_nodes(tables, chips, sections, leads, counts, found, radius, by_radius, fold, angles, out):  # type: ignore[no-untyped-def]
    """Loads of every step at every feed of the tables, out (steps, feeds, OUTPUTS).

    tables (sections, teeth, nodes, 4 sums of every feed side by side); chips (sections, nodes, feeds); the rest as `run_path_loads`
    has it.
    """
    wave, room = np.zeros((angles, tables.shape[3])), np.zeros((3, tables.shape[3]))
    for k in range(counts.shape[0]):
        if counts[k] > 0 and _as_before(counts, found, k):
            out[k] = out[k - 1]
        elif counts[k] > 0:
            _one(tables, chips, sections, leads, counts[k], found[k], radius, by_radius, fold, room, wave, out[k])
