"""The job document (`*.lesna`): workpiece, machine and the cuts in machining order.

Field names, units and meanings are the published contract (docs/contract.md); the document is always metric.
"""

from __future__ import annotations

import secrets
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal, TypeAlias

from pydantic import BeforeValidator, Field, PlainSerializer, PrivateAttr, field_validator, model_validator

from lesna.model import names
from lesna.model.base import (
    MaybeWhole,
    Number,
    Record,
    Reference,
    Whole,
    count,
    nearest,
    number,
    partial,
    several,
    truth,
)
from lesna.model.drawn import Drawn, Outline
from lesna.model.errors import InputError
from lesna.model.kept import Rows
from lesna.model.library_records import Holder, Machine, Material, Tool
from lesna.model.shown import one_line, shortened
from lesna.model.versions import VERSION, migrate, with_ids

if TYPE_CHECKING:

    class ToolSpec(Tool, Reference): ...

    class HolderSpec(Holder, Reference): ...

    class MachineSpec(Machine, Reference): ...

    class MaterialSpec(Material, Reference): ...
else:
    ToolSpec = partial(Tool, "ToolSpec")
    HolderSpec = partial(Holder, "HolderSpec")
    MachineSpec = partial(Machine, "MachineSpec")
    MaterialSpec = partial(Material, "MaterialSpec")


def _loose(cls: type[Reference], columns: dict[str, str], spellings: dict[str, Any]) -> BeforeValidator:
    def read(raw: Any) -> Any:
        if isinstance(raw, cls):
            return raw
        if isinstance(raw, str):
            raw = {"id": raw}
        if not isinstance(raw, dict):
            raise InputError(f"must be a library id or an object, got {raw!r}")
        raw = names.renamed(raw, columns)
        return {key: _spelled(key, value, spellings) for key, value in raw.items()}

    return BeforeValidator(read)


def _spelled(key: str, value: Any, spellings: dict[str, Any]) -> Any:
    if key not in spellings or value is None:
        return value
    try:
        return spellings[key](value)
    except InputError as error:
        raise error.inside(key) from None


def _id_or_object(spec: Any) -> Any:
    written = spec.model_dump(mode="json", exclude_none=True, by_alias=True)
    return written["id"] if set(written) == {"id"} else written


def _steps(value: Any) -> Any:
    return [float(part) for part in value.split(";")] if isinstance(value, str) else value


class _IdOrObject:
    """Publishes in the JSON Schema that a bare library id will do as well."""

    def __get_pydantic_json_schema__(self, core: Any, handler: Any) -> dict[str, Any]:
        return {"anyOf": [{"type": "string", "description": "library id"}, handler(core)]}


def _reference(cls: Any, columns: dict[str, str], spellings: dict[str, Any]) -> Any:
    return Annotated[cls, PlainSerializer(_id_or_object), _loose(cls, columns, spellings), _IdOrObject()]


if TYPE_CHECKING:
    ToolRef: TypeAlias = ToolSpec
    HolderRef: TypeAlias = HolderSpec
    MachineRef: TypeAlias = MachineSpec
    MaterialRef: TypeAlias = MaterialSpec
else:
    ToolRef = _reference(
        ToolSpec, names.TOOL_COLUMNS, {"kind": names.tool_kind, "substrate": names.substrate, "coating": names.coating}
    )
    HolderRef = _reference(HolderSpec, names.HOLDER_COLUMNS, {"kind": names.holder_kind})
    MachineRef = _reference(MachineSpec, {}, {"spindle_steps_rpm": _steps, "feed_steps_mm_min": _steps})
    MaterialRef = _reference(MaterialSpec, {}, {})


class Batch(Record):
    """How many parts, and what a minute costs."""

    parts: Whole = count("parts in the batch", 1, ge=1, le=100_000_000)
    machine_rate_per_h: float | None = number(
        "money/h", "machine rate; the machine's own where left out", None, ge=0, label="Rate per hour"
    )
    tool_change_min: float | None = number("min", "time to change a worn edge", None, ge=0)
    setup_min: float | None = number("min", "time to set the machine up for the batch", None, ge=0, label="Set-up time")
    programming_min: float | None = number(
        "min", "time to program the job, paid once for the batch", None, ge=0, label="Programming"
    )
    programming_rate_per_h: float | None = number(
        "money/h", "what an hour of programming costs", None, ge=0, label="Programmer per hour"
    )
    price_per_cm3: float | None = number(
        "money/cm3",
        "usual price of removed material, to compare a quote with",
        None,
        ge=0,
        label="Usual price of removal",
    )
    survivors: float = number("1", "share of edges that outlives the safe minutes", 0.95, gt=0.5, lt=1)


class Workpiece(Record):
    """The part: its material as it lies on the table, and how it is held."""

    material: MaterialRef
    hardness_hrc: float | None = number("HRC", "measured hardness", None, gt=0, le=72, symbol="HRC")
    hardness_hb: float | None = number("HB", "measured hardness", None, gt=10, le=800, symbol="HB")
    mass_kg: float | None = number("kg", "mass on the table", None, gt=0)
    clamp_force_n: float | None = number("N", "sum of the clamping forces", None, ge=0, label="Clamping force")

    ELSEWHERE: ClassVar = frozenset({"material"})

    @model_validator(mode="after")
    def _one_hardness(self) -> Workpiece:
        if self.hardness_hb is not None and self.hardness_hrc is not None:
            raise InputError("is given beside hardness_hrc; give one of the two", "hardness_hb")
        return self


class Book(Record):
    """A toolmaker's starting value at a stated radial engagement."""

    vc_m_min: float | None = number(
        "m/min",
        "surface speed, used when the cut names neither vc nor n",
        None,
        gt=0,
        le=10000,
        label="Surface speed",
        symbol="vc",
    )
    fz_mm: float = number("mm", "feed per tooth", gt=0, le=20, label="Feed per tooth", symbol="fz")
    ae_over_dc: float | None = number(
        "1", "radial engagement it was given for; 0.5 where not stated", None, gt=0, le=1, label="Stepover over DC"
    )


#: more are no outline of a part, and more than anybody waits for
MOST_CORNERS, MOST_ISLANDS = 5000, 500
#: cuts of a job: some twenty times a long one
MOST_CUTS = 500

#: what belongs to a part of triangles
_OF_STL = ("stl_unit", "turn_deg", "box_mm", "zero", "stock_mm")
#: layers of a drawing that a profile names
_LAYERS = ("part_layer", "stock_layer", "island_layer", "keep_out_layer")


def _file_name(name: str | None) -> str | None:
    """A name that a file can have."""
    if name is not None and one_line(name) != name:
        raise InputError(
            f"must be the name of a file; '{shortened(one_line(name))}' holds characters that are not seen"
        )
    return name


def _layer(text: str) -> Any:
    return Field(None, min_length=1, max_length=255, description=f"layer: {text}")


class Feature(Record):
    """What this cut makes, as far as time and corners depend on it."""

    kind: names.FeatureKind
    length_mm: float | None = number("mm", "length", None, gt=0)
    width_mm: float | None = number("mm", "width", None, gt=0)
    depth_mm: float | None = number("mm", "depth", None, gt=0)
    corner_radius_mm: float | None = number("mm", "smallest inner radius", None, ge=0, label="Inner corner")
    closed: bool | None = truth("whether the ends of a slot are closed", None)
    slope_deg: float | None = number("deg", "slope of a surface against the table", None, ge=0, lt=90)
    cusp_um: float | None = number("um", "height of the cusps that a surface may keep", None, gt=0, le=1000)
    stock_wall_mm: float = number(
        "mm", "stock that this cut leaves on the walls", 0.0, ge=0, le=50, label="Left on walls"
    )
    stock_floor_mm: float = number(
        "mm", "stock that this cut leaves on the floor", 0.0, ge=0, le=50, label="Left on floor"
    )
    dxf: str | None = Field(
        None, min_length=1, max_length=1000, description="drawing of a profile, relative to the job's folder"
    )
    part_layer: str | None = _layer("outline of the floor; PART, or the only one with outlines, where left out")
    stock_layer: str | None = _layer("outline of the material; it is everywhere where left out")
    island_layer: str | None = _layer("outlines of what stays standing inside")
    keep_out_layer: str | None = _layer("outlines that the cutter keeps out of, such as clamps")
    open_sides: tuple[names.Side, ...] = Field(
        (), description="sides of the profile's bounding box beyond which there is air"
    )
    profile_mm: Outline = several(
        "mm", "outline of a pocket, face or through cut, instead of length x width", most=MOST_CORNERS, label="Outline"
    )
    islands_mm: tuple[Annotated[Outline, Field(max_length=MOST_CORNERS)], ...] = several(
        "mm",
        "outlines of what stays standing inside, from the middle of a floor by length and width",
        most=MOST_ISLANDS,
    )
    stl: str | None = Field(
        None, min_length=1, max_length=1000, description="part of a surface as triangles, relative to the job's folder"
    )
    stl_unit: Literal["mm", "inch"] | None = Field(None, description="unit of its file; mm where left out")
    turn_deg: tuple[Number, Number, Number] | None = several(
        "deg", "turn of the part about X, then Y, then Z, for a tilted set-up", None, most=3, label="Set-up turn"
    )
    box_mm: tuple[Number, Number, Number, Number] | None = several(
        "mm", "lowest x and y, highest x and y between which the tool's axis stays", None, most=4, label="Bounds"
    )
    zero: Literal["part", "file"] | None = Field(
        None, description="Z 0 is the part's highest point, or that of the file; the part's where left out"
    )
    stock_mm: float | None = number(
        "mm", "stock that roughing left on a surface, as an even skin", None, gt=0, le=50, label="Skin left"
    )
    ELSEWHERE: ClassVar = frozenset(
        {"dxf", "part_layer", "stock_layer", "island_layer", "keep_out_layer", "open_sides"}
    )
    #: never part of the document: the drawing is read anew wherever the job is
    _drawn: Drawn | None = PrivateAttr(None)

    def drawn_as(self, drawn: Drawn | None) -> Feature:
        """The same feature with what its drawing holds now."""
        out = self.model_copy()
        out._drawn = drawn
        return out

    def with_values(self, **values: Any) -> Feature:
        """A checked copy with some fields changed; it keeps what its drawing holds."""
        out = super().with_values(**values)
        is_same = all(getattr(out, key) == getattr(self, key) for key in ("dxf", *_LAYERS, "open_sides"))
        return out.drawn_as(self._drawn) if is_same else out

    @property
    def drawn(self) -> Drawn | None:
        """What was read from the drawing, None where nothing has been yet."""
        return self._drawn

    @property
    def outline(self) -> Outline:
        """Corners of the floor, typed or drawn; empty where it has a length and a width [mm]."""
        return self._drawn.outline if self._drawn is not None else self.profile_mm

    @property
    def islands(self) -> tuple[Outline, ...]:
        """What stays standing inside, typed or drawn [mm]."""
        return self._drawn.islands if self._drawn is not None else self.islands_mm

    @property
    def sides(self) -> tuple[float | None, float | None]:
        """How far it reaches in x and y, or length and width as they were typed [mm]; None where it does not say."""
        if not self.outline:
            return self.length_mm, self.width_mm
        x, y = zip(*self.outline, strict=True)
        return max(x) - min(x), max(y) - min(y)

    @property
    def is_enclosed(self) -> bool:
        """Whether walls surround it, so that the cutter has to enter from above."""
        if self.kind == "slot":
            return bool(self.closed)
        return self.kind in ("pocket", "through") or (self.kind == "profile" and not self.open_sides)

    @model_validator(mode="before")
    @classmethod
    def _bounds(cls, raw: Any) -> Any:
        """The outline of a surface under its short name: a drawing, or corners."""
        if not isinstance(raw, dict) or "outline" not in raw or raw.get("kind") != "surface":
            return raw
        given = raw["outline"]
        key = "dxf" if isinstance(given, str) else "profile_mm"
        rest = {name: value for name, value in raw.items() if name != "outline"}
        return rest if given is None else {**rest, key: given}

    @field_validator("dxf", "stl")
    @classmethod
    def _file(cls, name: str | None) -> str | None:
        return _file_name(name)

    @model_validator(mode="after")
    def _drawing(self) -> Feature:
        if self.kind == "profile" and self.dxf is None:
            raise InputError("is missing; a profile is read from a drawing", "dxf")
        bounded = ("dxf", "part_layer") if self.stl is not None else ()
        for key in ("dxf", *_LAYERS, "open_sides"):
            if self.kind != "profile" and key not in bounded and getattr(self, key):
                raise InputError('belongs to a feature of kind "profile"', key)
        return self

    @model_validator(mode="after")
    def _surface(self) -> Feature:
        for key in ("stl", *_OF_STL):
            if self.kind != "surface" and getattr(self, key) is not None:
                raise InputError('belongs to a feature of kind "surface"', key)
            if self.stl is None and getattr(self, key) is not None:
                raise InputError("belongs to a part of triangles; name its file as stl", key)
        if self.box_mm is not None and not (self.box_mm[0] < self.box_mm[2] and self.box_mm[1] < self.box_mm[3]):
            raise InputError("must be lowest x, lowest y, highest x, highest y", "box_mm")
        return self

    @model_validator(mode="after")
    def _outlines(self) -> Feature:
        bounds = self.profile_mm if self.stl is not None else ()
        if (self.profile_mm or self.islands_mm) and self.kind not in ("pocket", "face", "through") and not bounds:
            raise InputError(
                "belongs to a pocket, a face or a through cut", "profile_mm" if self.profile_mm else "islands_mm"
            )
        for key, outlines in (
            ("profile_mm", (self.profile_mm,) if self.profile_mm else ()),
            ("islands_mm", self.islands_mm),
        ):
            for outline in outlines:
                if len(outline) < 3:
                    raise InputError(f"must have at least three corners, got {len(outline)}", key)
        return self


#: modal stiffness that the tip of a tool can have, from the thinnest to a face mill on its arbor [N/um]
STIFFEST = (0.001, 10_000.0)


class TapMode(Record):
    """A vibration mode measured at the tool tip."""

    axis: Literal["x", "y"]
    f_hz: float = number("Hz", "natural frequency", ge=1, le=100_000)
    k_n_um: float = number("N/um", "modal stiffness", ge=STIFFEST[0], le=STIFFEST[1])
    zeta: float = number("1", "damping ratio", gt=0, lt=1)
    simulated: bool = truth("found by the simulated hammer: nothing was measured on the machine", False)
    kept: bool = truth("simulated, and to be a limit all the same", False)

    @property
    def counts(self) -> bool:
        """Whether chatter is judged by it: what is simulated does not unless somebody decides so."""
        return self.kept or not self.simulated


#: a cut names one of each: how fast it turns, and how far it feeds; a toolmaker's book value may do for both
ONE_OF = (("vc_m_min", "n_rpm", "life_min_wanted", "book"), ("hex_mm", "fz_mm", "book"))


def new_id() -> str:
    """An id that no other cut has."""
    return secrets.token_hex(5)


class ProgramRef(Record):
    """An NC program that makes this cut: where it lies and how it was when it was looked at, never its text."""

    file: str = Field(
        min_length=1, max_length=1000, description="path, relative to the job's folder where it lies there"
    )
    digest: str = Field("", max_length=64, description="SHA-256 of the file as it was simulated")
    stock: str = Field(
        "", max_length=1000, description="block:X0,Y0,Z0,X1,Y1,Z1 in mm; the feature's block where left out"
    )
    tool: MaybeWhole = count(
        "T number whose blocks make this cut; needed where the program has several", None, ge=0, le=99999
    )

    @field_validator("file")
    @classmethod
    def _file(cls, name: str) -> str | None:
        return _file_name(name)


#: what the speed of a cut is set by, one of them
SPEEDS = ("vc_m_min", "n_rpm", "life_min_wanted")


class Cut(Record):
    """One cut of the job: a tool in its holder, and what it is told to do."""

    id: str = Field(
        default_factory=lambda: new_id(),
        min_length=1,
        max_length=60,
        description="stays with the cut through renaming and reordering; given when the file names none",
        json_schema_extra={"label": "Short name (id)"},
    )
    name: str = Field(min_length=1, max_length=120)
    role: names.Role = "rough"
    strategy: names.Strategy = "heavy_radial"
    tool: ToolRef
    holder: HolderRef = Field(default_factory=lambda: HolderSpec.read({"id": "collet"}))
    direction: names.Direction = "down"
    coolant: names.Coolant = "dry"
    compensation: names.Compensation = "max_chip"
    ae_mm: float = number("mm", "radial engagement (stepover)", gt=0, le=600, label="Stepover", symbol="ae")
    ap_mm: float = number("mm", "axial depth (stepdown)", gt=0, le=500, label="Depth", symbol="ap")
    vc_m_min: float | None = number("m/min", "surface speed", None, gt=0, le=10000, label="Surface speed", symbol="vc")
    n_rpm: float | None = number("1/min", "spindle speed", None, gt=0, le=500000, label="Spindle speed", symbol="n")
    life_min_wanted: float | None = number(
        "min",
        "edge life that the speed is to keep, wherever stepover, depth and chip go",
        None,
        gt=0,
        le=100000,
        label="Edge life",
        symbol="T",
    )
    hex_mm: float | None = number(
        "mm", "target of the chip thickness", None, gt=0, le=10, label="Thickest chip", symbol="hex"
    )
    fz_mm: float | None = number("mm", "feed per tooth", None, gt=0, le=20, label="Feed per tooth", symbol="fz")
    stick_out_mm: float = number("mm", "tip to holder face (LPR)", ge=0.5, le=1000, label="Stick-out")
    tilt_deg: float = number("deg", "tilt of a ball away from its centre", 0.0, ge=0, lt=90)
    deflection_limit_um: float | None = number("um", "largest deflection at the tip", None, gt=0)
    wear_vb_mm: float = number(
        "mm", "flank wear VB of the edge as it cuts", 0.0, ge=0, le=1, label="Flank wear", symbol="VB"
    )
    removal_floor_cm3_min: float | None = number(
        "cm3/min", "never slower than: the shop's least removal rate", None, gt=0, label="Never slower"
    )
    tap_modes: tuple[TapMode, ...] = Field((), max_length=20, json_schema_extra={"label": "Measured modes"})
    book: Book | None = None
    feature: Feature | None = None
    program: ProgramRef | None = None
    locks: tuple[str, ...] = Field(
        (), max_length=50, description="fields that a search for a better point leaves alone"
    )
    GROUPS: ClassVar = (("What is set", "ae_mm"), ("What it is judged by", "deflection_limit_um"))
    ELSEWHERE: ClassVar = frozenset({"id", "tool", "holder", "book", "feature", "program", "locks"})

    @property
    def fixed(self) -> frozenset[str]:
        """Fields that a search leaves alone: those that are locked, and the engagement that a chamfer has by its size."""
        given = ("ae_mm", "ap_mm") if self.feature is not None and self.feature.kind == "chamfer" else ()
        return frozenset((*self.locks, *given))

    @property
    def finishes_wall(self) -> bool:
        """Whether it leaves a wall that is measured: in the finer roles, a chamfer's aside."""
        return self.role in ("semi", "finish") and (self.feature is None or self.feature.kind != "chamfer")

    @property
    def is_judged_by_modes(self) -> bool:
        """Whether chatter is judged by the modes of its set-up instead of the estimate."""
        return bool(self.tap_modes) and all(mode.counts for mode in self.tap_modes)

    @property
    def is_simulated(self) -> bool:
        """Whether some mode of its set-up was never measured at the machine."""
        return any(mode.simulated for mode in self.tap_modes)

    @field_validator("coolant", mode="before")
    @classmethod
    def _coolant(cls, value: Any) -> Any:
        return names.coolant(value)

    @field_validator("locks")
    @classmethod
    def _known_locks(cls, locks: tuple[str, ...]) -> tuple[str, ...]:
        for place, name in enumerate(locks):
            if name not in cls.model_fields:
                guess = nearest(name, cls.model_fields)
                hint = f"; the nearest is '{guess}'" if guess else ""
                raise InputError(f"is no field of a cut: {one_line(name)[:40]!r}{hint}", f"[{place}]")
        return locks

    @model_validator(mode="after")
    def _one_of_each(self) -> Cut:
        speeds = [key for key in SPEEDS if getattr(self, key) is not None]
        if len(speeds) > 1:
            raise InputError(
                f"is given beside {speeds[0]}; give exactly one of vc_m_min, n_rpm and life_min_wanted", speeds[1]
            )
        if not speeds and (self.book is None or self.book.vc_m_min is None):
            raise InputError(
                "is missing; give exactly one of vc_m_min, n_rpm and life_min_wanted (or book.vc_m_min)", "vc_m_min"
            )
        feeds = [key for key in ONE_OF[1] if getattr(self, key) is not None]
        if len(feeds) > 1:
            raise InputError(f"is given beside {feeds[0]}; give exactly one of hex_mm, fz_mm and book", feeds[1])
        if not feeds:
            raise InputError("is missing; give exactly one of hex_mm, fz_mm and book", "hex_mm")
        return self

    @property
    def vc_wanted(self) -> float | None:
        """The surface speed that was asked for [m/min], None where a spindle speed or an edge life was."""
        if any(getattr(self, key) is not None for key in SPEEDS):
            return self.vc_m_min
        return self.book.vc_m_min if self.book else None


class Job(Record):
    """The whole job document."""

    lesna: Whole = Field(VERSION, description="version of this document", ge=1, le=VERSION)
    title: str = Field("", max_length=200)
    notes: str = ""
    units: Literal["metric", "inch"] = Field("metric", description="how screens and reports show numbers")
    batch: Batch = Field(default_factory=lambda: Batch(parts=1))
    workpiece: Workpiece
    machine: MachineRef
    cuts: tuple[Cut, ...] = Field(max_length=MOST_CUTS)
    rows: Rows | None = Field(
        None, description="library rows as they were when this job was computed; they count first"
    )

    ELSEWHERE: ClassVar = frozenset({"lesna", "units", "batch", "workpiece", "machine", "cuts", "rows"})

    @model_validator(mode="before")
    @classmethod
    def _of_any_version(cls, raw: Any) -> Any:
        if not isinstance(raw, dict) or "lesna" not in raw:
            return raw
        raw = migrate(raw)
        cuts = raw.get("cuts")
        return {**raw, "cuts": with_ids(cuts)} if isinstance(cuts, list) else raw

    @field_validator("cuts")
    @classmethod
    def _distinct(cls, cuts: tuple[Cut, ...]) -> tuple[Cut, ...]:
        seen: set[str] = set()
        for index, cut in enumerate(cuts):
            if cut.name in seen:
                raise InputError(f"'{cut.name}' names two cuts; every cut needs a name of its own", f"[{index}].name")
            seen.add(cut.name)
        known: set[str] = set()
        for index, cut in enumerate(cuts):
            if cut.id in known:
                raise InputError(f"'{cut.id}' stands on two cuts; leave one out and it gets its own", f"[{index}].id")
            known.add(cut.id)
        return cuts

    def place_of(self, id: str) -> int | None:
        """Position of the cut with an id, None where it is gone."""
        return next((index for index, cut in enumerate(self.cuts) if cut.id == id), None)

    def cut_named(self, name: str) -> int:
        """Position of a cut."""
        for index, cut in enumerate(self.cuts):
            if cut.name == name:
                return index
        if not self.cuts:
            raise InputError("the job has no cuts yet", "cut")
        known = ", ".join(f"'{cut.name}'" for cut in self.cuts)
        raise InputError(f"no cut is named '{name}'; there are {known}", "cut")

    def to_data(self) -> dict[str, Any]:
        """Plain data for a file; what was left out stays left out."""
        return self.model_dump(mode="json", exclude_none=True, by_alias=True)
