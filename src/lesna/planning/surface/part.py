"""The part of a surface as its feature names it: read, turned, set to its zero, bounded, and ready for the tool."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np

from lesna.geometry.solid import MOST_BYTES, read_stl
from lesna.model import units
from lesna.model.errors import InputError, LesnaError
from lesna.model.files import read_bytes
from lesna.model.job import Feature
from lesna.model.library_records import Machine
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.surface.drops import Ground
from lesna.surface.faces import Faces, faces_of
from lesna.surface.mesh import Mesh, welded

_INCH = 25.4
_FIELD = "feature.stl"
#: of an area as wide as this the tool still finds something [mm]
_LEAST = 0.5
#: bounds reach no further beside the part [mm]
_BESIDE = 25.0


@dataclass(frozen=True)
class Part:
    """A part and where the tool's axis may go.

    Attributes
    ----------
    mesh : Mesh
        The part as it lies on the table, in program coordinates.
    area : shapely geometry
        Where the axis may go [mm].
    stamp : tuple
        What it was made from: equal stamps are equal parts.
    """

    mesh: Mesh
    area: Any
    stamp: tuple[Any, ...]

    @cached_property
    def ground(self) -> Ground:
        """What shapes are dropped on."""
        return Ground(self.mesh)

    @cached_property
    def faces(self) -> Faces:
        """Its faces."""
        return faces_of(self.mesh)

    @property
    def size(self) -> Array:
        """Length, width and height [mm]."""
        low, high = self.mesh.box
        return np.asarray(high - low)


def stamp_of(feature: Feature, folder: Path | None) -> tuple[Any, ...]:
    """What a part depends on: its file as it lies on the disk now, its unit, turn, zero and bounds."""
    path = path_of(feature, folder)
    try:
        found = path.stat()
        on_disk = (found.st_mtime_ns, found.st_size)
    except OSError:
        on_disk = (0, -1)
    return (str(path), on_disk, feature.stl_unit, feature.turn_deg, feature.zero, feature.box_mm, feature.outline)


def path_of(feature: Feature, folder: Path | None) -> Path:
    """The file of a part."""
    if feature.kind != "surface" or feature.stl is None:
        raise InputError("is missing; name the part's STL file, relative to the job", _FIELD)
    name = Path(feature.stl)
    if folder is None and not name.is_absolute():
        raise InputError(f"{feature.stl}: save the job beside its part first", _FIELD)
    if folder is not None and not name.is_absolute() and not (folder / name).resolve().is_relative_to(folder.resolve()):
        raise InputError(f"{feature.stl}: must be a file in the job's folder, named from there", _FIELD)
    return name if folder is None else folder / name


def part_of(feature: Feature, folder: Path | None, machine: Machine | None = None, pulse: Pulse = STEADY) -> Part:
    """The part that a feature names.

    Parameters
    ----------
    feature : Feature
        Of kind surface.
    folder : Path or None
        Of the job.
    machine : Machine or None
        Whose travels it must lie within.
    pulse : Pulse
        Told what is done.

    Raises
    ------
    InputError
        With the field: no file, no triangles, too large, an area that misses it.
    """
    path = path_of(feature, folder)
    stamp = stamp_of(feature, folder)
    pulse.begin("reading the part")
    try:
        triangles = read_stl(read_bytes(path, largest=MOST_BYTES))
    except LesnaError as error:
        raise InputError(f"{path.name}: {error}", _FIELD) from None
    triangles = triangles * (_INCH if feature.stl_unit == "inch" else 1.0)
    if feature.turn_deg is not None:
        triangles = triangles @ turned(feature.turn_deg).T
    if feature.zero != "file":
        triangles = triangles - (0.0, 0.0, float(triangles[:, :, 2].max()))
    pulse.check()
    pulse.begin("joining triangles")
    try:
        mesh = welded(np.ascontiguousarray(triangles))
    except InputError as error:
        raise InputError(f"{path.name}: {error}", _FIELD) from None
    pulse.check()
    if not (mesh.normals[:, 2] > 1e-6).any():
        raise InputError(f"{path.name}: nothing of it looks up; turn it by turn_deg", _FIELD)
    part = Part(mesh, _area(feature, mesh), stamp)
    if machine is not None:
        _check_travel(part, machine)
    return part


#: parts read lately, by what they were made from
_RECENT: dict[tuple[Any, ...], Part] = {}
_RECENT_MOST = 2


def kept_part(feature: Feature, folder: Path | None, machine: Machine | None, pulse: Pulse = STEADY) -> Part:
    """As `part_of`; one that was read lately and has not changed on the disk is not read again."""
    stamp = stamp_of(feature, folder)
    known = _RECENT.get(stamp)
    if known is None:
        known = part_of(feature, folder, machine, pulse)
        while len(_RECENT) >= _RECENT_MOST:
            del _RECENT[next(iter(_RECENT))]
        _RECENT[stamp] = known
    elif machine is not None:
        _check_travel(known, machine)
    return known


def turned(angles: tuple[float, float, float]) -> Array:
    """Rotation (3, 3) about X, then Y, then Z [deg]."""
    a, b, c = np.radians(angles)
    about_x = np.array(((1, 0, 0), (0, np.cos(a), -np.sin(a)), (0, np.sin(a), np.cos(a))))
    about_y = np.array(((np.cos(b), 0, np.sin(b)), (0, 1, 0), (-np.sin(b), 0, np.cos(b))))
    about_z = np.array(((np.cos(c), -np.sin(c), 0), (np.sin(c), np.cos(c), 0), (0, 0, 1)))
    return np.asarray(about_z @ about_y @ about_x, dtype=float)


def _area(feature: Feature, mesh: Mesh) -> Any:
    import shapely

    low, high = mesh.box
    whole = shapely.box(low[0], low[1], high[0], high[1])
    area, told = whole, ""
    if feature.box_mm is not None:
        # beside the part as well, where somebody wants its border rolled over
        box = shapely.box(*feature.box_mm)
        area, told = (box.intersection(whole.buffer(_BESIDE)) if box.intersects(whole) else shapely.Polygon()), "box_mm"
    if feature.outline:
        outline = shapely.Polygon(feature.outline)
        if not outline.is_valid:
            raise InputError("crosses itself; the corners must run round the outline in order", "feature.profile_mm")
        area, told = area.intersection(outline), told or ("dxf" if feature.dxf else "profile_mm")
    left, bottom, right, top = area.bounds if not area.is_empty else (0.0, 0.0, 0.0, 0.0)
    if area.is_empty or right - left < _LEAST or top - bottom < _LEAST:
        length = units.LENGTH
        raise InputError(
            f"misses the part, which reaches from x {length.mark(low[0])} to {length.mark(high[0])} and from y "
            f"{length.mark(low[1])} to {length.mark(high[1])}",
            f"feature.{told or 'stl'}",
        )
    return area


def _check_travel(part: Part, machine: Machine) -> None:
    travels = (machine.travel_x_mm, machine.travel_y_mm, machine.travel_z_mm)
    for axis, size, travel in zip("XYZ", part.size.tolist(), travels, strict=True):
        if travel is not None and size > travel:
            raise InputError(
                f"the part is {units.LENGTH.mark(size)} along {axis}, the machine travels {units.LENGTH.mark(travel)}; "
                "turn it, bound it, or check stl_unit",
                _FIELD,
            )
