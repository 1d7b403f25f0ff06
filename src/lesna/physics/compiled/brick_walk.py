"""A cutter in five axes through stock in bricks: what its rings meet on the way, what it takes off, what its shank touches."""

from __future__ import annotations

import numpy as np

from lesna.physics.compiled.brick_cells import (
    OPTIONS,
    REACH,
    carried,
    cut_step,
    framed,
    value_near,
    value_of,
)
from lesna.physics.compiled.keeping import BORROWS, machine_code

#: a ring moves against the material where it goes on by more than this share of its way
_MOVES = 1e-6
#: material thinner than this share of the look was cut before
_THIN = 0.01
#: and where it is thinner than this: between cells the face of a round cutter reads so much too near [cells]
_GRAZES = 0.03
#: two rings tell of one face where their distances differ by so much of what lies between them
_ONE_FACE = 0.7
#: where three samples have their highest between them so near below the surface, it is asked for [cells]
_NEARLY = -0.3
#: the cutter is looked at ahead no further than its way turns by this (cosine) ...
_TURNED = np.cos(np.radians(15.0))
#: ... but so far at least, where it does not turn sharply (cosine): behind a corner stands what the cutter never goes into [cells]
_LEAST_LOOK, _SHARP = 1.0, np.cos(np.radians(40.0))
#: rounding of a length [cells]
_NEAR = 1e-6
#: material stands beside the flutes' end where a place there lies so deep in it [cells]
_STANDS = 0.5
#: columns of rings: height, radius, sine and cosine of the lead angle, edge length, whether it goes on in the ring above
Z, R, SINE, COSINE, EDGE, LINKED = range(6)
#: columns of a look: way of the tip and of the axis in its frame over its length (x, z, and both of the axis), then the frame
LOOK = 14


@machine_code("i8(f8[:,::1],f8[:,::1],f8[::1],i8,f8,f8[::1],f8[::1])", **BORROWS)
def _ahead(tips, axes, gone, at, reach, tip, axis):  # type: ignore[no-untyped-def]
    """The pose that the path reaches a way further on, at most its end or where it has turned, into tip and axis with
    how far that is behind them; number of the step it lies on."""
    n = tips.shape[0] - 1
    k, end = at, gone[at] + reach
    bx, by, bz = tips[at + 1, 0] - tips[at, 0], tips[at + 1, 1] - tips[at, 1], tips[at + 1, 2] - tips[at, 2]
    size = np.sqrt(bx * bx + by * by + bz * bz)
    while k + 1 < n and gone[k + 1] < end:
        cx, cy, cz = tips[k + 2, 0] - tips[k + 1, 0], tips[k + 2, 1] - tips[k + 1, 1], tips[k + 2, 2] - tips[k + 1, 2]
        other = np.sqrt(cx * cx + cy * cy + cz * cz)
        turns = size > 0.0 and other > 0.0 and bx * cx + by * cy + bz * cz < _TURNED * size * other
        leans = axes[at, 0] * axes[k + 2, 0] + axes[at, 1] * axes[k + 2, 1] + axes[at, 2] * axes[k + 2, 2] < _TURNED
        sharp = size > 0.0 and other > 0.0 and bx * cx + by * cy + bz * cz < _SHARP * size * other
        if sharp or (turns or leans) and gone[k + 1] - gone[at] >= min(_LEAST_LOOK / REACH * reach, reach):
            end = gone[k + 1]
            break
        k += 1
    length = gone[k + 1] - gone[k]
    share = min(max((end - gone[k]) / length if length > 0.0 else 1.0, 0.0), 1.0)
    norm = 0.0
    for c in range(3):
        tip[c] = tips[k, c] + share * (tips[k + 1, c] - tips[k, c])
        axis[c] = axes[k, c] + share * (axes[k + 1, c] - axes[k, c])
        norm += axis[c] * axis[c]
    for c in range(3):
        axis[c] /= np.sqrt(norm)
    axis[3] = min(end, gone[k + 1])
    return k


@machine_code("f8(i4[:,:,::1],i2[:,::1],f8[::1],f8,f8)", inline="always", **BORROWS)
def _bites(index, cells, at, s, c):  # type: ignore[no-untyped-def]
    """How deep a place of the edge stands in material where it will be, at most its way against it [cells]; 0 or less: it does not cut.

    s, c: sine and cosine of its angle from the left of the feed; at: what its ring has in common (see `_of_ring`).
    """
    turned = at[0] * s + at[1] * c
    vn = at[2] * s + at[3] * turned + at[4]
    if vn <= _MOVES:
        return min(vn, 0.0)
    x, y, z = at[5] + s * at[8] + c * at[11], at[6] + s * at[9] + c * at[12], at[7] + s * at[10] + c * at[13]
    return min(value_near(index, cells, x, y, z) - max(_THIN * vn, _GRAZES), vn)


@machine_code("f8(i4[:,:,::1],i2[:,::1],f8[::1],f8,f8)", **BORROWS)
def _bites_once(index, cells, at, s, c):  # type: ignore[no-untyped-def]
    """The same as a call of its own."""
    return _bites(index, cells, at, s, c)


@machine_code("void(f8[::1],f8[::1],f8[:,::1],f8[:,::1],f8[::1],f8[::1])", **BORROWS)
def _of_ring(tip, ahead, frame, after, ring, out):  # type: ignore[no-untyped-def]
    """What the places of a ring have in common: terms of their way against the material, and where they will be.

    The way of a place is that of the tip, and what the axis swings at its height and radius; frames with rows forward, left, axis.
    """
    z, r, sine, cosine = ring[Z], ring[R], ring[SINE], ring[COSINE]
    tx = tz = ax = ay = 0.0
    for k in range(3):
        tx += (ahead[k] - tip[k]) * frame[0, k]
        tz += (ahead[k] - tip[k]) * frame[2, k]
        ax += (after[2, k] - frame[2, k]) * frame[0, k]
        ay += (after[2, k] - frame[2, k]) * frame[1, k]
        out[5 + k] = ahead[k] + z * after[2, k]
        out[8 + k], out[11 + k] = r * after[0, k], r * after[1, k]
    out[0], out[1], out[2], out[3], out[4] = ax, ay, sine * tx, sine * z + cosine * r, -cosine * tz


@machine_code(
    "i8(i4[:,:,::1],i2[:,::1],f8[::1],f8[::1],f8[:,::1],f8[:,::1],f8[:,::1],f8[:,::1],f8[:,::1],f8[::1],i8,i4[::1],f4[:,::1],i8)",
    **BORROWS,
)
def _look(index, cells, tip, ahead, frame, after, rings, angles, bites, own, count, which, spans, at):  # type: ignore[no-untyped-def] # fmt: skip
    """Asks every ring what it meets on the way ahead and adds its spans; number of spans then.

    rings (m, 6) in cells but for angles; angles (2, count): sine and cosine of the samples; bites (m, count) is filled; own (14,): room.
    """
    m = rings.shape[0]
    whole = 2.0 * np.pi
    step = whole / count
    for k in range(m):
        _of_ring(tip, ahead, frame, after, rings[k], own)
        for s in range(count):
            bites[k, s] = _bites(index, cells, own, angles[0, s], angles[1, s])
    for k in range(m):
        begun = at
        edge = rings[k, EDGE]
        # how much of the ring's edge is in, weighed by its way against the material
        weight = share = 0.0
        first = -1
        for s in range(count):
            g = bites[k, s]
            if g <= 0.0:
                if first < 0:
                    first = s
                continue
            part = 0.0
            for side in range(2):
                other = k - 1 if side == 0 else k + 1
                linked = (
                    other >= 0 and other < m and (rings[other, LINKED] > 0.0 if side == 0 else rings[k, LINKED] > 0.0)
                )
                if not linked or bites[other, s] > 0.0:
                    part += 0.5
                    continue
                apart = 0.5 * (edge + rings[other, EDGE])
                fall = g - bites[other, s]
                if fall >= _ONE_FACE * apart:
                    part += apart * g / fall / edge
                else:
                    part += 0.5
            weight += g
            share += g * part
        if weight > 0.0 and first < 0:  # all round
            if at < which.shape[0]:
                which[at] = k
                spans[at, 0], spans[at, 1] = 0.0, whole
                at += 1
        elif weight > 0.0:
            s, inside, begin, turns = first, False, 0.0, 0.0
            for _ in range(count):
                n = s + 1 if s + 1 < count else 0
                a, b = bites[k, s], bites[k, n]
                if b > 0.0 and not inside:
                    inside = True
                    begin = turns + (s - a / (b - a)) * step
                elif b <= 0.0 and inside:
                    inside = False
                    if at < which.shape[0]:
                        which[at] = k
                        spans[at, 0], spans[at, 1] = begin, turns + (s + a / (a - b)) * step
                        at += 1
                if n == 0:
                    turns = whole
                s = n
        else:
            # a slit between two samples shows as a highest place just below the surface
            for s in range(count):
                a, b, c = bites[k, s - 1 if s > 0 else count - 1], bites[k, s], bites[k, s + 1 if s + 1 < count else 0]
                if b < _NEARLY or a > b or c > b or (a == b and b == c):
                    continue
                off = 0.5 * (a - c) / min(a - 2.0 * b + c, -1e-12)
                phi = (s + off) * step
                _of_ring(tip, ahead, frame, after, rings[k], own)
                g = _bites_once(index, cells, own, np.sin(phi), np.cos(phi))
                if g > 0.0 and at < which.shape[0]:
                    low = phi - g / (g - min(a, -1e-9)) * (off + 1.0) * step
                    high = phi + g / (g - min(c, -1e-9)) * (1.0 - off) * step
                    which[at] = k
                    spans[at, 0], spans[at, 1] = low, high
                    at += 1
                    weight, share = 1.0, 0.5 if rings[k, LINKED] > 0.0 else 1.0
        fill = share / weight if weight > 0.0 else 0.0
        for n in range(begun, at):
            spans[n, 2] = fill
    return at


@machine_code("void(f8[::1],f8[::1],f8[::1],f8[::1],f8[:,::1],f8,f8[:,::1])", **BORROWS)
def _forward(tip, ahead, a, b, frame, flute, out):  # type: ignore[no-untyped-def]
    """Frame of a look: forward is where the tip goes across the axis; where it stands, where the flutes do."""
    size = 0.0
    for high in range(2):
        lift = 0.0 if high == 0 else 0.5 * flute
        dx, dy, dz = (ahead[0] - tip[0] + lift * (b[0] - a[0]), ahead[1] - tip[1] + lift * (b[1] - a[1]),
                      ahead[2] - tip[2] + lift * (b[2] - a[2]))  # fmt: skip
        along = dx * a[0] + dy * a[1] + dz * a[2]
        dx, dy, dz = dx - along * a[0], dy - along * a[1], dz - along * a[2]
        size = np.sqrt(dx * dx + dy * dy + dz * dz)
        if size > 1e-6:
            out[0, 0], out[0, 1], out[0, 2] = dx / size, dy / size, dz / size
            break
    if size <= 1e-6:
        out[0, 0], out[0, 1], out[0, 2] = frame[0, 0], frame[0, 1], frame[0, 2]
    out[1, 0], out[1, 1], out[1, 2] = (a[1] * out[0, 2] - a[2] * out[0, 1], a[2] * out[0, 0] - a[0] * out[0, 2],
                                       a[0] * out[0, 1] - a[1] * out[0, 0])  # fmt: skip
    out[2, 0], out[2, 1], out[2, 2] = a[0], a[1], a[2]


@machine_code("void(f8[::1],f8[::1],f8[:,::1],f8[::1],f8,f8[::1])", **BORROWS)
def _told(tip, ahead, frame, axis, length, out):  # type: ignore[no-untyped-def]
    """A look: its length, the ways of tip (forward, along the axis) and axis (forward, left) over it, and its frame."""
    out[0] = length
    per = 1.0 / length if length > 0.0 else 0.0
    for c in range(4):
        out[1 + c] = 0.0
    for k in range(3):
        out[1] += per * (ahead[k] - tip[k]) * frame[0, k]
        out[2] += per * (ahead[k] - tip[k]) * frame[2, k]
        out[3] += per * (axis[k] - frame[2, k]) * frame[0, k]
        out[4] += per * (axis[k] - frame[2, k]) * frame[1, k]
    for r in range(3):
        for c in range(3):
            out[5 + 3 * r + c] = frame[r, c]


@machine_code(
    "i8(i4[:,:,::1],i2[:,::1],i2[::1],i4[::1],i8[::1],f8[:,::1],f8[:,::1],f8[::1],i8[::1],f8[::1],f8[:,::1],f8[:,::1],f8,f8,i8,i8,i8,i8[::1],"
    "i4[::1],f4[:,::1],f8[:,::1],f8[::1],f8[:,::1])",
    **OPTIONS,
)
def run_brick_walk(  # type: ignore[no-untyped-def]
    index, cells, most, free, state, tips, axes, gone, way, shape, rings, body, cell, reach, count, need, last,
    begins, which, spans, looks, volume, touched,
):  # fmt: skip
    """Takes a cutter along poses, from the step that `state[2]` names, and fills what it meets; returns the step it came to.

    tips, axes (n + 1, 3) [cells], gone (n + 1,): way to each [cells]; way (n,): 0 for a rapid, 1 for a feed that is looked at, 2 for a
    feed of which only the stock is wanted; shape: as `brick_cells` has it; rings (m, 6); body (b, 3): height, radius and kind (1 shank,
    2 holder) of places that must not touch, and of those over the flutes that must be free (3); reach: of a look [cells]; count:
    samples of a ring; need: rows that a step may take; last: step before which it ends. It comes back early where rows or spans run
    out. begins (n + 1): number of spans before each look; which, spans (., 3): ring, entry and exit from the left of the feed [rad],
    share of its edge that is in. looks (n, LOOK): its length [cells], 0 where none is taken, the ways of tip and axis over it, frame.
    volume (n,) [cells3]; touched (n, 3): how deep shank and holder stand in material, and height of what stands over the flutes
    [cells].
    """
    frame, after, feed, ahead_frame = np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3))
    ahead, axis = np.empty(3), np.empty(4)
    start, least = np.empty(12, np.float32), np.empty(64, np.float32)
    first, second = np.empty((3, 3), np.float32), np.empty((3, 3), np.float32)
    angles = np.empty((2, count))
    for s in range(count):
        angles[0, s], angles[1, s] = np.sin(2.0 * np.pi * s / count), np.cos(2.0 * np.pi * s / count)
    bites, own = np.empty((rings.shape[0], count)), np.empty(14)
    at = begins[state[2]]
    since = REACH * 1e9
    for i in range(state[2], last):
        if state[1] + (cells.shape[0] - state[0]) < need or which.shape[0] - at < 4 * rings.shape[0]:
            state[2] = i
            return i
        framed(axes[i], frame)
        carried(axes[i], frame, axes[i + 1], after)
        length = gone[i + 1] - gone[i]
        if way[i] == 1:
            _ahead(tips, axes, gone, i, reach, ahead, axis)
            # a look shorter than that sees walls where they are rounded: the one before it tells of these steps
            if axis[3] - gone[i] >= _LEAST_LOOK - _NEAR or i == 0:
                _forward(tips[i], ahead, axes[i], axis, frame, shape[4], feed)
                carried(axes[i], feed, axis, ahead_frame)
                at = _look(
                    index, cells, tips[i], ahead, feed, ahead_frame, rings, angles, bites, own, count, which, spans, at
                )
                _told(tips[i], ahead, feed, axis, axis[3] - gone[i], looks[i])
        begins[i + 1] = at
        volume[i] = cut_step(index, cells, most, free, state, tips[i], tips[i + 1], frame, after, shape, 1 if i > 0 else 0,
                             start, first, second, least)  # fmt: skip
        since += length
        touched[i, 0] = touched[i, 1] = 0.0
        # between two tests it is as deep as it was
        touched[i, 2] = touched[i - 1, 2] if i > 0 else 0.0
        if body.shape[0] > 0 and way[i] < 2 and (since * cell >= 2.0 or way[i] == 0):
            since = touched[i, 2] = 0.0
            for b in range(body.shape[0]):
                for s in range(0, count, max(count // 24, 1)):
                    x, y = body[b, 1] * angles[0, s], body[b, 1] * angles[1, s]
                    deep = value_of(
                        index, cells,
                        tips[i + 1, 0] + x * after[0, 0] + y * after[1, 0] + body[b, 0] * after[2, 0],
                        tips[i + 1, 1] + x * after[0, 1] + y * after[1, 1] + body[b, 0] * after[2, 1],
                        tips[i + 1, 2] + x * after[0, 2] + y * after[1, 2] + body[b, 0] * after[2, 2],
                    )  # fmt: skip
                    if body[b, 2] < 2.5:
                        kind = 0 if body[b, 2] < 1.5 else 1
                        touched[i, kind] = max(touched[i, kind], deep)
                    elif deep > _STANDS:
                        touched[i, 2] = max(touched[i, 2], body[b, 0])
    state[2] = last
    return last


@machine_code("void(i4[:,:,::1],i2[:,::1],f8[:,::1],f8[::1])", **OPTIONS)
def run_brick_values(index, cells, places, out):  # type: ignore[no-untyped-def]
    """Distances at places (n, 3) [cells], positive in the material."""
    for k in range(places.shape[0]):
        out[k] = value_of(index, cells, places[k, 0], places[k, 1], places[k, 2])
