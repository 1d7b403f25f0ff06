"""Outlines from a drawing (DXF): lines, arcs, polylines, circles, ellipses and splines of each layer, joined end to end."""

from __future__ import annotations

import io
from collections import Counter, deque
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any

import numpy as np

from lesna.model.errors import InputError
from lesna.physics import Array

#: bytes of a drawing that is read
MOST_BYTES = 60_000_000
#: pieces of outlines that are taken
_MOST_PIECES = 200_000
#: curves become chords that lie so near to them [mm]
TOLERANCE = 0.005
#: ends nearer than this are one point, as drawn by hand and rounded when written [mm]
_JOINED = 0.02
#: coordinates beyond this are no part [mm]
_FAR = 1e5
#: heights of one outline that differ by more are no flat drawing [mm]
_LEVEL = 1e-3
#: points of all outlines, and points that make one curve
_MOST_POINTS, _MOST_OF_CURVE = 4_000_000, 50_000
#: blocks within blocks that are opened, and what blocks may put in
_NESTED, _MOST_PUT_IN = 8, 30_000
#: $INSUNITS: number -> (name, millimetres)
_UNITS = {1: ("inch", 25.4), 2: ("foot", 304.8), 3: ("mile", 1_609_344.0), 4: ("mm", 1.0), 5: ("cm", 10.0), 6: ("m", 1000.0),
          9: ("mil", 0.0254), 10: ("yard", 914.4), 13: ("um", 0.001), 14: ("dm", 100.0)}  # fmt: skip
_FLAT = ("LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SPLINE")


@dataclass(frozen=True)
class Gap:
    """Where an outline does not close.

    Attributes
    ----------
    layer : str
        Its layer.
    place : tuple of float
        One end (x, y) [mm].
    width : float
        Distance from there to the other end [mm].
    """

    layer: str
    place: tuple[float, float]
    width: float


@dataclass(frozen=True)
class Drawing:
    """What was read.

    Attributes
    ----------
    units : str
        Unit of its coordinates.
    stated : bool
        Whether the drawing states it; millimetres are assumed where not.
    outlines : dict of str to tuple of array (n, 2)
        Closed outlines of each layer, counter-clockwise [mm].
    gaps : tuple of Gap
        Outlines that do not close.
    left_out : dict of str to int
        Kinds of things that are no outline, and how many.
    """

    units: str
    stated: bool
    outlines: dict[str, tuple[Array, ...]]
    gaps: tuple[Gap, ...]
    left_out: dict[str, int]

    def of(self, layer: str) -> tuple[Array, ...]:
        """Closed outlines of a layer, whatever the case of its name is."""
        names = {name.casefold(): name for name in [*self.outlines, *(gap.layer for gap in self.gaps)]}
        found = names.get(layer.casefold())
        if found is None:
            listed = ", ".join(sorted(names.values())[:8]) or "none with outlines"
            raise InputError(f"the drawing has no outline on a layer {layer}; its layers are {listed}")
        gaps = [gap for gap in self.gaps if gap.layer == found]
        if gaps:
            widest = max(gaps, key=lambda gap: gap.width)
            x, y = widest.place
            raise InputError(
                f"layer {found}: the outline is open at x {x:.3f}, y {y:.3f}; its ends are {widest.width:.3f} mm apart"
            )
        return self.outlines[found]


def read_drawing(content: bytes) -> Drawing:
    """The outlines of a DXF file.

    Parameters
    ----------
    content : bytes
        The file.

    Returns
    -------
    Drawing
        Its outlines in millimetres.

    Raises
    ------
    InputError
        When it is no DXF file, holds nothing flat, or coordinates that no part has.
    """
    document = _document(content)
    unit = int(document.header.get("$INSUNITS", 0) or 0)
    name, factor = _UNITS.get(unit, ("mm", 1.0))
    left_out: Counter[str] = Counter()
    pieces: dict[str, list[Array]] = {}
    count, held = 0, 0
    for entity in _Opened(left_out).of(document.modelspace(), _NESTED):
        points = _points(entity, TOLERANCE / factor, factor, left_out)
        if points is None:
            continue
        count, held = count + 1, held + len(points)
        if count > _MOST_PIECES or held > _MOST_POINTS:
            raise InputError(
                f"the drawing holds more than {_MOST_PIECES:,} pieces or {_MOST_POINTS:,} points; save only the layers of this part"
            )
        pieces.setdefault(str(entity.dxf.layer), []).append(points[:, :2] * factor)
    if not pieces:
        told = ", ".join(f"{n} {kind.lower()}" for kind, n in left_out.most_common(4))
        raise InputError(
            f"the drawing holds no flat outline{f', only {told}' if told else ''}; draw the part in the plane"
        )
    outlines: dict[str, tuple[Array, ...]] = {}
    gaps: list[Gap] = []
    for layer, parts in pieces.items():
        closed, open_ones = _joined(parts)
        outlines[layer] = tuple(_turned_left(outline) for outline in closed)
        for first, last in open_ones:
            gaps.append(Gap(layer, (float(first[0]), float(first[1])), float(np.hypot(*(last - first)))))
    return Drawing(name, unit in _UNITS, outlines, tuple(gaps), dict(left_out))


def _document(content: bytes) -> Any:
    import ezdxf
    from ezdxf import recover

    if b"SECTION" not in content[:4096].upper():
        raise InputError("is no DXF drawing; it does not begin with a section")
    try:
        document, _ = recover.read(io.BytesIO(content))
    except (ezdxf.DXFError, OSError, ValueError, KeyError, TypeError, IndexError, AttributeError) as error:
        first = (str(error).splitlines() or [type(error).__name__])[0]
        raise InputError(f"is no DXF drawing that can be read: {first[:120]}") from None
    return document


class _Opened:
    """Flat things of a layout, blocks opened: blocks within blocks may ask for more than anybody waits for."""

    def __init__(self, left_out: Counter[str]) -> None:
        self.left_out, self.met = left_out, 0

    def of(self, layout: Any, deep: int) -> Iterator[Any]:
        """Those of a layout and of the blocks that it puts in."""
        for entity in layout:
            self.met += deep < _NESTED
            if self.met > _MOST_PUT_IN:
                raise InputError(
                    f"{_named(entity)}: blocks put in more than {_MOST_PUT_IN:,} pieces; save the part alone"
                )
            kind = entity.dxftype()
            if kind in _FLAT:
                yield entity
            elif kind == "INSERT" and deep > 0:
                yield from self.of(self._inside(entity), deep - 1)
            else:
                self.left_out[kind] += 1

    def _inside(self, insert: Any) -> list[Any]:
        """What a block puts in, once for each of its rows and columns; nothing where it cannot be opened, which is told."""
        if insert.mcount > _MOST_PUT_IN:
            raise InputError(f"{_named(insert)}: is put in {insert.mcount:,} times; up to {_MOST_PUT_IN:,} are read")
        try:
            return list(insert.multi_insert()) if insert.mcount > 1 else list(insert.virtual_entities())
        except Exception:  # the library lets errors of many kinds out of odd blocks
            self.left_out["INSERT that cannot be opened"] += 1
            return []


def _named(entity: Any) -> str:
    """An entity as a person finds it."""
    return f"{entity.dxftype()} {entity.dxf.get('handle') or ''} on layer {entity.dxf.get('layer', '0')}".replace(
        "  ", " "
    )


def _points(entity: Any, tolerance: float, factor: float, left_out: Counter[str]) -> Array | None:
    """Chords of one piece (n, 3), None where it is not flat or has no length."""
    from ezdxf import path

    if entity.dxftype() == "SPLINE":
        _check_curve(entity)
    try:
        curve = path.make_path(entity)
        frame = np.array([tuple(p) for p in curve.control_vertices()], dtype=float)
    except Exception:  # the library lets errors of many kinds out of odd entities
        left_out[f"{entity.dxftype()} that cannot be read"] += 1
        return None
    # before it is parted into chords: a circle as large as a planet has more than a memory
    if len(frame) and (not np.isfinite(frame).all() or np.abs(frame * factor).max() > _FAR):
        raise InputError(f"{_named(entity)}: has a coordinate beyond {_FAR:g} mm; move the part to its zero")
    points = np.array([tuple(p) for p in curve.flattening(tolerance)], dtype=float) if len(frame) else frame
    if len(points) < 2 or not np.ptp(points[:, :2], axis=0).any():
        left_out["piece without length"] += 1
        return None
    if np.ptp(points[:, 2]) > _LEVEL:
        left_out[f"3D {entity.dxftype()}"] += 1
        return None
    return points


def _check_curve(entity: Any) -> None:
    """Refuses a spline that no curve follows."""
    knots = np.array(entity.knots, dtype=float)
    points = np.array([tuple(p) for p in entity.control_points], dtype=float)
    if len(knots) and (not np.isfinite(knots).all() or (np.diff(knots) < 0).any()):
        raise InputError(f"{_named(entity)}: its knots fall or are no numbers; draw the curve again")
    if len(points) and not np.isfinite(points).all():
        raise InputError(f"{_named(entity)}: has a point that is no number; draw the curve again")
    if max(len(knots), len(points)) > _MOST_OF_CURVE:
        raise InputError(f"{_named(entity)}: has more than {_MOST_OF_CURVE:,} points; draw it as several curves")


def _joined(parts: Sequence[Array]) -> tuple[list[Array], list[tuple[Array, Array]]]:
    """Pieces joined at their ends: closed outlines, and the two ends of what stays open."""
    closed = [part[:-1] for part in parts if np.hypot(*(part[0] - part[-1])) <= _JOINED and len(part) > 3]
    loose = [part for part in parts if not (np.hypot(*(part[0] - part[-1])) <= _JOINED and len(part) > 3)]
    if not loose:
        return closed, []
    from scipy.spatial import cKDTree

    ends = np.array([end for part in loose for end in (part[0], part[-1])])
    tree, used = cKDTree(ends), np.zeros(len(loose), dtype=bool)
    open_ones = []
    for begin in range(len(loose)):
        if used[begin]:
            continue
        used[begin] = True
        chain = deque([loose[begin]])
        for forward in (True, False):
            while np.hypot(*(chain[0][0] - chain[-1][-1])) > _JOINED or len(chain) < 2:
                tip = chain[-1][-1] if forward else chain[0][0]
                near = [k for k in tree.query_ball_point(tip, _JOINED) if not used[k // 2]]
                if not near:
                    break
                k = min(near, key=lambda k: float(np.hypot(*(ends[k] - tip))))
                used[k // 2] = True
                piece = loose[k // 2] if (k % 2 == 0) == forward else loose[k // 2][::-1]
                chain.append(piece) if forward else chain.appendleft(piece)
        points = np.concatenate([chain[0], *(piece[1:] for piece in islice(chain, 1, None))])
        if len(points) > 3 and np.hypot(*(points[0] - points[-1])) <= _JOINED:
            closed.append(points[:-1])
        else:
            open_ones.append((points[0], points[-1]))
    return closed, open_ones


def _turned_left(outline: Array) -> Array:
    x, y = outline.T
    area = float(x @ np.roll(y, -1) - y @ np.roll(x, -1))
    return outline if area > 0 else np.asarray(outline[::-1])
