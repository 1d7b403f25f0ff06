"""Tool, holder, machine and material: the records a shop keeps in its library."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from lesna.model import names
from lesna.model.base import MaybeWhole, Number, Record, Whole, count, number, several, truth, words
from lesna.model.curves import ROUNDED, Curve, agreed, rated
from lesna.model.errors import InputError
from lesna.model.rotary import RotaryAxis, checked, rotary_of

#: flutes longer than this over DC are a slip of the pen, and more slices than anybody waits for
SLENDEREST = 60.0


class Tool(Record):
    """A milling cutter, in ISO 13399 symbols (lengths in mm)."""

    id: str = words("Short name (id)")
    name: str = ""
    kind: names.ToolKind = Field(description="shape of the cutting edge's envelope")
    DC: float = number("mm", "cutting diameter at full depth", ge=0.02, le=500, label="Cutting diameter")
    ZEFP: Whole = count("effective flutes", ge=1, le=60, label="Teeth")
    RE: float = number("mm", "corner radius", 0.0, ge=0, label="Corner radius")
    APMX: float = number("mm", "largest depth of cut of the edge", ge=0.01, le=500, label="Greatest depth")
    FHA: float = number("deg", "helix angle", 30.0, ge=0, lt=75, label="Helix")
    KAPR: float = number("deg", "lead angle, 90 for a square shoulder", 90.0, gt=0, le=90, label="Lead angle")
    GAMF: float | None = number("deg", "radial rake angle", None, ge=-30, le=40, label="Rake")
    DCX: float | None = number("mm", "largest diameter over the body", None, ge=0.02, le=600, label="Greatest diameter")
    edge_radius_um: float = number("um", "radius of the honed edge", 10.0, ge=0, le=200)
    centre_cutting: bool = truth("whether the tool may plunge straight down", True)
    flutes_to_centre: MaybeWhole = count("flutes that reach the centre of a ball", None, ge=1, le=12)
    tip_diameter_mm: float | None = number(
        "mm", "diameter at the lowest point of a chamfer or high-feed tool", None, ge=0
    )
    taper_deg: float | None = number("deg", "half angle of a tapered ball's flank", None, gt=0, le=45, label="Taper")
    tip_angle_deg: float | None = number("deg", "included angle of a chamfer tool", None, gt=0, lt=180)
    chamfer_edge_mm: float | None = number("mm", "length of the chamfer edge", None, gt=0, le=200)
    LU: float | None = number(
        "mm", "usable length below the neck or body", None, ge=0.01, le=1000, label="Usable length"
    )
    DN: float | None = number("mm", "neck diameter", None, ge=0.02, le=500, label="Neck diameter")
    DMM: float | None = number(
        "mm", "shank diameter; arbor bore of a face mill", None, ge=0.5, le=200, label="Shank diameter"
    )
    OAL: float | None = number("mm", "overall length", None, ge=5, le=1000, label="Overall length")
    core_dia_ratio: float | None = number("1", "geometric core circle over DC", None, gt=0, lt=1, label="Core over DC")
    gullet_area_per_flute_mm2_hint: float | None = number(
        "mm2", "cross section of one gullet", None, gt=0, label="Gullet area"
    )
    substrate: names.Substrate = Field("carbide", description="cutting material")
    coating: names.Coating = Field("none", description="coating of the edge")
    intended_iso_groups: str = words("For groups")
    pitch: Literal["equal", "variable"] = Field("equal", description="spacing of the teeth")
    helix: Literal["equal", "variable"] = Field("equal", description="helix of the teeth")
    pitch_deg: tuple[Number, ...] | None = several(
        "deg", "angle from each tooth to the next", None, most=60, label="Pitch angles"
    )
    helix_deg: tuple[Number, ...] | None = several(
        "deg", "helix of each tooth, where they differ", None, most=60, label="Helix angles"
    )
    runout_um: float | None = number("um", "total indicator reading at the edge", None, ge=0, le=1000, symbol="TIR")
    wave_depth_mm: float | None = number("mm", "amplitude of a serrated edge", None, ge=0, le=5)
    wave_length_mm: float | None = number("mm", "wavelength of a serrated edge", None, ge=0.1, le=50)
    notch_depth_mm: float | None = number("mm", "depth of a chip splitter's notches", None, ge=0, le=10)
    notch_width_mm: float | None = number("mm", "width of a chip splitter's notches", None, ge=0.05, le=20)
    notch_spacing_mm: float | None = number("mm", "distance of the notches on one tooth", None, ge=0.1, le=100)
    rated_rpm: float | None = number("1/min", "highest speed the toolmaker allows", None, gt=0, label="Rated speed")
    price: float | None = number("money", "price of the tool, or of one set of edges", None, ge=0)
    edges: Whole = count("edges (or regrinds) that the price buys", 1, ge=1)
    insert_count: MaybeWhole = count("inserts in the body", None, ge=1)
    edges_per_insert: MaybeWhole = count("edges of one insert", None, ge=1, label="Edges an insert")
    insert_cost_cu: float | None = number("money", "price of one insert", None, ge=0, label="Insert price")
    notes: str = ""
    GROUPS: ClassVar = (
        ("", "id"),
        ("Cutting edge", "DC"),
        ("Lengths and shank", "LU"),
        ("Cutting material", "substrate"),
        ("Teeth", "pitch"),
        ("Limits and price", "rated_rpm"),
    )
    SHORT: ClassVar = ("name", "kind", "DC", "ZEFP", "RE", "APMX", "LU", "DMM", "OAL", "substrate", "coating")
    OF_KIND: ClassVar = {
        "tapered_ball": ("taper_deg",),
        "high_feed": ("KAPR", "tip_diameter_mm"),
        "chamfer": ("tip_angle_deg", "tip_diameter_mm", "chamfer_edge_mm"),
        "face": ("KAPR", "insert_count", "insert_cost_cu"),
        "serrated": ("wave_depth_mm", "wave_length_mm"),
        "chip_splitter": ("notch_depth_mm", "notch_width_mm", "notch_spacing_mm"),
    }
    ITS_OWN: ClassVar = frozenset(
        ("id", "DCX", "gullet_area_per_flute_mm2_hint", "price", "insert_cost_cu", "rated_rpm", "runout_um")
    )

    @model_validator(mode="before")
    @classmethod
    def _table_names(cls, raw: Any) -> Any:
        return names.renamed(raw, names.TOOL_COLUMNS)

    @field_validator("kind", mode="before")
    @classmethod
    def _kind(cls, value: Any) -> Any:
        return names.tool_kind(value)

    @field_validator("substrate", mode="before")
    @classmethod
    def _substrate(cls, value: Any) -> Any:
        return names.substrate(value)

    @field_validator("coating", mode="before")
    @classmethod
    def _coating(cls, value: Any) -> Any:
        return names.coating(value)

    @model_validator(mode="after")
    def _shape(self) -> Tool:
        if self.RE > self.DC / 2 + 1e-9:
            raise InputError(f"must be at most half of DC = {self.DC:g} mm, got {self.RE:g} mm", "RE")
        if self.DCX is not None and self.DCX < self.DC - 1e-9:
            raise InputError(f"must be at least DC = {self.DC:g} mm, got {self.DCX:g} mm", "DCX")
        if self.kind == "high_feed" and self.KAPR >= 60:
            raise InputError(f"of a high-feed tool must be below 60 deg, usually 10 to 20, got {self.KAPR:g}", "KAPR")
        if self.APMX > SLENDEREST * self.DC:
            raise InputError(
                f"must be at most {SLENDEREST:g} times DC = {self.DC:g} mm, got {self.APMX:g} mm; no mill is so slender",
                "APMX",
            )
        if self.LU is not None and self.OAL is not None and self.kind != "face" and self.LU > self.OAL:
            raise InputError(f"must be at most the overall length OAL = {self.OAL:g} mm, got {self.LU:g} mm", "LU")
        if self.tip_diameter_mm is not None and self.tip_diameter_mm > self.DC:
            raise InputError(f"must be at most DC = {self.DC:g} mm, got {self.tip_diameter_mm:g} mm", "tip_diameter_mm")
        if (self.kind == "tapered_ball") != (self.taper_deg is not None):
            told = (
                "is missing; a tapered ball needs its half angle"
                if self.kind == "tapered_ball"
                else "belongs to a tapered ball"
            )
            raise InputError(told, "taper_deg")
        self._check_pitch()
        self._check_helix()
        return self

    def _check_helix(self) -> None:
        if self.helix_deg is None:
            return
        if len(self.helix_deg) != self.ZEFP:
            raise InputError(
                f"needs one angle for each of the {self.ZEFP} flutes, got {len(self.helix_deg)}", "helix_deg"
            )
        if min(self.helix_deg) < 0 or max(self.helix_deg) >= 75:
            raise InputError("needs angles from 0 to below 75 deg", "helix_deg")

    def _check_pitch(self) -> None:
        if self.pitch_deg is None:
            return
        if len(self.pitch_deg) != self.ZEFP:
            raise InputError(
                f"needs one angle for each of the {self.ZEFP} flutes, got {len(self.pitch_deg)}", "pitch_deg"
            )
        if min(self.pitch_deg) <= 0 or abs(sum(self.pitch_deg) - 360) > 0.01:
            raise InputError(f"needs positive angles that add up to 360 deg, got {sum(self.pitch_deg):g}", "pitch_deg")

    @property
    def corner(self) -> float:
        """Radius of the round part of the edge [mm]: DC/2 for a ball, 0 for lead-angle and chamfer tools."""
        if self.is_ball:
            return self.DC / 2
        return 0.0 if self.kind in ("high_feed", "chamfer") else self.RE

    @property
    def is_ball(self) -> bool:
        """Whether its end is a ball of DC, on a cylinder or on a taper."""
        return self.kind in ("ball", "tapered_ball")

    @property
    def is_regular(self) -> bool:
        """Whether its teeth are alike: equal pitch and helix, as far as the row says."""
        return self.pitch_deg is None and self.helix_deg is None and "variable" not in (self.pitch, self.helix)

    @property
    def usable_length(self) -> float:
        """Depth that can be reached before the body touches the wall [mm]; APMX where LU is not given."""
        return self.LU if self.LU is not None else self.APMX

    @property
    def edge_depth(self) -> float:
        """Depth that the edge cuts [mm]: APMX, or less where a chamfer's edge is shorter."""
        if self.kind != "chamfer" or self.chamfer_edge_mm is None:
            return self.APMX
        return min(self.APMX, self.chamfer_edge_mm * math.cos(math.radians(self.half_angle)))

    @property
    def half_angle(self) -> float:
        """Angle of a chamfer's flank to its axis [deg]."""
        return self.tip_angle_deg / 2 if self.tip_angle_deg else 90.0 - self.KAPR

    @property
    def tip_diameter(self) -> float:
        """Diameter at the lowest point of a chamfer or high-feed tool [mm], DC for others."""
        if self.tip_diameter_mm is not None:
            return self.tip_diameter_mm
        if self.kind == "high_feed":
            return max(0.0, self.DC - 2 * self.APMX / math.tan(math.radians(self.KAPR)))
        if self.kind == "chamfer":
            return max(0.0, self.DC - 2 * self.APMX * math.tan(math.radians(self.half_angle)))
        return self.DC

    def diameter_at(self, height: float) -> float:
        """Diameter of the flank at a height over the tip [mm]: DC, wider on a taper, up to its shank."""
        if self.taper_deg is None:
            return self.DC
        a = math.radians(self.taper_deg)
        r = self.DC / 2
        wide = 2 * (r * math.cos(a) + max(height - r * (1 - math.sin(a)), 0.0) * math.tan(a))
        return min(max(wide, 0.0), max(self.widest, self.DC))

    @property
    def widest(self) -> float:
        """Greatest diameter of the tool [mm]: of its body, else of its shank."""
        return max(self.DC, self.DCX or self.DMM or self.DC)

    @property
    def core_ratio(self) -> float:
        """Geometric core over DC as far as bending goes: 0.66 where unknown, which bends like 0.8 DC (physics.md section 7)."""
        return self.core_dia_ratio if self.core_dia_ratio is not None else 0.66


class Holder(Record):
    """A tool holder kind with what it can carry."""

    id: str = words("Short name (id)")
    name: str = ""
    kind: names.HolderKind = Field(description="how the shank is held")
    clamping_principle: str = words("Clamps by")
    shank_requirement: str = words("Shank")
    grip_torque_nm: float | None = number("Nm", "torque the holder carries at this shank", None, gt=0)
    torque_d6_nm: float | None = number("Nm", "grip at 6 mm shank", None, gt=0, label="Grip at 6 mm")
    torque_d10_nm: float | None = number("Nm", "grip at 10 mm shank", None, gt=0, label="Grip at 10 mm")
    torque_d12_nm: float | None = number("Nm", "grip at 12 mm shank", None, gt=0, label="Grip at 12 mm")
    torque_d16_nm: float | None = number("Nm", "grip at 16 mm shank", None, gt=0, label="Grip at 16 mm")
    torque_d20_nm: float | None = number("Nm", "grip at 20 mm shank", None, gt=0, label="Grip at 20 mm")
    axial_security: str = ""
    pullout_force_d12_n_hint: float | None = number(
        "N", "upper guide of the pull-out force", None, gt=0, label="Pull-out guide"
    )
    radial_stiffness_rel: float = number(
        "1", "radial stiffness against a shrink-fit holder", 1.0, gt=0, le=10, label="Radial stiffness"
    )
    damping_rel: float = number("1", "damping against a plain holder", 1.0, gt=0, le=50, label="Damping")
    nose_d12_mm: float = number(
        "mm", "outer diameter at the face for a 12 mm shank", 34.0, ge=1, le=500, label="Nose at 12 mm"
    )
    nose_growth: float = number("1", "growth of that diameter with the shank", 1.0, ge=0, le=10)
    runout_3xd_typ_um: float | None = number("um", "usual runout at 3 x D", None, ge=0, label="Usual runout")
    runout_3xd_max_um: float | None = number("um", "largest runout at 3 x D", None, ge=0, label="Largest runout")
    balance_class: str = words("Balanced to")
    rpm_guide_max_40taper: float | None = number(
        "1/min", "guide for the highest speed", None, gt=0, label="Highest speed"
    )
    confidence: str = ""
    notes: str = ""
    GROUPS: ClassVar = (
        ("", "id"),
        ("Grip", "grip_torque_nm"),
        ("Stiffness and shape", "radial_stiffness_rel"),
        ("Runout and speed", "runout_3xd_typ_um"),
        ("Price and notes", "confidence"),
    )

    @model_validator(mode="before")
    @classmethod
    def _table_names(cls, raw: Any) -> Any:
        raw = names.renamed(raw, names.HOLDER_COLUMNS)
        if isinstance(raw, dict) and "kind" not in raw and "id" in raw:
            raw = {**raw, "kind": raw["id"]}  # the shipped table's id is the kind
        return raw

    @field_validator("kind", mode="before")
    @classmethod
    def _kind(cls, value: Any) -> Any:
        return names.holder_kind(value)


class Taper(Record):
    """A spindle nose: what it carries, and what moves with it (tapers.csv)."""

    id: str = ""
    name: str = ""
    gauge_diameter_mm: float = number("mm", "diameter at the gauge line", ge=1, le=500)
    projection_mm: float = number("mm", "usual distance from gauge line to holder face", ge=1, le=1000)
    moment_per_kn_mm: float = number("mm", "allowed bending moment over the drawbar's pull", gt=0)
    nose_mass_kg: float = number("kg", "mass of holder and spindle nose that moves with the tool", gt=0, le=1000)
    confidence: str = ""
    notes: str = ""


class Machine(Record):
    """A milling machine as the cut sees it."""

    id: str = words("Short name (id)")
    name: str = ""
    kind: str = ""
    rpm_min: float = number("1/min", "lowest spindle speed", 0.0, ge=0, label="Lowest speed")
    rpm_max: float = number("1/min", "highest spindle speed", gt=0, le=500000, label="Highest speed")
    power_s1_kw: float | None = number("kW", "continuous power", None, gt=0, label="Power S1")
    power_s6_40_kw: float | None = number("kW", "power at 40 % duty", None, gt=0, label="Power S6 40 %")
    torque_s1_max_nm: float | None = number("Nm", "highest continuous torque", None, gt=0, label="Torque S1")
    torque_s6_40_max_nm: float | None = number("Nm", "highest torque at 40 % duty", None, gt=0, label="Torque S6 40 %")
    base_speed_rpm: float | None = number("1/min", "speed from which the power is constant", None, gt=0)
    drive_efficiency: float = number("1", "power at the tool over power at the motor", 0.85, gt=0, le=1)
    idle_power_at_half_rpm_kw: float = number("kW", "idle power at half of rpm_max", 0.0, ge=0, label="Idle power")
    spindle_steps_rpm: tuple[Number, ...] = several("1/min", "the only speeds there are", most=500)
    taper: str = ""
    taper_moment_nm: float | None = number("Nm", "bending moment the builder allows at the gauge line", None, gt=0)
    drawbar_force_kn: float | None = number("kN", "pull of the drawbar", None, gt=0)
    spindle_radial_stiffness_n_um: float | None = number(
        "N/um", "radial stiffness at the spindle nose", None, ge=0.1, le=100000, label="Nose stiffness"
    )
    feed_max_x_mm_min: float | None = number("mm/min", "highest cutting feed in x", None, gt=0)
    feed_max_y_mm_min: float | None = number("mm/min", "highest cutting feed in y", None, gt=0)
    feed_max_z_mm_min: float | None = number("mm/min", "highest cutting feed in z", None, gt=0)
    feed_steps_mm_min: tuple[Number, ...] = several("mm/min", "the only feeds there are", most=500)
    rapid_x_mm_min: float | None = number("mm/min", "rapid in x", None, gt=0)
    rapid_y_mm_min: float | None = number("mm/min", "rapid in y", None, gt=0)
    rapid_z_mm_min: float | None = number("mm/min", "rapid in z", None, gt=0)
    accel_x_m_s2: float | None = number("m/s2", "acceleration in x", None, gt=0)
    accel_y_m_s2: float | None = number("m/s2", "acceleration in y", None, gt=0)
    accel_z_m_s2: float | None = number("m/s2", "acceleration in z", None, gt=0)
    jerk_x_m_s3: float | None = number("m/s3", "jerk in x", None, gt=0)
    jerk_y_m_s3: float | None = number("m/s3", "jerk in y", None, gt=0)
    jerk_z_m_s3: float | None = number("m/s3", "jerk in z", None, gt=0)
    axis_thrust_max_n: float | None = number("N", "continuous feed thrust", None, gt=0, label="Axis thrust")
    lookahead_blocks_s: float | None = number("1/s", "blocks per second", None, gt=0, label="Blocks a second")
    travel_x_mm: float | None = number("mm", "travel in x", None, gt=0)
    travel_y_mm: float | None = number("mm", "travel in y", None, gt=0)
    travel_z_mm: float | None = number("mm", "travel in z", None, gt=0)
    rotary: tuple[RotaryAxis, ...] = Field(
        (),
        description="rotary axes in order from the base, two or none",
        max_length=2,
        json_schema_extra={"label": "Rotary axes"},
    )
    reach_mm: float | None = number(
        "mm", "from the tool's tip to the pivot of a turning head", None, gt=0, label="Reach of the head"
    )
    untipped_feed: Literal["all_words", "linear"] = Field(
        "all_words",
        description="what F runs along where the tip is not followed: all words, a degree as a millimetre, or X Y Z alone",
        json_schema_extra={"label": "F, tip not followed"},
    )
    table_load_max_kg: float | None = number("kg", "load the table carries", None, gt=0, label="Table load")
    hourly_rate_cu: float | None = number("money/h", "machine rate", None, ge=0, label="Rate per hour")
    tool_change_s: float | None = number("s", "tool change time", None, ge=0)
    magazine_pockets: int | None = count(
        "tools that the magazine holds", None, ge=1, le=10_000, label="Magazine places"
    )
    chip_room_l: float | None = number(
        "l", "loose chips that it takes before somebody empties it", None, gt=0, label="Room for chips"
    )
    coolant_lasts_h: float | None = number(
        "h", "hours that the coolant lasts without topping up", None, gt=0, label="Coolant lasts"
    )
    coolant_options: str = ""
    data_url: str = words("Machine data, URL")
    confidence: str = ""
    notes: str = ""
    curve: Curve | None = Field(None, description="torque and power curve")
    curve_file: str = ""
    ELSEWHERE: ClassVar = frozenset({"curve", "curve_file"})
    GROUPS: ClassVar = (
        ("", "id"),
        ("Spindle", "rpm_min"),
        ("Nose and taper", "taper"),
        ("Axes", "feed_max_x_mm_min"),
        ("Rotary axes", "rotary"),
        ("Table and tools", "table_load_max_kg"),
        ("Cost and notes", "hourly_rate_cu"),
    )

    @model_validator(mode="before")
    @classmethod
    def _speed_of_the_curve(cls, raw: Any) -> Any:
        """Its curve goes as high as its figures say; a machine given by its curve alone turns as fast as that goes."""
        if not isinstance(raw, dict) or raw.get("curve") is None:
            return raw
        raw = agreed(raw)
        if raw.get("rpm_max") is not None:
            return raw
        return {**raw, "rpm_max": raw["curve"].duty["S1"].points[-1].speed_rpm}

    @field_validator("spindle_steps_rpm", "feed_steps_mm_min", mode="before")
    @classmethod
    def _steps(cls, value: Any) -> Any:
        if isinstance(value, str):
            try:
                value = [float(part) for part in value.split(";") if part.strip()]
            except ValueError:
                raise InputError(f"must be numbers separated by ';', got '{value}'") from None
        return value

    @field_validator("spindle_steps_rpm", "feed_steps_mm_min", mode="after")
    @classmethod
    def _positive(cls, steps: tuple[Number, ...]) -> tuple[Number, ...]:
        if any(step <= 0 for step in steps):
            raise InputError("must all be above 0")
        return tuple(sorted(steps))

    @field_validator("rotary", mode="before")
    @classmethod
    def _typed_axes(cls, value: Any) -> Any:
        """A table's cell holds them as text, one behind the other."""
        if isinstance(value, str):
            return tuple(rotary_of(part) for part in value.split(";") if part.strip())
        return value

    @model_validator(mode="after")
    def _axes_fit(self) -> Machine:
        checked(self.rotary, self.reach_mm)
        return self

    @model_validator(mode="after")
    def _power_known(self) -> Machine:
        if self.rpm_min >= self.rpm_max:
            raise InputError(f"must be below rpm_max = {self.rpm_max:g}, got {self.rpm_min:g}", "rpm_min")
        for short, lasting in (("power_s6_40_kw", "power_s1_kw"), ("torque_s6_40_max_nm", "torque_s1_max_nm")):
            least, given = getattr(self, lasting), getattr(self, short)
            if least is not None and given is not None and given < least * ROUNDED:
                raise InputError(
                    f"must be at least {lasting} = {least:g}: what it gives for a while, got {given:g}", short
                )
        return self

    def under(self, values: Mapping[str, Any]) -> dict[str, Any]:
        """Its fields with others written over them; a curve says how strong the spindle is, where no figure does beside it."""
        curve = values.get("curve")
        if curve is None:
            return super().under(values)
        own = rated(curve if isinstance(curve, Curve) else Curve.read(curve))
        return super().under({**{key: value for key, value in own.items() if getattr(self, key) is not None}, **values})

    @property
    def is_at_nose(self) -> bool:
        """Whether its curve tells what reaches the cutter, losses deducted, rather than what the motor gives."""
        return self.curve is not None and "nose" in self.curve.reference

    @property
    def feed_max(self) -> float | None:
        """The feed that both table axes hold [mm/min]."""
        known = [feed for feed in (self.feed_max_x_mm_min, self.feed_max_y_mm_min) if feed is not None]
        return min(known) if known else None


class Material(Record):
    """A workpiece material in one condition, with its force law."""

    id: str = words("Short name (id)")
    name: str = ""
    iso_group: str = Field("", description="letter after ISO 513", json_schema_extra={"label": "ISO 513 group"})
    iso_subgroup: str = words("ISO subgroup")
    data_group: str = Field("", description="group of the cutting data")
    vc_factor: float = number("1", "factor on the group's surface speed", 1.0, gt=0, label="Speed factor")
    en: str = words("EN name")
    aisi_uns: str = words("AISI, UNS")
    condition: str = ""
    hardness_hb_min: float | None = number("HB", "lower end of the hardness", None, gt=0, label="Hardness from")
    hardness_hb_max: float | None = number("HB", "upper end of the hardness", None, gt=0, label="Hardness to")
    hardness_hrc_typ: float | None = number("HRC", "typical hardness", None, gt=0, le=72, label="Hardness")
    uts_mpa_typ: float | None = number("MPa", "tensile strength", None, gt=0, label="Strength")
    kc11_n_mm2: float | None = number(
        "N/mm2", "specific cutting force at h = b = 1 mm", None, gt=0, label="Specific force", symbol="kc1.1"
    )
    mc: float | None = number(
        "1", "exponent of the chip thickness", None, ge=0, le=0.7, label="Chip exponent", symbol="mc"
    )
    kr_ratio: float = number("1", "radial over tangential force", 0.4, ge=0, label="Radial share")
    ka_ratio: float = number("1", "axial over tangential force at 30 deg helix", 0.27, ge=0, label="Axial share")
    kc_hardness_exp: float = number("1", "exponent of the hardness correction", 0.0, ge=0, le=5, label="Hardness exp.")
    rake_ref_deg: float = number("deg", "rake to which the coefficients belong", 6.0, label="Reference rake")
    edge_force_n_mm: float | None = number("N/mm", "edge force of the linear law", None, ge=0)
    process_damping_n_m: float | None = number(
        "N/m",
        "damping of the rubbing flank over depth and speed (Ci), 0 for none; none with linear coefficients",
        None,
        ge=0,
        label="Damping",
        symbol="Ci",
    )
    Ktc_n_mm2: float | None = number(
        "N/mm2", "tangential cutting coefficient of the linear law", None, gt=0, label="Tangential", symbol="Ktc"
    )
    Krc_n_mm2: float | None = number("N/mm2", "radial cutting coefficient", None, ge=0, label="Radial", symbol="Krc")
    Kac_n_mm2: float | None = number("N/mm2", "axial cutting coefficient", None, label="Axial", symbol="Kac")
    Kte_n_mm: float | None = number(
        "N/mm", "tangential edge coefficient", None, ge=0, label="Tangential edge", symbol="Kte"
    )
    Kre_n_mm: float | None = number("N/mm", "radial edge coefficient", None, ge=0, label="Radial edge", symbol="Kre")
    Kae_n_mm: float | None = number("N/mm", "axial edge coefficient", None, label="Axial edge", symbol="Kae")
    min_chip_thickness_um_ref: float | None = number(
        "um", "least chip at 10 um edge radius", None, gt=0, label="Least chip"
    )
    chip_form: Literal["long", "segmented", "short", "powder"] = "segmented"
    built_up_edge_tendency: Whole = count("0 none to 3 strong", 0, ge=0, le=3, label="Built-up edge")
    work_hardening_tendency: Whole = count("0 none to 3 strong", 0, ge=0, le=3, label="Work hardening")
    abrasiveness: Whole = count("0 none to 3 strong", 0, ge=0, le=3)
    fire_hazard: Literal["none", "chips", "severe"] = "none"
    density_kg_m3: float | None = number("kg/m3", "density", None, gt=0)
    thermal_cond_w_mk: float | None = number("W/(m K)", "thermal conductivity", None, gt=0, label="Conductivity")
    specific_heat_j_kgk: float | None = number("J/(kg K)", "specific heat", None, gt=0)
    melting_or_solidus_c: float | None = number("C", "melting or solidus temperature", None, label="Melts at")
    confidence: str = ""
    source_note: str = ""
    GROUPS: ClassVar = (
        ("", "id"),
        ("Hardness and strength", "hardness_hb_min"),
        ("Cutting force", "kc11_n_mm2"),
        ("Chip and edge", "min_chip_thickness_um_ref"),
        ("Heat and weight", "density_kg_m3"),
        ("Source", "confidence"),
    )

    @model_validator(mode="after")
    def _force_law(self) -> Material:
        kienzle = self.kc11_n_mm2 is not None and self.mc is not None
        if not kienzle and self.Ktc_n_mm2 is None:
            raise InputError("is missing; give kc11_n_mm2 with mc, or the linear Ktc_n_mm2", "kc11_n_mm2")
        return self

    @property
    def hb_mid(self) -> float | None:
        """Middle of the tabled hardness range [HB]."""
        if self.hardness_hb_min is None or self.hardness_hb_max is None:
            return None
        return (self.hardness_hb_min + self.hardness_hb_max) / 2


#: the chip of high feed is thin all along a flat edge, so the thickest may be so many times that of an end mill
FLAT_EDGE_CHIP = 1.5


class CuttingData(Record):
    """Starting values of one material group with one substrate (cutting-data-baseline.csv)."""

    data_group: str
    substrate: str
    group_name: str
    iso_group: str
    recommended: Literal["yes", "poor", "no"]
    ref_ae_over_d: float = number(
        "1", "stepover over DC at which the row holds", gt=0, le=1, label="Holds at", symbol="ae/DC"
    )
    ref_ap_over_d: float = number(
        "1", "depth over DC at which the row holds", gt=0, le=20, label="Holds at", symbol="ap/DC"
    )
    vc_low_m_min: float | None = number(
        "m/min", "lowest usual surface speed", None, gt=0, le=10000, label="Speed from", symbol="vc"
    )
    vc_typ_m_min: float | None = number(
        "m/min", "typical surface speed", None, gt=0, le=10000, label="Speed typical", symbol="vc"
    )
    vc_high_m_min: float | None = number(
        "m/min", "highest usual surface speed", None, gt=0, le=10000, label="Speed to", symbol="vc"
    )
    taylor_n: float | None = number(
        "1", "exponent of the speed in the edge life", None, gt=0.01, lt=1, label="Speed exponent", symbol="n"
    )
    taylor_feed_exp: float | None = number(
        "1", "exponent of the chip in the edge life", None, ge=0, le=3, label="Chip exponent"
    )
    ref_life_min: float | None = number(
        "min", "edge life at the typical speed and chip", None, gt=0, le=10000, label="Edge life"
    )
    life_end_over_ref: float | None = number(
        "1",
        "abrasion and chance end an edge after so many times that life, however slowly it runs",
        None,
        ge=1,
        le=100,
        label="Ends after, times",
    )
    vc_mult_slot: float | None = number(
        "1", "speed in a slot over that at half engagement", None, gt=0, le=10, label="In slots, times", symbol="vc"
    )
    vc_mult_light: float | None = number(
        "1",
        "speed of light radial cuts over that at half engagement",
        None,
        gt=0,
        le=10,
        label="Light, times",
        symbol="vc",
    )
    vc_mult_finish: float | None = number(
        "1",
        "speed of the lightest passes, ae ap to 0.004 DC2, over that by their stepover",
        None,
        ge=1,
        le=10,
        label="Finishing, times",
        symbol="vc",
    )
    vc_thin_share: float | None = number(
        "1",
        "share that stays of what steps under a tenth of DC gain in speed over light cuts",
        None,
        ge=0,
        le=1,
        label="Thinner, share",
        symbol="vc",
    )
    vc_mult_highfeed: float | None = number(
        "1", "speed of high feed over that at half engagement", None, gt=0, le=10, label="High feed, times", symbol="vc"
    )
    hex_low_d10_mm: float | None = number(
        "mm", "thinnest usual chip at 10 mm diameter", None, gt=0, le=10, label="Chip from", symbol="hex"
    )
    hex_typ_d10_mm: float | None = number(
        "mm", "typical thickest chip at 10 mm diameter", None, gt=0, le=10, label="Chip typical", symbol="hex"
    )
    hex_high_d10_mm: float | None = number(
        "mm", "thickest usual chip at 10 mm diameter", None, gt=0, le=10, label="Chip to", symbol="hex"
    )
    hex_diameter_exp: float | None = number(
        "1", "exponent of the diameter in the chip", None, ge=0, le=2, label="Diameter exponent"
    )
    hex_min_rubbing_mm: float | None = number(
        "mm", "chip below which the edge rubs", None, gt=0, le=1, label="Rubs below"
    )
    slot_ap_max_over_d: float | None = number(
        "1", "deepest slot over DC", None, gt=0, le=20, label="Slot depth to", symbol="ap"
    )
    heavy_ae_min_over_d: float | None = number(
        "1", "least stepover of heavy radial cuts over DC", None, gt=0, le=1, label="Heavy from", symbol="ae"
    )
    heavy_ae_max_over_d: float | None = number(
        "1", "largest stepover of heavy radial cuts over DC", None, gt=0, le=1, label="Heavy to", symbol="ae"
    )
    heavy_ap_max_over_d: float | None = number(
        "1", "deepest heavy radial cut over DC", None, gt=0, le=20, label="Heavy depth to", symbol="ap"
    )
    light_ae_min_over_d: float | None = number(
        "1", "least stepover of light radial cuts over DC", None, gt=0, le=1, label="Light from", symbol="ae"
    )
    light_ae_max_over_d: float | None = number(
        "1", "largest stepover of light radial cuts over DC", None, gt=0, le=1, label="Light to", symbol="ae"
    )
    light_ap_max_over_d: float | None = number(
        "1", "deepest light radial cut over DC", None, gt=0, le=20, label="Light depth to", symbol="ap"
    )
    troch_ae_min_over_d: float | None = number(
        "1", "least stepover of loops over DC", None, gt=0, le=1, label="Loops from", symbol="ae"
    )
    troch_ae_max_over_d: float | None = number(
        "1", "largest stepover of loops over DC", None, gt=0, le=1, label="Loops to", symbol="ae"
    )
    troch_ap_max_over_d: float | None = number(
        "1", "deepest loops over DC", None, gt=0, le=20, label="Loops depth to", symbol="ap"
    )
    highfeed_ap_min_over_dc: float | None = number(
        "1", "least depth of high feed over DC", None, gt=0, le=1, label="Depth from", symbol="ap"
    )
    highfeed_ap_max_over_dc: float | None = number(
        "1", "largest depth of high feed over DC", None, gt=0, le=1, label="Depth to", symbol="ap"
    )
    highfeed_fz_mult_min: float | None = number(
        "1",
        "least feed of high feed over that of an end mill",
        None,
        gt=0,
        le=50,
        label="Feed from, times",
        symbol="fz",
    )
    highfeed_fz_mult_max: float | None = number(
        "1",
        "largest feed of high feed over that of an end mill",
        None,
        gt=0,
        le=50,
        label="Feed to, times",
        symbol="fz",
    )
    coolant_rank: str = ""
    coolant_avoid: str = ""
    coolant_reason: str = ""
    confidence: str = ""
    source_note: str = ""
    GROUPS: ClassVar = (
        ("", "data_group"),
        ("Speed and life", "vc_low_m_min"),
        ("Chip", "hex_low_d10_mm"),
        ("Depth and stepover over DC", "slot_ap_max_over_d"),
        ("High feed", "highfeed_ap_min_over_dc"),
        ("Cooling and source", "coolant_rank"),
    )

    @model_validator(mode="before")
    @classmethod
    def _table_names(cls, raw: Any) -> Any:
        return names.renamed(raw, names.DATA_COLUMNS)

    @property
    def cooled_best_by(self) -> str:
        """The cooling medium that the table ranks first, as it names it; empty where it ranks none."""
        return self.coolant_rank.split(">")[0].strip()

    @property
    def avoided(self) -> tuple[str, ...]:
        """Cooling media that are to be avoided, as the table names them."""
        return tuple(name.strip() for name in self.coolant_avoid.split(";") if name.strip())

    def hex_at(self, level: Literal["low", "typ", "high"], tool: Tool) -> float | None:
        """Thickest chip for a tool [mm]: ``hex_d10 (DC/10)^exp`` for DC = 3 to 20 mm, half as much again along a flat edge of high feed."""
        base = {"low": self.hex_low_d10_mm, "typ": self.hex_typ_d10_mm, "high": self.hex_high_d10_mm}[level]
        if base is None:
            return None
        d = min(max(tool.DC, 3.0), 20.0)
        flat = FLAT_EDGE_CHIP if tool.kind == "high_feed" else 1.0
        return float(base * (d / 10.0) ** (self.hex_diameter_exp or 0.0) * flat)
