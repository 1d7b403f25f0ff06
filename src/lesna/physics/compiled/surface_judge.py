"""What a written path does to a part: how deep it cuts in, and what it leaves along the normal.

The tool is an upright cylinder of radius rm, endless upwards, grown by r: its signed distance is exact and convex, so over a straight
move the distance of a point has one lowest value. Nothing here is shared with what makes paths.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import machine_code

_OPTIONS: Any = {"nogil": True, "error_model": "numpy", "boundscheck": False}
#: a ray ends where the swept surface is so near; it begins so far below the part, or where that is cut away so far [mm]
_TOUCHED, _BELOW, _BESIDE = 0.0002, 0.1, 0.003
#: more than the lowest distance on a move is missed by [mm]
_SURE = 0.001
_GOLDEN = 0.6180339887498949
#: stretch of a move to which its lowest distance is followed [mm]
_FOUND = 0.00002
_MOVES = "f8[:,::1],i8[::1],i4[::1],f8[::1],i8[::1],f8[::1]"


@machine_code("f8(f8,f8,f8,f8[::1])", **_OPTIONS)
def from_tool(dx, dy, dz, tool):  # type: ignore[no-untyped-def]
    """Signed distance of a place from the tool (rm, r, slant, R), from the tip to it.

    A taper is the cone with its apex in the middle of the ball, grown by that, and no wider than its shank.
    """
    rm, r = tool[0], tool[1]
    d = np.sqrt(dx * dx + dy * dy)
    h, v = d - rm, r - dz
    if tool[2] > 0.0:
        sine, cosine = np.sin(tool[2]), np.cos(tool[2])
        if h * sine - v * cosine <= 0.0:
            return np.sqrt(h * h + v * v) - r
        return max(h * cosine + v * sine - r, d - tool[3])
    outside = np.sqrt(max(h, 0.0) ** 2 + max(v, 0.0) ** 2)
    return outside + min(max(h, v), 0.0) - r


@machine_code("f8(f8,f8,f8,f8,f8,f8,f8,f8[::1],f8)", **_OPTIONS)
def from_tapered(ax, ay, az, vx, vy, vz, size, tool, best):  # type: ignore[no-untyped-def]
    """The same of a tool with a taper, from its place at the beginning, by the golden section."""
    if from_tool(ax - 0.5 * vx, ay - 0.5 * vy, az - 0.5 * vz, tool) - 0.5 * size >= best:
        return best
    low, high = 0.0, 1.0
    a, b = high - _GOLDEN, low + _GOLDEN
    fa = from_tool(ax - a * vx, ay - a * vy, az - a * vz, tool)
    fb = from_tool(ax - b * vx, ay - b * vy, az - b * vz, tool)
    while (high - low) * size > 1e-4:
        if fa < fb:
            high, b, fb = b, a, fa
            a = high - _GOLDEN * (high - low)
            fa = from_tool(ax - a * vx, ay - a * vy, az - a * vz, tool)
        else:
            low, a, fa = a, b, fb
            b = low + _GOLDEN * (high - low)
            fb = from_tool(ax - b * vx, ay - b * vy, az - b * vz, tool)
        if min(fa, fb) - (high - low) * size >= best:
            return best
    return min(best, min(fa, fb))


@machine_code("Tuple((f8,f8))(f8,f8,f8,f8,f8,f8,f8[::1])", **_OPTIONS)
def from_straight(dx, dy, dz, vx, vy, vz, tool):  # type: ignore[no-untyped-def]
    """Signed distance of a place from a tool without taper, and by how much it grows as the tool goes on by v, at the rate here."""
    d = np.sqrt(dx * dx + dy * dy)
    h, v = d - tool[0], tool[1] - dz
    outward = -(dx * vx + dy * vy) / d if d > 1e-12 else 0.0
    if h > 0.0 and v > 0.0:
        size = np.sqrt(h * h + v * v)
        return size - tool[1], (h * outward + v * vz) / size
    return (h - tool[1], outward) if h > v else (v - tool[1], vz)


@machine_code("f8(f8[:,::1],i8,f8,f8,f8,f8[::1],f8)", **_OPTIONS)
def from_move(moves, m, x, y, z, tool, best):  # type: ignore[no-untyped-def]
    """Signed distance of a place from what the tool sweeps on a move; `best` where it is not nearer than that.

    The distance is convex over the move, so its tangent at any place on it lies under it everywhere.
    """
    ax, ay, az = x - moves[m, 0], y - moves[m, 1], z - moves[m, 2]
    vx, vy, vz = moves[m, 3] - moves[m, 0], moves[m, 4] - moves[m, 1], moves[m, 5] - moves[m, 2]
    size = np.sqrt(vx * vx + vy * vy + vz * vz)
    if tool[2] > 0.0:
        return from_tapered(ax, ay, az, vx, vy, vz, size, tool, best)
    d, grows = from_straight(ax - 0.5 * vx, ay - 0.5 * vy, az - 0.5 * vz, vx, vy, vz, tool)
    if d - 0.5 * abs(grows) >= best:
        return best
    best = min(best, d)
    r = tool[1]
    if tool[0] == 0.0 and size > 1e-9:
        # nearest in space, nearest seen from above, and where the middle of the ball passes the height
        across = vx * vx + vy * vy
        t = min(max((ax * vx + ay * vy + (az - r) * vz) / (size * size), 0.0), 1.0)
        best = min(best, from_tool(ax - t * vx, ay - t * vy, az - t * vz, tool))
        if across > 1e-18:
            t = min(max((ax * vx + ay * vy) / across, 0.0), 1.0)
            best = min(best, from_tool(ax - t * vx, ay - t * vy, az - t * vz, tool))
        if abs(vz) > 1e-12:
            t = min(max((az - r) / vz, 0.0), 1.0)
            best = min(best, from_tool(ax - t * vx, ay - t * vy, az - t * vz, tool))
        return best
    low, high, t = 0.0, 1.0, 0.5
    while True:
        # it goes down towards the end to which the tangent falls, and no further than this
        if grows > 0.0:
            high = t
        else:
            low = t
        if (high - low) * size <= _FOUND or d - abs(grows) * (high - low) >= best:
            return best
        t = 0.5 * (low + high)
        d, grows = from_straight(ax - t * vx, ay - t * vy, az - t * vz, vx, vy, vz, tool)
        best = min(best, d)


@machine_code("UniTuple(i8,4)(f8,f8,f8,i8[::1],f8[::1])", **_OPTIONS)
def squares_about(x, y, reach, dims, frame):  # type: ignore[no-untyped-def]
    """First and last column, first and last row of the squares within reach of a place."""
    b = frame[2]
    return (
        max(int(np.floor((x - reach - frame[0]) / b)), 0), min(int((x + reach - frame[0]) / b), dims[0] - 1),
        max(int(np.floor((y - reach - frame[1]) / b)), 0), min(int((y + reach - frame[1]) / b), dims[1] - 1),
    )  # fmt: skip


@machine_code("UniTuple(f8,2)(f8,f8,i8,i8,f8[::1])", **_OPTIONS)
def to_square(x, y, i, j, frame):  # type: ignore[no-untyped-def]
    """How far a square is from a place, across each axis."""
    b = frame[2]
    x0, y0 = frame[0] + i * b, frame[1] + j * b
    return min(max(x, x0), x0 + b) - x, min(max(y, y0), y0 + b) - y


@machine_code(f"Tuple((f8,i8))({_MOVES},f8,f8,f8,f8[::1],f8,i8)", **_OPTIONS)
def from_swept(moves, start, items, lowest, dims, frame, x, y, z, tool, best, near):  # type: ignore[no-untyped-def]
    """Signed distance of a place from all that is swept, as far as it is less than best, and the move that is nearest.

    `near` is a move that was nearest to a place beside it, -1: none is known.
    """
    if near >= 0:
        best = from_move(moves, near, x, y, z, tool, best)
    b = frame[2]
    left, right, down, up = squares_about(x, y, tool[3] + max(best, 0.0), dims, frame)
    # what lies under the place first: it is nearest as a rule
    ci, cj = min(max(int((x - frame[0]) / b), left), right), min(max(int((y - frame[1]) / b), down), up)
    for turn in range(2):
        for j in range(down, up + 1):
            for i in range(left, right + 1):
                is_middle = abs(i - ci) <= 1 and abs(j - cj) <= 1
                if is_middle != (turn == 0):
                    continue
                box = j * dims[0] + i
                if start[box] == start[box + 1]:
                    continue
                dx, dy = to_square(x, y, i, j, frame)
                if from_tool(dx, dy, z - lowest[box], tool) >= best:
                    continue
                for n in range(start[box], start[box + 1]):
                    d = from_move(moves, items[n], x, y, z, tool, best)
                    if d < best:
                        best, near = d, items[n]
    return best, near


@machine_code("Tuple((i8[::1],i4[::1],f8[::1]))(f8[:,::1],i8[::1],f8[::1])", **_OPTIONS)
def run_judge_squares(moves, dims, frame):  # type: ignore[no-untyped-def]
    """Where the moves (n, 6: from, to) of each square begin, those moves, and the lowest tip in it; `frame` is x, y and side [mm]."""
    b = frame[2]
    count = dims[0] * dims[1]
    start, lowest = np.zeros(count + 1, np.int64), np.full(count, 1e30)
    items = np.empty(0, np.int32)
    filled = np.empty(0, np.int64)
    for turn in range(2):
        if turn == 1:
            for k in range(count):
                start[k + 1] += start[k]
            items, filled = np.empty(start[count], np.int32), start[:-1].copy()
        for m in range(moves.shape[0]):
            ax, ay, az, bx, by, bz = moves[m, 0], moves[m, 1], moves[m, 2], moves[m, 3], moves[m, 4], moves[m, 5]
            if ax > bx:
                ax, ay, az, bx, by, bz = bx, by, bz, ax, ay, az
            first, last = int(np.floor((ax - frame[0]) / b)), int(np.floor((bx - frame[0]) / b))
            for i in range(max(first, 0), min(last, dims[0] - 1) + 1):
                # the part of the move in this column
                s = 0.0 if bx - ax < 1e-12 else min(max((frame[0] + i * b - ax) / (bx - ax), 0.0), 1.0)
                e = 1.0 if bx - ax < 1e-12 else min(max((frame[0] + (i + 1) * b - ax) / (bx - ax), 0.0), 1.0)
                ys, ye = ay + s * (by - ay), ay + e * (by - ay)
                low = min(az + s * (bz - az), az + e * (bz - az))
                for j in range(
                    max(int(np.floor((min(ys, ye) - frame[1]) / b - 1e-9)), 0),
                    min(int(np.floor((max(ys, ye) - frame[1]) / b + 1e-9)), dims[1] - 1) + 1,
                ):
                    box = j * dims[0] + i
                    if turn == 0:
                        start[box + 1] += 1
                        lowest[box] = min(lowest[box], low)
                    else:
                        items[filled[box]] = m
                        filled[box] += 1
    return start, items, lowest


@machine_code("Tuple((f8,f8,f8,f8))(f8[:,::1],i8,i8)", **_OPTIONS)
def ball_round(points, first, last):  # type: ignore[no-untyped-def]
    """Middle and radius of a ball that holds some of the points."""
    middle = np.empty(3)
    for a in range(3):
        low, high = points[first, a], points[first, a]
        for n in range(first + 1, last):
            low, high = min(low, points[n, a]), max(high, points[n, a])
        middle[a] = 0.5 * (low + high)
    far = 0.0
    for n in range(first, last):
        dx, dy, dz = points[n, 0] - middle[0], points[n, 1] - middle[1], points[n, 2] - middle[2]
        far = max(far, dx * dx + dy * dy + dz * dz)
    return middle[0], middle[1], middle[2], np.sqrt(far)


@machine_code(f"Tuple((i4[::1],i8))({_MOVES},f8,f8,f8,f8,f8[::1],i4[::1],i4,i4[::1])", **_OPTIONS)
def moves_within(moves, start, items, lowest, dims, frame, x, y, z, far, tool, seen, number, room):  # type: ignore[no-untyped-def] # fmt: skip
    """Moves on which the tool comes nearer to a place than `far`, and how many; `seen` marks those looked at with a number."""
    count = 0
    left, right, down, up = squares_about(x, y, tool[3] + far, dims, frame)
    for j in range(down, up + 1):
        for i in range(left, right + 1):
            box = j * dims[0] + i
            if start[box] == start[box + 1]:
                continue
            dx, dy = to_square(x, y, i, j, frame)
            if from_tool(dx, dy, z - lowest[box], tool) >= far:
                continue
            for n in range(start[box], start[box + 1]):
                m = items[n]
                if seen[m] == number:
                    continue
                seen[m] = number
                if from_move(moves, m, x, y, z, tool, far) < far:
                    if count == room.shape[0]:
                        more = np.empty(2 * count, np.int32)
                        more[:count] = room
                        room = more
                    room[count] = m
                    count += 1
    return room, count


@machine_code(f"void({_MOVES},f8[:,::1],i8[::1],i8[::1],f8[::1],f8[::1])", **_OPTIONS)
def run_judge_depths(moves, start, items, lowest, dims, frame, points, fine, coarse, tool, depth):  # type: ignore[no-untyped-def]
    """How deep the tool cuts into the part at points (n, 3): 0 where it does not [mm].

    Points of one small cell follow each other, and small cells of one large cell: fine (k,) are the first points of the small ones,
    coarse (m + 1,) the first small ones of the large ones that are judged, each with the end of the last. As no distance grows faster
    than one goes, a move that stays off the middle of a cell by its radius touches no point of it.
    """
    seen = np.full(moves.shape[0], -1, np.int32)
    near, nearer = np.empty(256, np.int32), np.empty(256, np.int32)
    for c in range(coarse.shape[0] - 1):
        x, y, z, far = ball_round(points, fine[coarse[c]], fine[coarse[c + 1]])
        near, count = moves_within(
            moves, start, items, lowest, dims, frame, x, y, z, far + _SURE, tool, seen, np.int32(c), near
        )
        if nearer.shape[0] < count:
            nearer = np.empty(near.shape[0], np.int32)
        for f in range(coarse[c], coarse[c + 1]):
            x, y, z, far = ball_round(points, fine[f], fine[f + 1])
            far += _SURE
            kept = 0
            for k in range(count):
                if from_move(moves, near[k], x, y, z, tool, far) < far:
                    nearer[kept] = near[k]
                    kept += 1
            for n in range(fine[f], fine[f + 1]):
                d = 0.0
                for k in range(kept):
                    d = from_move(moves, nearer[k], points[n, 0], points[n, 1], points[n, 2], tool, d)
                depth[n] = -d


@machine_code(f"void({_MOVES},f8[:,::1],f8[:,::1],f8[::1],f8,f8[::1])", **_OPTIONS)
def run_judge_left(moves, start, items, lowest, dims, frame, points, normals, tool, most, left):  # type: ignore[no-untyped-def]
    """What is left over points (n, 3) along their normals, negative where it is cut in; `most` where it is more [mm].

    A ray steps on by its distance from what is swept, so it never passes the surface.
    """
    for n in range(points.shape[0]):
        x, y, z = points[n, 0], points[n, 1], points[n, 2]
        nx, ny, nz = normals[n, 0], normals[n, 1], normals[n, 2]
        tau, near = -_BELOW, -1
        d, near = from_swept(
            moves, start, items, lowest, dims, frame, x + tau * nx, y + tau * ny, z + tau * nz, tool, most, near
        )
        if d < _TOUCHED:
            # beside a sharp edge the ray would begin on a finished wall
            tau = -_BESIDE
            d, near = from_swept(
                moves, start, items, lowest, dims, frame, x + tau * nx, y + tau * ny, z + tau * nz, tool, most, near
            )
        steps = 0
        while d >= _TOUCHED and tau < most and steps < 2000:
            tau += d
            d, near = from_swept(
                moves, start, items, lowest, dims, frame, x + tau * nx, y + tau * ny, z + tau * nz, tool, most, near
            )
            steps += 1
        left[n] = min(tau + max(d, 0.0), most) if tau < most else most


@machine_code("b1(f8[:,::1],i8[::1],i4[::1],f8[::1],i8[::1],f8[::1],f8,f8,f8,f8[::1],f8)", **_OPTIONS)
def sinks(cloud, start, items, highest, dims, frame, x, y, z, tool, deep):  # type: ignore[no-untyped-def]
    """Whether a tool with its tip at a place sinks into a cloud of points, given as squares with their highest."""
    left, right, down, up = squares_about(x, y, tool[3], dims, frame)
    for j in range(down, up + 1):
        for i in range(left, right + 1):
            box = j * dims[0] + i
            dx, dy = to_square(x, y, i, j, frame)
            if from_tool(dx, dy, highest[box] - z, tool) >= -deep:
                continue
            for n in range(start[box], start[box + 1]):
                q = items[n]
                if from_tool(cloud[q, 0] - x, cloud[q, 1] - y, cloud[q, 2] - z, tool) < -deep:
                    return True
    return False


@machine_code(
    "void(f8[:,::1],i8[::1],i4[::1],f8[::1],i8[::1],f8[::1],f8[:,::1],f8[:,::1],f8[::1],f8,f8[:,::1],i8[::1])",
    **_OPTIONS,
)
def run_judge_reach(cloud, start, items, highest, dims, frame, points, normals, tool, deep, axes, found):  # type: ignore[no-untyped-def]
    """Whether a tool can stand on points (n, 3): found is 1 where it can, and its axis (n, 2) there [mm].

    On what is level a flat has many places to stand: its middle and eight round it are tried.
    """
    rm, r = tool[0], tool[1]
    for n in range(points.shape[0]):
        level = np.hypot(normals[n, 0], normals[n, 1])
        ux, uy = (normals[n, 0] / level, normals[n, 1] / level) if level > 1e-9 else (0.0, 0.0)
        looks = 9 if rm > 0.0 and level < 0.01 else 1
        found[n] = 0
        for k in range(looks):
            if looks == 1:
                hx, hy = rm * ux, rm * uy
            else:
                far = 0.0 if k == 0 else 0.98 * rm
                hx, hy = far * np.cos(0.7853981633974483 * k), far * np.sin(0.7853981633974483 * k)
            x = points[n, 0] + r * normals[n, 0] + hx
            y = points[n, 1] + r * normals[n, 1] + hy
            z = points[n, 2] + r * normals[n, 2] - r
            if k == 0:
                axes[n, 0], axes[n, 1] = x, y
            if not sinks(cloud, start, items, highest, dims, frame, x, y, z, tool, deep):
                axes[n, 0], axes[n, 1] = x, y
                found[n] = 1
                break
