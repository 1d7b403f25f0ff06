"""How low a turned shape comes over triangles: the exact drop, by boxes of triangles under planes.

Over a plane, an edge or a box the height ``q.z - g(d)`` is concave for a convex shape g, so its tangent anywhere bounds it: that finds
the highest place without looking at most of the part. A shape is (rm, r, k, R): flat to rm, then an arc of r (k = 0) or a cone rising
by k, out to R. A part is the tuple that `surface_boxes` fills.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from lesna.physics.compiled.keeping import BORROWS, machine_code

_OPTIONS: Any = BORROWS
#: what does not come higher by so much need not be looked at [mm]
_FINER = 1e-6
#: bits of a triangle: its three edges may hold a tool, it has a face that may
_FACE = 8
_NOWHERE = -1e30
#: share of the radius beyond which the tangent of an arc is too steep to bound anything
_RIM = 0.97
_TURNS = 12

#: a part under a shape: triangles (n, 17: corners, plane over x and y, uphill x and y, slope, how much higher than its plane at the axis
#: the tip stands on it, how far uphill of the axis it touches), their bits, where the triangles of each box begin, those triangles,
#: boxes of three sizes one after the other (n, 8: plane, lowest and highest x and y, how much higher the tip stands), counts of boxes
#: along x and y for each and where each size begins (9), and x, y, side of a small box, rm, r, k, R (7)
UNDER = "f8[:,::1],i8[::1],i8[::1],i4[::1],f8[:,::1],i8[::1],f8[::1]"


@machine_code("f8(f8,f8,f8,f8)", inline="always", **_OPTIONS)
def underside(d, rm, r, k):  # type: ignore[no-untyped-def]
    """Height of the shape's underside over its tip at a distance from the axis."""
    if d <= rm:
        return 0.0
    w = d - rm
    if k > 0.0:
        secant = np.sqrt(1.0 + k * k)
        if w * secant > r * k:
            return r * (1.0 - 1.0 / secant) + (w - r * k / secant) * k
    return r - np.sqrt(max(r * r - w * w, 0.0))


@machine_code("f8(f8,f8,f8,f8)", inline="always", **_OPTIONS)
def rise(d, rm, r, k):  # type: ignore[no-untyped-def]
    """Slope of the underside there."""
    if d <= rm:
        return 0.0
    w = d - rm
    if k > 0.0 and w * np.sqrt(1.0 + k * k) > r * k:
        return k
    return w / np.sqrt(max(r * r - w * w, 1e-24))


@machine_code("f8(f8,f8,f8,f8,f8)", **_OPTIONS)
def on_torus(m, e, rm, r, half):  # type: ignore[no-untyped-def]
    """Way from the foot at which a rounded shape rests on a line of slope m, e beside the axis."""
    low, high = max((e - rm) / r, 0.0), 1.0
    sl = np.sqrt(max((rm + r * low) ** 2 - e * e, 0.0))
    sh = half
    fl = low * sl - m * (rm + r * low) * np.sqrt(max(1.0 - low * low, 0.0))
    fh = sh
    s = sl
    side = 0
    for _ in range(_TURNS):
        if high - low < 1e-13 or fh <= 0.0 or fl >= 0.0:
            break
        w = (low * fh - high * fl) / (fh - fl)
        d = rm + r * w
        s = np.sqrt(max(d * d - e * e, 0.0))
        f = w * s - m * d * np.sqrt(max(1.0 - w * w, 0.0))
        if abs(f) < 1e-13:
            break
        if f < 0.0:
            low, fl = w, f
            if side == -1:
                fh *= 0.5
            side = -1
        else:
            high, fh = w, f
            if side == 1:
                fl *= 0.5
            side = 1
    return s


@machine_code("Tuple((f8,f8))(f8,f8,f8,f8,f8,f8,f8,f8,f8[::1],f8)", **_OPTIONS)
def over_edge(x, y, ax, ay, az, bx, by, bz, frame, best):  # type: ignore[no-untyped-def]
    """Height of the tip over an edge, and where along it the shape touches [-]; far below where it does not come higher than best."""
    rm, r, k, R = frame[3], frame[4], frame[5], frame[6]
    dx, dy, dz = bx - ax, by - ay, bz - az
    l2 = dx * dx + dy * dy
    if l2 < 1e-18:
        share = 1.0 if dz > 0.0 else 0.0
        d = np.hypot(ax - x, ay - y)
        if d > R:
            return _NOWHERE, 0.0
        return max(az, bz) - underside(d, rm, r, k), share
    length = np.sqrt(l2)
    foot = ((x - ax) * dx + (y - ay) * dy) / length
    e = abs((x - ax) * dy - (y - ay) * dx) / length
    if e >= R:
        return _NOWHERE, 0.0
    half = np.sqrt(R * R - e * e)
    low, high = max(-foot, -half), min(length - foot, half)
    if low > high:
        return _NOWHERE, 0.0
    m = dz / length
    z0 = az + m * foot
    up = abs(m)
    # how far the arc goes before a cone takes over, and the rim of the flat
    end = rm + (r * k / np.sqrt(1.0 + k * k) if k > 0.0 else r)
    if up < 1e-12:
        s = 0.0
    elif e < end and r > 0.0 and rm <= 0.0:
        s = up * np.sqrt(r * r - e * e) / np.sqrt(1.0 + up * up)
    elif e < end and r > 0.0:
        # the tangent at the middle of what lies under the shape bounds it all
        middle = 0.5 * (low + high)
        d = np.sqrt(e * e + middle * middle)
        if d < _RIM * R and d > 1e-9:
            grade = m - rise(d, rm, r, k) * middle / d
            if z0 + m * middle - underside(d, rm, r, k) + abs(grade) * 0.5 * (high - low) <= best:
                return _NOWHERE, 0.0
        s = on_torus(up, e, rm, r, np.sqrt((rm + r) * (rm + r) - e * e))
    else:
        s = np.sqrt(max(end * end - e * e, 0.0))
    if k > 0.0 and up >= 1e-12:
        rim = np.sqrt(max(end * end - e * e, 0.0))
        # past the arc, or past the rim of a flat that slopes less than the line: along the cone
        if e >= end or s > rim or (r <= 0.0 and up * rm > k * rim):
            s = max(rim, e * up / np.sqrt(k * k - up * up)) if up < k else half
    s = min(max(s if m > 0.0 else -s, low), high)
    d = min(np.sqrt(e * e + s * s), R)
    return z0 + m * s - underside(d, rm, r, k), (foot + s) / length


@machine_code("Tuple((f8,i8))(f8[:,::1],i8,f8[::1],i8,f8,f8,f8)", inline="always", **_OPTIONS)
def over_triangle(tri, bits, frame, t, x, y, best):  # type: ignore[no-untyped-def]
    """Height of the tip over one triangle and what of it is touched (0 the face, 1 to 3 an edge); far below where not above best."""
    z = tri[t, 9] * x + tri[t, 10] * y + tri[t, 11] + tri[t, 15]
    if z <= best + _FINER:
        return _NOWHERE, -1
    ax, ay, bx, by, cx, cy = tri[t, 0], tri[t, 1], tri[t, 3], tri[t, 4], tri[t, 6], tri[t, 7]
    s0 = s1 = s2 = -1.0
    if bits & _FACE:
        px, py = x + tri[t, 12] * tri[t, 16], y + tri[t, 13] * tri[t, 16]
        s0 = (bx - ax) * (py - ay) - (by - ay) * (px - ax)
        s1 = (cx - bx) * (py - by) - (cy - by) * (px - bx)
        s2 = (ax - cx) * (py - cy) - (ay - cy) * (px - cx)
        if s0 >= 0.0 and s1 >= 0.0 and s2 >= 0.0:
            return z, 0
    top, what = _NOWHERE, -1
    if s0 < 0.0 and bits & 1:
        top, _ = over_edge(x, y, ax, ay, tri[t, 2], bx, by, tri[t, 5], frame, best)
        what = 1
    if s1 < 0.0 and bits & 2:
        z, _ = over_edge(x, y, bx, by, tri[t, 5], cx, cy, tri[t, 8], frame, max(best, top))
        if z > top:
            top, what = z, 2
    if s2 < 0.0 and bits & 4:
        z, _ = over_edge(x, y, cx, cy, tri[t, 8], ax, ay, tri[t, 2], frame, max(best, top))
        if z > top:
            top, what = z, 3
    return (top, what) if top > best else (_NOWHERE, -1)


@machine_code("f8(f8[:,::1],i8,f8,f8,f8[::1])", inline="always", **_OPTIONS)
def most_over_box(boxes, i, x, y, frame):  # type: ignore[no-untyped-def]
    """What the tip cannot stand higher than over a box."""
    rm, r, k, R = frame[3], frame[4], frame[5], frame[6]
    x0, y0, x1, y1 = boxes[i, 3], boxes[i, 4], boxes[i, 5], boxes[i, 6]
    nx, ny = min(max(x, x0), x1) - x, min(max(y, y0), y1) - y
    near = np.sqrt(nx * nx + ny * ny)
    if near >= R:
        return _NOWHERE
    px, py = 0.5 * (x0 + x1) - x, 0.5 * (y0 + y1) - y
    d = np.sqrt(px * px + py * py)
    if d > _RIM * R:
        px, py, d = nx, ny, near
    grade = rise(d, rm, r, k) / d if d > 1e-12 else 0.0
    gx, gy = boxes[i, 0] - grade * px, boxes[i, 1] - grade * py
    px, py = px + x, py + y
    value = boxes[i, 0] * px + boxes[i, 1] * py + boxes[i, 2] - underside(d, rm, r, k)
    return value + max(gx * (x0 - px), gx * (x1 - px)) + max(gy * (y0 - py), gy * (y1 - py))


@machine_code("b1(f8[:,::1],i8,f8,f8,f8[::1],f8)", inline="always", **_OPTIONS)
def may_hold(boxes, i, x, y, frame, best):  # type: ignore[no-untyped-def]
    """Whether something in a box may hold the shape higher than best."""
    if boxes[i, 0] * x + boxes[i, 1] * y + boxes[i, 2] + boxes[i, 7] <= best + _FINER:
        return False
    return most_over_box(boxes, i, x, y, frame) > best + _FINER


@machine_code(f"Tuple((f8,i8,i8))({UNDER},f8,f8,f8,i8)", **_OPTIONS)
def drop(tri, bits, start, items, boxes, dims, frame, x, y, floor, near):  # type: ignore[no-untyped-def]
    """Lowest tip at a place that is not under the floor, the triangle that holds it (-1: none) and what of it is touched."""
    b, R = frame[2], frame[6]
    best, at, what = floor, -1, 0
    if near >= 0:
        z, k = over_triangle(tri, bits[near], frame, near, x, y, best)
        if z > best:
            best, at, what = z, near, k
    # what lies under the axis, then where the plane that holds it so far says that it is touched
    i, j, last = int((x - frame[0]) / b), int((y - frame[1]) / b), -1
    if at < 0 and i >= 0 and j >= 0 and i < dims[0] and j < dims[1]:
        for n in range(start[j * dims[0] + i], start[j * dims[0] + i + 1]):
            z, k = over_triangle(tri, bits[items[n]], frame, items[n], x, y, best)
            if z > best:
                best, at, what = z, items[n], k
    for _ in range(3):
        if at < 0 or not bits[at] & _FACE:
            break
        a = tri[at, 16]
        i, j = int((x + tri[at, 12] * a - frame[0]) / b), int((y + tri[at, 13] * a - frame[1]) / b)
        if i < 0 or j < 0 or i >= dims[0] or j >= dims[1] or j * dims[0] + i == last:
            break
        last, before = j * dims[0] + i, at
        for n in range(start[last], start[last + 1]):
            z, k = over_triangle(tri, bits[items[n]], frame, items[n], x, y, best)
            if z > best:
                best, at, what = z, items[n], k
        if at == before:
            break
    left, right = max(int((x - R - frame[0]) / b), 0), min(int((x + R - frame[0]) / b), dims[0] - 1)
    down, up = max(int((y - R - frame[1]) / b), 0), min(int((y + R - frame[1]) / b), dims[1] - 1)
    if x + R < frame[0] or y + R < frame[1]:
        return best, at, what
    for row in range(down >> 4, (up >> 4) + 1):
        for column in range(left >> 4, (right >> 4) + 1):
            if not may_hold(boxes, dims[8] + row * dims[4] + column, x, y, frame, best):
                continue
            for jj in range(max(row << 2, down >> 2), min((row << 2) + 3, up >> 2) + 1):
                for ii in range(max(column << 2, left >> 2), min((column << 2) + 3, right >> 2) + 1):
                    if not may_hold(boxes, dims[7] + jj * dims[2] + ii, x, y, frame, best):
                        continue
                    for j in range(max(jj << 2, down), min((jj << 2) + 3, up) + 1):
                        for i in range(max(ii << 2, left), min((ii << 2) + 3, right) + 1):
                            box = j * dims[0] + i
                            if not may_hold(boxes, box, x, y, frame, best):
                                continue
                            for n in range(start[box], start[box + 1]):
                                z, k = over_triangle(tri, bits[items[n]], frame, items[n], x, y, best)
                                if z > best:
                                    best, at, what = z, items[n], k
    return best, at, what


@machine_code("Tuple((f8,f8,f8))(f8[:,::1],f8[::1],i8,i8,f8,f8)", **_OPTIONS)
def touched(tri, frame, t, what, x, y):  # type: ignore[no-untyped-def]
    """Where the shape touches the triangle that holds it."""
    if what == 0:
        px, py = x + tri[t, 12] * tri[t, 16], y + tri[t, 13] * tri[t, 16]
        return px, py, tri[t, 9] * px + tri[t, 10] * py + tri[t, 11]
    i, j = 3 * (what - 1), 3 * (what % 3)
    _, share = over_edge(
        x, y, tri[t, i], tri[t, i + 1], tri[t, i + 2], tri[t, j], tri[t, j + 1], tri[t, j + 2], frame, _NOWHERE
    )
    return (
        tri[t, i] + share * (tri[t, j] - tri[t, i]),
        tri[t, i + 1] + share * (tri[t, j + 1] - tri[t, i + 1]),
        tri[t, i + 2] + share * (tri[t, j + 2] - tri[t, i + 2]),
    )


@machine_code(f"void({UNDER},f8[:,::1],f8[::1],i8[::1],f8[:,::1])", **_OPTIONS)
def run_surface_drops(tri, bits, start, items, boxes, dims, frame, places, z, held, contact):  # type: ignore[no-untyped-def]
    """Tips over places (n, 2): z (n) is the floor before and the height after, held (n) the triangle or -1, contact (n, 3) [mm]."""
    near = -1
    for n in range(places.shape[0]):
        x, y = places[n, 0], places[n, 1]
        z[n], t, what = drop(tri, bits, start, items, boxes, dims, frame, x, y, z[n], near)
        held[n] = t
        if t >= 0:
            near = t
            contact[n, 0], contact[n, 1], contact[n, 2] = touched(tri, frame, t, what, x, y)


@machine_code(f"Tuple((f8,i8))({UNDER},f8[:,::1],f8,f8)", **_OPTIONS)
def run_surface_reach(tri, bits, start, items, boxes, dims, frame, places, base, most):  # type: ignore[no-untyped-def]
    """How far over their tips (n, 3) a piece that begins base over them has to stand higher, and where; `most` is known already [mm].

    Places are looked at in an order in which great answers come early; a piece is then only asked whether it asks for more.
    """
    count, at, near = places.shape[0], -1, -1
    stride = 1
    while stride * 2 < count:
        stride *= 2
    done = 0
    while stride >= 1:
        n = 0
        while n < count:
            if done == 0 or n % done != 0:
                z, t, _ = drop(
                    tri,
                    bits,
                    start,
                    items,
                    boxes,
                    dims,
                    frame,
                    places[n, 0],
                    places[n, 1],
                    places[n, 2] + most + base,
                    near,
                )
                if t >= 0:
                    most, at, near = z - places[n, 2] - base, n, t
            n += stride
        done = stride
        stride //= 2
    return most, at
