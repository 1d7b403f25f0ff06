"""A cutter marches through stock on one level with its engagement held: distances to walls and stock on a grid, in cells.

`psi` is how much further in than allowed the middle may still go to a wall, at least 0 where it may stand. `phi` is how far a place is from
material, negative in it. A heading u has the material on its right. What a place takes off is
``ae_eq = R * integral(n.u) over the front arc in material``, the area a millimetre of the way removes, whatever way that is.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: material this near to the rim counts as cut [cells]: neighbouring passes do not quite meet
TOUCH = 0.05
#: how far into the material a cut tells of its distance [cells]
_AROUND = 4.0
#: engagements this near to the target are on it
_EXACT = 0.004
#: looks at a heading in one step
_LOOKS = 14
#: engagement over the target that is worth a sharper turn
_TOO_MUCH = 1.1
#: share of the target under which nothing is cut
NOTHING = 0.04
#: turns that are tried where the smooth ones are overloaded [rad]
_SHARPER, _SHARPEST = 0.06, 1.2
#: why a march ends
BLOCKED, IDLE, FULL, OVER = range(4)
#: what is kept of a march between two stretches of it
WHY, SINCE, IDLE_WAY, TOUCHED = range(4)
#: columns of a way: place, heading, what it takes off
X, Y, UX, UY, TAKEN = range(5)


@machine_code("f8(f4[:,::1],f8,f8)", **_OPTIONS)
def at(grid, x, y):  # type: ignore[no-untyped-def]
    """A grid between its middles; its edge goes on outside."""
    x = min(max(x, 0.0), grid.shape[1] - 1.001)
    y = min(max(y, 0.0), grid.shape[0] - 1.001)
    i, j = int(x), int(y)
    u, w = x - i, y - j
    c, r, one = np.uintp(i), np.uintp(j), np.uintp(1)
    low = (1.0 - u) * grid[r, c] + u * grid[r, c + one]
    high = (1.0 - u) * grid[r + one, c] + u * grid[r + one, c + one]
    return (1.0 - w) * low + w * high


@machine_code("void(f4[:,::1],f8,f8,f8,f8,f8,b1)", **_OPTIONS)
def cut(phi, ax, ay, bx, by, R, goes_on):  # type: ignore[no-untyped-def]
    """Takes away what a disc covers from a to b; where it goes on, what it covers at a has been taken away before."""
    dx, dy = bx - ax, by - ay
    length2 = dx * dx + dy * dy
    per_length2 = 1.0 / length2 if length2 > 0.0 else 0.0
    left = max(int(min(ax, bx) - R - _AROUND), 0)
    right = min(int(max(ax, bx) + R + _AROUND + 1.0), phi.shape[1])
    for r in range(max(int(min(ay, by) - R - _AROUND), 0), min(int(max(ay, by) + R + _AROUND + 1.0), phi.shape[0])):
        py, first, last = r - ay, left, right
        if goes_on:
            # only what lies ahead of a is new
            if dx == 0.0:
                if py * dy <= 0.0:
                    continue
            else:
                beside = min(max(ax - py * dy / dx, left - 1.0), right + 1.0)
                if dx > 0.0:
                    first = max(first, int(np.ceil(beside)))
                else:
                    last = min(last, int(np.floor(beside)) + 1)
        for c in range(first, last):
            row, column = np.uintp(r), np.uintp(c)
            px, room = c - ax, R - phi[row, column]
            share = min(max((px * dx + py * dy) * per_length2, 0.0), 1.0)
            qx, qy = px - share * dx, py - share * dy
            away2 = qx * qx + qy * qy
            # most cells about the disc have been cut as deep before
            if room > 0.0 and away2 < room * room:
                phi[row, column] = R - np.sqrt(away2)


@machine_code("void(f4[:,::1],f8[:,::1],f8)", **_OPTIONS)
def cut_along(phi, way, R):  # type: ignore[no-untyped-def]
    """Takes away what a disc covers along a way (n, 2)."""
    for k in range(way.shape[0] - 1):
        cut(phi, way[k, 0], way[k, 1], way[k + 1, 0], way[k + 1, 1], R, k > 0)


@machine_code("f8(f4[:,::1],f8,f8,f8,f8,f8,f8[:,::1])", **_OPTIONS)
def taken(phi, x, y, ux, uy, R, rim):  # type: ignore[no-untyped-def]
    """What a step to a place in a heading takes off, as a stepover [cells]; rim (3, n): sine, cosine and share of its samples.

    Sines count from straight ahead to the left, so that (cosine, sine) turns with the heading.
    """
    total, before, first = 0.0, 0.0, True
    for k in range(rim.shape[1]):
        nx, ny = rim[1, k] * ux - rim[0, k] * uy, rim[1, k] * uy + rim[0, k] * ux
        value = at(phi, x + R * nx, y + R * ny) + TOUCH
        if not first:
            inside = 0.0
            if value < 0.0 and before < 0.0:
                inside = 1.0
            elif value < 0.0 or before < 0.0:
                low = min(value, before)
                inside = low / (low - max(value, before))
            total += inside * rim[2, k]
        before, first = value, False
    return R * total


@machine_code("b1(f4[:,::1],f8,f8,f8,f8,f8)", **_OPTIONS)
def _may_go(psi, x, y, ux, uy, turning):  # type: ignore[no-untyped-def]
    """Whether the middle may stand at a place with a heading: a left arc of the turning radius must still miss the wall."""
    away = at(psi, x, y)
    if away < 0.0:
        return False
    gx = (at(psi, x + 1.0, y) - at(psi, x - 1.0, y)) / 2.0
    gy = (at(psi, x, y + 1.0) - at(psi, x, y - 1.0)) / 2.0
    towards = min(max(-(ux * gx + uy * gy), 0.0), 1.0)
    return away >= turning * (1.0 - np.sqrt(1.0 - towards * towards))


@machine_code("UniTuple(f8,2)(f8,f8,f8)", **_OPTIONS)
def turned(ux, uy, angle):  # type: ignore[no-untyped-def]
    """A heading turned to the left."""
    c, s = np.cos(angle), np.sin(angle)
    return c * ux - s * uy, s * ux + c * uy


@machine_code("i8(f4[:,::1],f4[:,::1],f4[:,::1],f8[::1],f8[:,::1],f8[:,::1],f8[::1])", **_OPTIONS)
def run_march(phi, psi, wide, how, rim, way, so_far):  # type: ignore[no-untyped-def]
    """Marches from way[0] and fills the way (n, 5) as it cuts; gives the number of its places.

    wide: half-width of the channel about each place; how: radius, target, step, least turning radius, way over which the
    target grows after contact, way without a cut after which it ends [cells], 1 with the material on the right, -1 on the
    left, and over the target what no step takes: the march ends before it; so_far: why it ended, then what a march that goes
    on from here has behind it: way since contact, idle way, and whether it has touched anything; noughts where it begins.
    """
    R, target, longest, tightest, growing, idle_most, sense = how[0], how[1], how[2], how[3], how[4], how[5], how[6]
    x, y, ux, uy = way[0, X], way[0, Y], way[0, UX], way[0, UY]
    since, idle, touched = so_far[SINCE], so_far[IDLE_WAY], so_far[TOUCHED] > 0.0
    count = 1
    so_far[WHY] = FULL
    while count < way.shape[0]:
        turning = max(min(tightest, 0.6 * at(wide, x, y)), 1.5)
        step = min(longest, 0.35 * turning)
        most = step / turning
        wanted = target * min(1.0, 0.15 + 0.85 * since / growing) if touched else 0.15 * target
        # the turn furthest to the right that the walls allow
        low = -most
        allowed = False
        for k in range(13):
            angle = -most + most * k / 4.0
            vx, vy = turned(ux, uy, sense * angle)
            if _may_go(psi, x + vx * step, y + vy * step, vx, vy, turning):
                low, allowed = angle, True
                if k > 0:
                    wrong = angle - most / 4.0
                    for _ in range(6):
                        middle = 0.5 * (wrong + low)
                        vx, vy = turned(ux, uy, sense * middle)
                        if _may_go(psi, x + vx * step, y + vy * step, vx, vy, turning):
                            low = middle
                        else:
                            wrong = middle
                break
        if not allowed:
            so_far[WHY] = BLOCKED
            break
        chosen = low
        vx, vy = turned(ux, uy, sense * low)
        found = taken(phi, x + vx * step, y + vy * step, vx, vy, R, rim)
        if found > wanted * (1.0 + _EXACT):
            high = max(most, low)
            vx, vy = turned(ux, uy, sense * high)
            # in a channel the wall opposite ends the turn
            for _ in range(8):
                if high <= low or at(psi, x + vx * step, y + vy * step) >= 0.0:
                    break
                high = low + 0.7 * (high - low) if high - low > 0.02 else low
                vx, vy = turned(ux, uy, sense * high)
            over = taken(phi, x + vx * step, y + vy * step, vx, vy, R, rim)
            if over >= wanted:
                chosen, found = high, over
                angle = high
                # rather a corner than an overload
                while found > _TOO_MUCH * wanted and angle < high + _SHARPEST:
                    angle += _SHARPER
                    vx, vy = turned(ux, uy, sense * angle)
                    if at(psi, x + vx * step, y + vy * step) < 0.0:
                        break
                    e = taken(phi, x + vx * step, y + vy * step, vx, vy, R, rim)
                    if e < found:
                        chosen, found = angle, e
            else:
                a, b, ea, eb = low, high, found - wanted, over - wanted
                for k in range(_LOOKS):
                    share = 0.5 if k % 3 == 2 else min(max(ea / (ea - eb), 0.05), 0.95)
                    middle = a + share * (b - a)
                    vx, vy = turned(ux, uy, sense * middle)
                    e = taken(phi, x + vx * step, y + vy * step, vx, vy, R, rim) - wanted
                    if e > 0.0:
                        a, ea = middle, e
                    else:
                        b, eb = middle, e
                    if abs(e) < _EXACT * target:
                        break
                chosen, found = (middle, e + wanted) if abs(e) < _EXACT * target else (b, eb + wanted)
        if found > how[7] * target:
            so_far[WHY] = OVER
            break
        ux, uy = turned(ux, uy, sense * chosen)
        nx, ny = x + ux * step, y + uy * step
        cut(phi, x, y, nx, ny, R, count > 1)
        x, y = nx, ny
        way[count, X], way[count, Y], way[count, UX], way[count, UY], way[count, TAKEN] = x, y, ux, uy, found
        count += 1
        if found > NOTHING * target:
            touched, idle = True, 0.0
        else:
            idle += step
        if touched:
            since += step
        if idle > (idle_most if touched else 3.0 * idle_most + 2.0 * R):
            so_far[WHY] = IDLE
            break
    so_far[SINCE], so_far[IDLE_WAY], so_far[TOUCHED] = since, idle, 1.0 if touched else 0.0
    return count
