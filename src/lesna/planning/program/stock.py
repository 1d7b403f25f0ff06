"""The stock a program begins with: a block, an outline pulled up or a surface, as it is typed or as the job's feature has it."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from lesna.geometry.drawing import MOST_BYTES as MOST_OF_DRAWING
from lesna.geometry.drawing import read_drawing
from lesna.geometry.solid import MOST_BYTES as MOST_OF_SOLID
from lesna.geometry.solid import open_at, read_stl
from lesna.model import units
from lesna.model.errors import FileProblem, InputError
from lesna.model.files import read_bytes
from lesna.model.job import Feature
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.nc.program import Moves
from lesna.physics import Array
from lesna.stock.brick_mesh import bricks_of_surface
from lesna.stock.bricks import Bricks, Distance, bricks_of, of_block, of_outline, of_prism
from lesna.stock.field import HeightMap, block, extruded
from lesna.stock.surface import surface_map

#: how the sides of a block are told
_NUMBER = units.DIMENSION
#: stock of another work offset
_OF_OFFSET = re.compile(r"[ \t]*G(5[4-9](?:\.\d+)?)[ \t]*=", re.IGNORECASE)
#: stock that an earlier cut leaves
AFTER = "after:"
#: stock that an outline makes as it turns round Z, and a place of one
_REVOLVED = "revolved:"
_PAIR = re.compile(r"[ \t]*[-+]?[\d.]+[ \t]*,[ \t]*[-+]?[\d.]+[ \t]*$")
#: what has letters is no place of an outline
_NAMED = re.compile(r"[A-Za-z]")
_TURNED_FORM = (
    "write revolved:R,Z;R,Z;... in mm from place to place, such as revolved:0,0;58,0;58,-40;0,-40, or name a DXF file and its layer as in "
    "revolved:blank.dxf:TURNED"
)
_FORM = (
    "write block:X0,Y0,Z0,X1,Y1,Z1 in mm, such as block:-60,-40,-24,60,40,0, or name an STL file, or a DXF file and its layer "
    "as in plate.dxf:STOCK; revolved:R,Z;R,Z;... turns an outline round Z, after:CUT is what a cut leaves"
)


@dataclass(frozen=True)
class Stock:
    """The stock a program begins with.

    Attributes
    ----------
    low, high : tuple of float
        Opposite corners of the block, or of what bounds the outline or surface (x, y, z) [mm].
    shape : shapely geometry or None
        What is pulled up, None for a block [mm].
    triangles : array (n, 3, 3) or None
        Surface, None where it is none [mm].
    left : HeightMap or Bricks or None
        What an earlier path has left; None where nothing went before.
    turned : array (n, 2) or None
        Half section that turns round Z, radius and height [mm]; None where it is no body of revolution.
    told : str
        Where it comes from.
    is_given : bool
        Whether somebody has stated its sides; those of a feature's block are only where the feature ends.
    remark : str
        What is worth telling of it; empty where nothing is.
    others : tuple of (float, Stock)
        What stands at other work offsets, by their G word.
    """

    low: tuple[float, float, float]
    high: tuple[float, float, float]
    shape: Any = None
    triangles: Array | None = field(default=None, compare=False, repr=False)
    left: HeightMap | Bricks | None = field(default=None, compare=False, repr=False)
    turned: Array | None = field(default=None, compare=False, repr=False)
    told: str = ""
    is_given: bool = True
    remark: str = ""
    others: tuple[tuple[float, Stock], ...] = ()

    @property
    def has_shape(self) -> bool:
        """Whether it may hold thin places of its own, which a block does not."""
        return any(held is not None for held in (self.left, self.shape, self.triangles, self.turned))

    def height_map(self, cell: float) -> HeightMap:
        """Cells of it, as large as those of an earlier path where one went before."""
        if isinstance(self.left, HeightMap):
            return self.left.copy()
        if self.turned is not None:
            return surface_map(_turned_round(self.turned), cell)
        if self.triangles is not None:
            return surface_map(self.triangles, cell)
        if self.shape is not None:
            return extruded(self.shape, self.high[2], self.low[2], cell)
        return block(self.low, self.high, cell)

    def bricks(self, cell: float, pulse: Pulse = STEADY) -> Bricks:
        """Bricks of it, with cells as large as those of an earlier path where one went before.

        Raises
        ------
        InputError
            When its surface is open, or somebody has left a height map that tells of one side alone.
        """
        if isinstance(self.left, Bricks):
            return self.left.copy()
        if self.left is not None:
            raise InputError(
                "what a path of three axes leaves is known from above alone; give the stock itself", "stock"
            )
        if self.triangles is not None:
            hole = open_at(self.triangles)
            if hole:
                x, y, z = hole
                raise InputError(
                    f"the surface is open at x {x:.3f}, y {y:.3f}, z {z:.3f}; five axes need a closed one", "stock"
                )
            return bricks_of_surface(self.triangles, self.low, self.high, cell)
        return bricks_of(self.low, self.high, cell, self._distance(), pulse)

    def _distance(self) -> Distance:
        if self.turned is not None:
            return of_outline(self.turned)
        if self.shape is not None:
            rings = [self.shape.exterior, *self.shape.interiors]
            return of_prism([np.array(ring.coords)[:-1] for ring in rings], self.low[2], self.high[2])
        return of_block(self.low, self.high)


def stock_for(text: str, parts: CutParts, folder: Path | None) -> Stock | None:
    """The stock that somebody names; the block of the cut's feature where the text is empty, None where that has no sizes either.

    Parameters
    ----------
    text : str
        ``block:X0,Y0,Z0,X1,Y1,Z1`` in millimetres and program coordinates, ``part.stl``, ``plate.dxf`` or ``plate.dxf:LAYER``; behind it
        that of other work offsets, each as ``;G55=`` and one of these.
    parts : CutParts
        The cut; its feature's depth is that of an outline.
    folder : Path or None
        Where relative names begin.

    Raises
    ------
    InputError
        When it is not of that form, cannot be read or has no size.
    """
    own, others = _by_offset(text)
    if not own and not others and not _is_sized(parts.cut.feature):
        return None
    stock = _stock_of(own, parts, folder)
    return (
        replace(stock, others=tuple((offset, _stock_of(other, parts, folder)) for offset, other in others))
        if others
        else stock
    )


def _by_offset(text: str) -> tuple[str, list[tuple[float, str]]]:
    """The stock of the first zero, and that of others by their G word."""
    own, others = "", []
    if text.strip().startswith(AFTER):
        return text.strip(), []
    for part in text.split(";"):
        found = _OF_OFFSET.match(part)
        if found:
            others.append((float(found[1]), part[found.end() :].strip()))
        elif _is_typed_outline(own) and not _NAMED.search(part):
            own += f";{part.strip()}"
        elif part.strip():
            own = part.strip()
    return own, others


def _stock_of(text: str, parts: CutParts, folder: Path | None) -> Stock:
    if not text:
        return stock_of_feature(parts)
    if text.startswith(AFTER):
        raise InputError(
            f"stock '{text}' is what another cut of the job leaves; it stands alone, without that of other zeros",
            "stock",
        )
    if text.startswith("block:"):
        return _block(text)
    if _is_typed_outline(text):
        return _revolved(_typed_outline(text), "the outline that was given, turned round Z")
    path, layer = file_of(text, folder)
    is_solid = path.suffix.lower() == ".stl"
    try:
        content = read_bytes(path, largest=MOST_OF_SOLID if is_solid else MOST_OF_DRAWING)
        if text.startswith(_REVOLVED):
            return _revolved(
                _drawn_outline(content, layer, path.name),
                f"the outline on {layer or 'its layer'} of {path.name}, turned round Z",
            )
        return _solid(content, path.name) if is_solid else _drawn(content, path.name, layer, parts)
    except (InputError, FileProblem) as error:
        raise InputError(f"{path.name}: {error}") from None


def file_of(text: str, folder: Path | None) -> tuple[Path, str]:
    """The file that stock is named by, and its layer."""
    text = text.removeprefix(_REVOLVED)
    name, layer = text, ""
    if ".dxf:" in text.lower():
        name, _, layer = text.rpartition(":")
    if Path(name).suffix.lower() not in (".stl", ".dxf"):
        raise InputError(f"stock '{text}' is not understood; {_FORM}")
    return (Path(name) if folder is None else folder / name), layer


def files_of(text: str) -> list[str]:
    """Names of the files that stock is read from."""
    own, others = _by_offset(text)
    parts = (own, *(other for _, other in others))
    return [str(file_of(part, None)[0]) for part in parts if part and _is_of_file(part)]


def check_form(text: str, folder: Path | None) -> None:
    """Refuses stock that is not of its form or names a file that is not there, without reading that."""
    own, others = _by_offset(text)
    for part in (own, *(other for _, other in others)):
        if part.startswith("block:"):
            _block(part)
        elif _is_typed_outline(part):
            _typed_outline(part)
        elif part and not part.startswith(AFTER) and not (path := file_of(part, folder)[0]).is_file():
            raise InputError(f"{path.name}: does not exist; check the name")


def stamp_of(text: str, folder: Path | None) -> tuple[tuple[int, int] | None, ...]:
    """Time and size of each file that stock is named by, None where it is none: they tell whether it has changed."""
    own, others = _by_offset(text)
    return tuple(_stamp(part, folder) for part in (own, *(other for _, other in others)))


def _stamp(text: str, folder: Path | None) -> tuple[int, int] | None:
    try:
        found = file_of(text, folder)[0].stat()
    except (InputError, OSError):
        return None
    return found.st_mtime_ns, found.st_size


def _block(text: str) -> Stock:
    try:
        values = [float(part) for part in text.removeprefix("block:").split(",")]
    except ValueError:
        raise InputError(f"stock '{text}' holds something that is no number; {_FORM}") from None
    if len(values) != 6 or not all(np.isfinite(values)):
        raise InputError(f"stock '{text}' needs six numbers; {_FORM}")
    low, high = tuple(values[:3]), tuple(values[3:])
    if any(a >= b for a, b in zip(low, high, strict=True)):
        raise InputError(f"stock '{text}': each of the first three numbers must lie below its partner; {_FORM}")
    return Stock(low, high, told="the block that was given")  # type: ignore[arg-type]


def _is_typed_outline(text: str) -> bool:
    return text.startswith(_REVOLVED) and ".dxf" not in text.lower()


def _is_of_file(text: str) -> bool:
    return not text.startswith(("block:", AFTER)) and not _is_typed_outline(text)


def _typed_outline(text: str) -> Array:
    parts = [part for part in text.removeprefix(_REVOLVED).split(";") if part.strip()]
    if not all(_PAIR.match(part) for part in parts):
        raise InputError(f"stock '{text}' holds something that is no radius and height; {_TURNED_FORM}")
    return _half_section(np.array([[float(value) for value in part.split(",")] for part in parts]).reshape(-1, 2))


def _drawn_outline(content: bytes, layer: str, name: str) -> Array:
    """The half section on a layer: X is the radius and Y the height."""
    drawing = read_drawing(content)
    layers = [key for key, found in drawing.outlines.items() if found]
    layer = layer or (layers[0] if len(layers) == 1 else "")
    if not layer:
        raise InputError(
            f"has outlines on {', '.join(sorted(layers)[:8]) or 'no layer'}; name one, as in revolved:{name}:TURNED"
        )
    shapes = drawing.of(layer)
    if len(shapes) != 1:
        raise InputError(f"layer {layer} has {len(shapes)} outlines; a half section is one")
    return _half_section(np.array(shapes[0], dtype=float)[:, :2])


def _half_section(points: Array) -> Array:
    """The part of an outline at positive radii, closed along the axis."""
    import shapely

    if len(points) < 3:
        raise InputError(f"an outline that turns round Z needs three places or more; {_TURNED_FORM}")
    shape = shapely.Polygon(points)
    if not shape.is_valid:
        raise InputError(f"the outline that turns round Z crosses itself ({shapely.is_valid_reason(shape).lower()})")
    left, low, right, high = shape.bounds
    half = shape if left >= 0 else shape.intersection(shapely.box(0.0, low, max(right, 0.0) + 1.0, high))
    if half.geom_type != "Polygon" or half.is_empty or len(half.interiors):
        raise InputError(
            "the outline that turns round Z lies at no positive radius, or in several pieces; X is the radius, Y the height"
        )
    return np.array(half.exterior.coords)[:-1]


def _revolved(section: Array, told: str) -> Stock:
    wide = float(section[:, 0].max())
    low, high = float(section[:, 1].min()), float(section[:, 1].max())
    return Stock((-wide, -wide, low), (wide, wide, high), turned=section, told=told)


#: facets round a body of revolution that is seen from above
_AROUND = 180


def _turned_round(section: Array) -> Array:
    """Triangles (k, 3, 3) of a half section that turns round Z."""
    angle = np.linspace(0.0, 2 * np.pi, _AROUND + 1)
    a, b = section, np.roll(section, -1, axis=0)
    corners = [
        np.stack(
            (
                end[:, None, 0] * np.cos(angle),
                end[:, None, 0] * np.sin(angle),
                np.broadcast_to(end[:, None, 1], (len(end), len(angle))),
            ),
            axis=2,
        )
        for end in (a, b)
    ]
    p, q, r, s = corners[0][:, :-1], corners[0][:, 1:], corners[1][:, 1:], corners[1][:, :-1]
    found = np.concatenate((np.stack((p, q, r), 2).reshape(-1, 3, 3), np.stack((p, r, s), 2).reshape(-1, 3, 3)))
    area = np.linalg.norm(np.cross(found[:, 1] - found[:, 0], found[:, 2] - found[:, 0]), axis=1)
    return np.asarray(found[area > 1e-9])


def _solid(content: bytes, name: str) -> Stock:
    triangles = read_stl(content)
    low, high = triangles.min(axis=(0, 1)), triangles.max(axis=(0, 1))
    hole = open_at(triangles)
    x, y, z = hole or (0.0, 0.0, 0.0)
    remark = (
        f"{name}: the surface is open at x {x:.3f}, y {y:.3f}, z {z:.3f}; what it shows from above is taken"
        if hole
        else ""
    )
    return Stock(
        tuple(low.tolist()), tuple(high.tolist()), triangles=triangles, told=f"the surface of {name}", remark=remark
    )


def _drawn(content: bytes, name: str, layer: str, parts: CutParts) -> Stock:
    import shapely

    feature = parts.cut.feature
    if feature is None or not feature.depth_mm:
        raise InputError(
            "an outline needs a depth; give the cut's feature one, or the stock as block:X0,Y0,Z0,X1,Y1,Z1"
        )
    drawing = read_drawing(content)
    if not layer:
        layers = [key for key, found in drawing.outlines.items() if found]
        layer = next((key for key in layers if key.casefold() == "stock"), layers[0] if len(layers) == 1 else "")
        if not layer:
            raise InputError(
                f"has outlines on {', '.join(sorted(layers)[:8]) or 'no layer'}; name one, as in {name}:STOCK"
            )
    shapes = sorted((shapely.Polygon(outline) for outline in drawing.of(layer)), key=lambda shape: -shape.area)
    for shape in shapes:
        if not shape.is_valid:
            raise InputError(f"layer {layer}: an outline crosses itself ({shapely.is_valid_reason(shape).lower()})")
    outer = shapely.Polygon(shapes[0])
    holes = [shape for shape in shapes[1:] if outer.contains(shape)]
    if len(holes) + 1 < len(shapes):
        raise InputError(f"layer {layer} has several outlines beside each other; stock is one piece")
    left, low, right, high = outer.bounds
    return Stock(
        (left, low, -feature.depth_mm), (right, high, 0.0), shape=outer.difference(shapely.union_all(holes)),
        told=f"the outline on {layer} of {name}, pulled up",
    )  # fmt: skip


def _is_sized(feature: Feature | None) -> bool:
    """Whether a block can be made of a feature."""
    if feature is None or not feature.depth_mm:
        return False
    return bool(feature.outline or (feature.length_mm and feature.width_mm))


def stock_of_program(moves: Moves, tool: int | None, radius: float) -> Stock:
    """A block as large as what the judged tool sweeps at a feed, for a program of which nobody has said what it begins with.

    Its top is the work zero where the program goes below that, else as far over its first level as that lies over the next.

    Parameters
    ----------
    moves : Moves
        The program.
    tool : int or None
        T number that is judged; None where the program has one.
    radius : float
        Of the cutter [mm].

    Raises
    ------
    InputError
        When it does not tell how thick the material is.
    """
    ours = moves.is_feed & (moves.tool == tool)
    if not ours.any():  # nobody has said which tool, or there is none of that number, which is told of the program
        ours = moves.is_feed
    places = np.concatenate((moves.start[ours], moves.end[ours]))
    places = places[np.isfinite(places).all(axis=1)]
    deep = float(places[:, 2].min()) if len(places) else 0.0
    level = ours & (np.abs(moves.end[:, 2] - moves.start[:, 2]) < 1e-9)
    levels = np.unique(np.round(moves.end[level][:, 2], 4))[::-1]
    top = 0.0 if deep < 0 else float(2 * levels[0] - levels[1]) if len(levels) > 1 else deep
    # what it does above the material says nothing of its size
    places = places[places[:, 2] < top]
    if not len(places):
        raise InputError(
            "its stock is not known and cannot be told from where it goes; give it as block:X0,Y0,Z0,X1,Y1,Z1", "stock"
        )
    low, high = places[:, :2].min(axis=0) - radius, places[:, :2].max(axis=0) + radius
    sides = ", ".join(
        f"{axis} {_NUMBER.text(a, 'metric')} to {_NUMBER.text(b, 'metric')}"
        for axis, a, b in (("X", low[0], high[0]), ("Y", low[1], high[1]), ("Z", deep, top))
    )
    said = f"nobody has said what this program begins with: a block as large as where it goes is taken, {sides} mm"
    return Stock((float(low[0]), float(low[1]), deep), (float(high[0]), float(high[1]), top), told="the block of the program's own extent",
                 is_given=False, remark=said)  # fmt: skip


def stock_of_feature(parts: CutParts) -> Stock:
    """The block of the cut's feature, the middle of its top at the work zero."""
    feature = parts.cut.feature
    if feature is None or not feature.depth_mm or not _is_sized(feature):
        raise InputError("the cut's feature has no length, width and depth; give the stock as block:X0,Y0,Z0,X1,Y1,Z1")
    told, depth = "the block of the job's feature, its top centre at zero", -feature.depth_mm
    corners = feature.drawn.stock[0] if feature.drawn is not None and feature.drawn.stock else feature.outline
    if corners:
        import shapely

        shape = shapely.Polygon(corners)
        left, low, right, high = shape.bounds
        return Stock(
            (left, low, depth), (right, high, 0.0), shape=shape, told="the feature's outline, pulled up", is_given=False
        )
    assert feature.length_mm and feature.width_mm  # sized so
    x_half, y_half = feature.length_mm / 2, feature.width_mm / 2
    return Stock((-x_half, -y_half, depth), (x_half, y_half, 0.0), told=told, is_given=False)
