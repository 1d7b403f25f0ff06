"""What is decided for a surface, in this order: the angle of its lines, whether and where steep is parted from shallow, how far lines and
levels lie apart, and which way suits each region. Each with its figure, its price and its reason."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.library_records import Tool
from lesna.model.resolve import CutParts
from lesna.model.work import STEADY, Pulse
from lesna.physics import Array
from lesna.planning.cut.features import cusp_kept
from lesna.planning.cut.levels import skin_of
from lesna.planning.surface.part import Part
from lesna.surface.drops import Shape, rounded, tapered
from lesna.surface.faces import Faces, only
from lesna.surface.lead import Lead, least_lead
from lesna.surface.spacing import (
    ANGLES,
    LEVELS_LEAVE,
    LINES_LEAVE,
    Field,
    allowed_any,
    field_of,
    fits,
    hollows,
    least_of,
)
from lesna.surface.threshold import LEAST, Split, split_of
from lesna.surface.tips import sides_of, within

Way = Literal["auto", "lines", "rings", "contours"]
#: lines that keep so much of the spacing on flat ground need no help, and a split has to save so much [-]
_KEEPS, _SAVES = 0.6, 0.9
#: rings turn and lift less, but their chords are short: they have to save so much [-]
_RINGS = 0.85
#: slopes beyond which neither lines nor rings lie well [deg], and the share of the area that may be steeper [-]
_TOO_STEEP, _LITTLE = 78.0, 0.002
#: length of the overlap over the stepover, and at least [mm]
_OVERLAP, _OVERLAP_LEAST = 2.0, 0.5
#: a tool that does not fit into so much of the area fits nowhere: triangles at a border say less of a hollow than it is [-]
_NOWHERE = 0.9
#: a threshold lies between these [deg]
_LOWEST, _HIGHEST = 1.0, 89.0
#: kinds of tools that finish a surface
KINDS = ("ball", "tapered_ball", "corner_radius", "square")


@dataclass(frozen=True)
class Wanted:
    """What was asked for; None where Lesna decides.

    Attributes
    ----------
    threshold : float or None
        Slope from which levels serve [deg].
    lines : float or None
        Angle of the lines to x [deg].
    cusp : float or None
        Height that may stay [mm]; the feature's own where None.
    overlap : float or None
        How far both regions reach into each other [mm].
    way : str
        ``auto``, ``lines``, ``rings`` or ``contours``.
    """

    threshold: float | None = None
    lines: float | None = None
    cusp: float | None = None
    overlap: float | None = None
    way: Way = "auto"


#: nothing was asked for
DECIDED = Wanted()


@dataclass(frozen=True)
class OfFace:
    """What is known of one face.

    Attributes
    ----------
    area : float
        [mm2].
    slopes : tuple of float
        Least, median and greatest [deg].
    angle, stepover, worst : float
        Best angle of lines [deg], the stepover that it allows and the one at the worst angle [mm].
    any_way : float
        Distance of tips that it allows whichever way the feed runs [mm].
    is_split : bool
        Whether the threshold cuts it in two.
    """

    area: float
    slopes: tuple[float, float, float]
    angle: float
    stepover: float
    worst: float
    any_way: float
    is_split: bool


@dataclass(frozen=True)
class Choice:
    """One way over the part.

    Attributes
    ----------
    id : str
        ``lines``, ``rings``, ``split``, ``split_rings`` or ``contours``.
    title : str
        What it is called.
    length : float
        Of its path on the surface [mm]; infinite where it does not suit.
    reason : str
        Why it suits or not.
    """

    id: str
    title: str
    length: float
    reason: str

    @property
    def threshold_counts(self) -> bool:
        """Whether levels serve what is steep."""
        return self.id in ("split", "split_rings", "contours")

    @property
    def has_rings(self) -> bool:
        """Whether rings serve what is shallow."""
        return self.id in ("rings", "split_rings")


@dataclass(frozen=True)
class Decision:
    """All that is decided before a path is made.

    Attributes
    ----------
    part : Part
        What is finished.
    shape : Shape
        The end of the tool.
    cusp, skin : float
        What may stay, and what lies on it [mm].
    flat : float
        Stepover on flat ground [mm].
    ground_faces : Faces
        The faces of what the tool reaches inside the bounds.
    faces : tuple of OfFace
        What is known of each, largest first.
    angle, stepover, worst : float
        Best angle of lines over what lines serve [deg], its stepover, and the one at the worst angle [mm].
    every_angle : array (n, 2)
        Angles and the stepover of each [deg], [mm].
    split : Split
        The price of every threshold.
    threshold : float or None
        The one that counts [deg]: typed, else suggested; None where nothing is steep, or nothing shallow.
    typed : bool
        Whether somebody typed it.
    choices : tuple of Choice
        All ways, the chosen one first.
    overlap : float
        [mm].
    down : tuple of float
        Least and greatest step-down of the levels [mm]; zeros without levels.
    lines_field, levels_field : Field
        What each triangle allows.
    any_way : array (m,)
        Distance of tips whichever way the feed runs [mm].
    sets_it : tuple of (int, float)
        The face that sets the stepover, and the stepover without it [mm].
    unfit : float
        Share of the area into which the tool does not fit [-].
    hollow : float
        Smallest hollow radius [mm].
    lead : Lead
        The least lead of a tilted set-up.
    """

    part: Part
    shape: Shape
    cusp: float
    skin: float
    flat: float
    ground_faces: Faces
    faces: tuple[OfFace, ...]
    angle: float
    stepover: float
    worst: float
    every_angle: Array
    split: Split
    threshold: float | None
    typed: bool
    choices: tuple[Choice, ...]
    overlap: float
    down: tuple[float, float]
    lines_field: Field
    levels_field: Field
    any_way: Array
    sets_it: tuple[int, float]
    unfit: float
    hollow: float
    lead: Lead

    @property
    def chosen(self) -> Choice:
        """The way that is taken."""
        return self.choices[0]

    @property
    def served_by_levels(self) -> float | None:
        """Slope from which levels serve in the chosen way [deg]; None: nowhere."""
        return self.threshold if self.chosen.threshold_counts else None


def shape_of(tool: Tool) -> Shape:
    """The end of a tool that finishes surfaces."""
    if tool.kind not in KINDS:
        raise InputError(
            f"a {tool.kind.replace('_', ' ')} tool finishes no surface; take a ball, a corner radius or a square end",
            "tool.kind",
        )
    if tool.taper_deg is not None:
        return tapered(tool.DC, tool.taper_deg, tool.widest)
    return rounded(tool.DC, tool.corner)


def decide(parts: CutParts, part: Part, wanted: Wanted = DECIDED, pulse: Pulse = STEADY) -> Decision:
    """Decides how a surface is finished.

    Parameters
    ----------
    parts : CutParts
        The cut with its tool.
    part : Part
        The part.
    wanted : Wanted
        What was asked for.
    pulse : Pulse
        Told what is done.

    Raises
    ------
    InputError
        With the field: a tool that fits nowhere, a threshold or a cusp that cannot be.
    """
    feature = parts.cut.feature
    assert feature is not None  # a part was read from it
    shape = shape_of(parts.tool)
    cusp = wanted.cusp if wanted.cusp is not None else cusp_kept(feature)
    _check(wanted, cusp, shape)
    pulse.begin("telling faces apart")
    faces = only(part.faces, within(part.faces, shape, part.area))
    pulse.check()
    mesh, up = part.mesh, faces.of >= 0
    good = fits(faces, shape) & up
    unfit = float(mesh.areas[up & ~good].sum() / mesh.areas[up].sum())
    hollow, where = hollows(faces)
    hollow = hollow if hollow < 2 * mesh.diagonal else float("inf")
    if not good.any() or unfit > _NOWHERE:
        x, y, z = mesh.triangles[where].mean(axis=0).tolist()
        at = units.place((x, y, z))
        why = (
            f"the smallest hollow radius of the part is {units.LENGTH.mark(hollow)} at {at}"
            if np.isfinite(hollow)
            else "all of it is steeper than its flank"
        )
        raise InputError(
            f"the tool of {units.DIMENSION.mark(parts.tool.DC)} fits nowhere: {why}",
            "tool.DC",
        )
    pulse.begin("spacing")
    fields = []
    for angle in ANGLES if wanted.lines is None else np.array([wanted.lines]):
        fields.append(field_of(faces, shape, cusp, float(angle)))
        pulse.check()
    angles = ANGLES if wanted.lines is None else np.array([float(wanted.lines)])
    levels = field_of(faces, shape, cusp, None)
    any_way = allowed_any(faces, shape, cusp)
    plan_areas = mesh.areas * np.maximum(mesh.normals[:, 2], 1e-3)
    whole = [least_of(f.plan[good], plan_areas[good], LINES_LEAVE) for f in fields]
    pulse.begin("weighing thresholds")
    split = split_of(faces, fields[int(np.argmax(whole))], levels)
    threshold = wanted.threshold if wanted.threshold is not None else split.suggested
    if wanted.way == "contours" and wanted.threshold is None:
        threshold = float(LEAST)
    steep, cut = sides_of(faces, threshold)
    flat = (
        float(2.0 * np.sqrt(max(cusp * (2 * shape.r - cusp), 0.0)))
        if shape.rm == 0
        else float(least_of(any_way[good & (mesh.slopes < 0.01)], plan_areas[good & (mesh.slopes < 0.01)], 0.5))
    )
    if not np.isfinite(flat) or flat <= 0:
        flat = max(*whole, 1e-6)
    shallow = good & ~steep
    per_shallow = [
        least_of(f.plan[shallow], plan_areas[shallow], LINES_LEAVE) if shallow.any() else max(whole) for f in fields
    ]
    choices = _choices(faces, wanted, good, steep, fields, whole, per_shallow, levels, any_way, flat, threshold)
    serves = shallow if choices[0].threshold_counts else good
    stepovers = per_shallow if choices[0].threshold_counts else whole
    best = int(np.argmax(stepovers))
    pulse.check()
    lead = least_lead(faces)
    overlap = wanted.overlap if wanted.overlap is not None else max(_OVERLAP * stepovers[best], _OVERLAP_LEAST)
    return Decision(
        part=part, shape=shape, cusp=cusp, skin=skin_of(feature), flat=flat,
        ground_faces=faces, faces=_faces(faces, good, plan_areas, angles, fields, any_way, set(cut.tolist())),
        angle=float(angles[best]), stepover=float(stepovers[best]), worst=float(min(stepovers)),
        every_angle=np.column_stack((angles, stepovers)), split=split, threshold=threshold, typed=wanted.threshold is not None,
        choices=choices, overlap=float(overlap), down=_downs(
            part, levels, good & steep, bool(choices[0].threshold_counts)),
        lines_field=fields[best], levels_field=levels, any_way=any_way,
        sets_it=_sets_it(faces, serves, fields[best], plan_areas), unfit=unfit, hollow=hollow, lead=lead,
    )  # fmt: skip


def _check(wanted: Wanted, cusp: float, shape: Shape) -> None:
    if wanted.threshold is not None and not _LOWEST <= wanted.threshold <= _HIGHEST:
        raise InputError(
            f"must lie between {_LOWEST:g} and {_HIGHEST:g} deg, got {wanted.threshold:g}: at 0 nothing is shallow, at 90 nothing steep",
            "threshold",
        )
    if wanted.lines is not None and not 0 <= wanted.lines < 180:
        raise InputError(f"must be at least 0 and below 180 deg, got {wanted.lines:g}", "lines")
    if not 0.0001 <= cusp <= 1.0:
        raise InputError(f"must lie between 0.1 and 1000 um, got {1000 * cusp:g}", "cusp")
    if shape.r > 0 and cusp > 0.5 * shape.r:
        raise InputError(f"must be below half of the tool's corner of {units.LENGTH.mark(shape.r)}", "cusp")
    if wanted.overlap is not None and not 0 <= wanted.overlap <= 50:
        raise InputError(f"must lie between 0 and 50 mm, got {wanted.overlap:g}", "overlap")


def _length(areas: Array, spacing: float) -> float:
    return float(areas.sum() / spacing) if spacing > 1e-6 else float("inf")


def _choices(
    faces: Faces, wanted: Wanted, good: Array, steep: Array, fields: list[Field], whole: list[float], per_shallow: list[float],
    levels: Field, any_way: Array, flat: float, threshold: float | None,
) -> tuple[Choice, ...]:  # fmt: skip
    """Every way with its length and reason, the one to take first."""
    mesh = faces.mesh
    areas = mesh.areas
    up = faces.of >= 0
    upright = float(areas[up & (mesh.slopes > np.radians(_TOO_STEEP))].sum() / areas[up].sum())
    best, at = int(np.argmax(whole)), int(np.argmax(per_shallow))
    keeps = whole[best] / flat

    def lined(which: Array, field: Field, e: float) -> float:
        """Length of lines: their distance along the surface is the stepover over what it shrinks to from above."""
        shrinks = np.where(field.along > 0, field.plan / np.maximum(field.along, 1e-12), 1.0)
        return float((areas[which] * shrinks[which]).sum() / max(e, 1e-9)) if e > 1e-6 else float("inf")

    def ringed(which: Array) -> float:
        allowed = any_way[which]
        least = np.maximum(allowed, 0.3 * np.median(allowed) if len(allowed) else 1.0)
        return float((areas[which] / np.maximum(least, 1e-6)).sum())

    served = good & steep
    levelled = 0.0
    if served.any():
        dz = least_of(levels.down[served], areas[served], LEVELS_LEAVE)
        levelled = _length(areas[served] * np.sin(mesh.slopes[served]), 1.5 * dz)
    too_steep = upright > _LITTLE
    no = float("inf")
    lines = lined(good, fields[best], whole[best])
    rings = ringed(good)
    shallow = good & ~steep
    told = f"{100 * upright:.1f} % of it is steeper than {_TOO_STEEP:g}°"
    found = {
        "lines": Choice("lines", "lines over all", no if too_steep else lines,
                        told if too_steep else f"lines keep {100 * keeps:.0f} % of the stepover on flat ground"),
        "rings": Choice("rings", "rings over all", no if too_steep else rings,
                        told if too_steep else "each ring as far from the next as its own place allows"),
    }  # fmt: skip
    if threshold is not None:
        parted = lined(shallow, fields[at], per_shallow[at]) + levelled if shallow.any() else levelled
        found["split"] = Choice("split", "lines and contours", parted, f"levels from {threshold:g}° on")
        found["split_rings"] = Choice(
            "split_rings", "rings and contours", ringed(shallow) + levelled, f"levels from {threshold:g}° on"
        )
        found["contours"] = Choice("contours", "contours", parted, f"levels from {threshold:g}° on, lines below")
    order = _order(found, wanted, keeps)
    return tuple(found[key] for key in order)


def _order(found: dict[str, Choice], wanted: Wanted, keeps: float) -> list[str]:
    split = "split" in found and (wanted.threshold is not None or np.isinf(found["lines"].length))
    if wanted.way == "contours":
        if "contours" not in found:
            raise InputError("nothing of the part is steep enough for contours; take lines or rings", "way")
        first = "contours"
    elif wanted.way == "lines":
        shorter = "split" in found and found["split"].length < _SAVES * found["lines"].length and keeps < _KEEPS
        first = "split" if split or shorter else "lines"
    elif wanted.way == "rings":
        first = "split_rings" if split or (np.isinf(found["rings"].length) and "split_rings" in found) else "rings"
    else:
        plain = "split" if split else "lines"
        if (
            plain == "lines"
            and "split" in found
            and keeps < _KEEPS
            and found["split"].length < _SAVES * found["lines"].length
        ):
            plain = "split"
        ringed = "split_rings" if split or plain == "split" else "rings"
        first = plain
        if ringed in found and found[ringed].length < _RINGS * found[plain].length:
            first = ringed
    rest = sorted((key for key in found if key not in (first, "contours")), key=lambda key: found[key].length)
    return [first, *rest]


def _faces(
    faces: Faces, good: Array, plan_areas: Array, angles: Array, fields: list[Field], any_way: Array, cut: set[int]
) -> tuple[OfFace, ...]:
    out = []
    order = np.argsort(faces.of, kind="stable")
    begins = np.searchsorted(faces.of[order], np.arange(faces.count + 1))
    for k in range(faces.count):
        own = order[begins[k] : begins[k + 1]]
        own = own[good[own]] if good[own].any() else own
        allowed = [least_of(f.plan[own], plan_areas[own], LINES_LEAVE) for f in fields]
        best = int(np.argmax(allowed))
        out.append(
            OfFace(float(faces.areas[k]), faces.slopes(k), float(angles[best]), allowed[best], min(allowed),
                   least_of(any_way[own], plan_areas[own], LINES_LEAVE), k in cut)
        )  # fmt: skip
    return tuple(out)


def _downs(part: Part, levels: Field, served: Array, counts: bool) -> tuple[float, float]:
    """Least and greatest step-down over bands of height."""
    if not counts or not served.any():
        return 0.0, 0.0
    which = np.flatnonzero(served)
    areas = part.mesh.areas[which]
    down = levels.down[which]
    order = np.argsort(down)
    gone = np.cumsum(np.minimum(areas, 0.01 * areas.sum())[order])
    low, high = (
        float(down[order][min(int(np.searchsorted(gone, q * gone[-1])), len(order) - 1)]) for q in (LEVELS_LEAVE, 0.9)
    )
    return low, high


def _sets_it(faces: Faces, serves: Array, field: Field, plan_areas: Array) -> tuple[int, float]:
    """The face whose places allow least, and the stepover of the others."""
    if not serves.any():
        return 0, 0.0
    least = least_of(field.plan[serves], plan_areas[serves], LINES_LEAVE)
    tight = serves & (field.plan <= least * (1 + 1e-9))
    face = int(np.bincount(faces.of[tight], plan_areas[tight]).argmax())
    rest = serves & (faces.of != face)
    return face, least_of(field.plan[rest], plan_areas[rest], LINES_LEAVE) if rest.any() else least
