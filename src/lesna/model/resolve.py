"""From what a document says (an id, an object, an object on top of an id) to whole records."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from lesna.model import names
from lesna.model.base import Record, Reference, nearest
from lesna.model.errors import InputError
from lesna.model.job import Batch, Cut, Job, Workpiece
from lesna.model.kept import Shelf, over
from lesna.model.lesson import Lesson
from lesna.model.library_records import SLENDEREST, CuttingData, Holder, Machine, Material, Taper, Tool
from lesna.model.standard import Standard

R = TypeVar("R", bound=Record)

__all__ = ["CutParts", "Shelf", "all_parts", "check_fit", "holder_of", "machine_of", "material_of", "parts_of", "parts_with",
           "taper_of", "tool_of"]  # fmt: skip


@dataclass(frozen=True)
class CutParts:
    """All that the computation of one cut depends on, and nothing else: equal parts give equal answers.

    Attributes
    ----------
    cut : Cut
        What is set.
    tool, holder, machine, material : Record
        Whole records of what the cut and its job name.
    data : CuttingData or None
        Row of the cutting data for this edge in this material.
    taper : Taper or None
        The spindle nose.
    workpiece : Workpiece
        Hardness, mass and clamping of the part.
    batch : Batch
        Parts, rate and times.
    other_use : str
        Name of a cut of the job that uses the same tool for the other kind of work, roughing or finishing.
    lesson : Lesson or None
        What the shop's own trials taught of this set-up; None where they say nothing, or nobody has asked them yet.
    standard : Standard or None
        The shop's least removal for such a cut.
    """

    cut: Cut
    tool: Tool
    holder: Holder
    machine: Machine
    material: Material
    data: CuttingData | None
    taper: Taper | None
    workpiece: Workpiece
    batch: Batch
    other_use: str = ""
    lesson: Lesson | None = None
    standard: Standard | None = None

    def __hash__(self) -> int:
        # a few values tell most parts apart; equality looks at all of them
        cut = self.cut
        return hash((cut.id, cut.ae_mm, cut.ap_mm, cut.vc_m_min, cut.n_rpm, cut.hex_mm, cut.stick_out_mm, self.tool.id))

    def with_cut(self, **values: Any) -> CutParts:
        """The same parts with values of the cut replaced, unchecked."""
        return replace(self, cut=self.cut.model_copy(update=values))

    def on_machine(self, machine: Machine, shelf: Shelf) -> CutParts:
        """The same cut on another machine."""
        return _taught(replace(self, machine=machine, taper=taper_of(machine, shelf), lesson=None), shelf)

    def over_engagement(self) -> CutParts:
        """What a map over stepover and depth depends on: all but these two (where they are not held), names and the count of parts."""
        cut = self.cut
        free: dict[str, Any] = {"id": "", "name": "", "ae_mm": self.tool.DC, "ap_mm": min(self.tool.DC, self.tool.APMX)}
        return replace(
            self.with_cut(**{key: value for key, value in free.items() if key not in cut.locks}),
            batch=Batch(parts=1, machine_rate_per_h=self.batch.machine_rate_per_h, tool_change_min=self.batch.tool_change_min),
            other_use="",
        )  # fmt: skip

    def on_its_way(self) -> CutParts:
        """What the time by a program depends on: speed, feed and engagement are the program's own, whatever is typed for the cut."""
        cut = self.cut
        bare = Cut.model_construct(
            id="", name="", tool=cut.tool, holder=cut.holder, ae_mm=self.tool.DC, ap_mm=self.tool.APMX,
            stick_out_mm=cut.stick_out_mm, feature=cut.feature,
        )  # fmt: skip
        return replace(self, cut=bare, data=None, batch=Batch(parts=1), other_use="", lesson=None, standard=None)


#: how a taper that lies on its face as well is spelled, by a machine and in the table
_FACE_CONTACT, _FACED = "face contact", "-face"


def taper_of(machine: Machine, shelf: Shelf) -> Taper | None:
    """The spindle nose whose id begins the machine's taper designation, with face contact where it has that; None where not known."""
    named = [key for key in shelf.tapers if machine.taper.startswith(key.removesuffix(_FACED))]
    wanted = [key for key in named if key.endswith(_FACED) == (_FACE_CONTACT in machine.taper)] or named
    return shelf.tapers[wanted[0]] if wanted else None


def tool_of(cut: Cut, shelf: Shelf) -> Tool:
    """The cut's tool as a whole record (InputError names the field that is missing or unknown)."""
    return _whole(cut.tool, Tool, shelf.tools, "tool")


def holder_of(cut: Cut, shelf: Shelf) -> Holder:
    """The cut's holder; a kind, bare or as the id, stands on the shipped row of that kind."""
    written = cut.holder.written()
    name = written.get("id", written.get("kind", ""))
    if name in names.HOLDER_ROWS and ("id" not in written or name not in shelf.holders):
        row = shelf.holders[names.HOLDER_ROWS[name]]
        return row.with_values(**{**written, "id": row.id})
    return _whole(cut.holder, Holder, shelf.holders, "holder")


def machine_of(job: Job, shelf: Shelf) -> Machine:
    """The job's machine as a whole record."""
    machine = _whole(job.machine, Machine, shelf.machines, "machine")
    if machine.curve is None and machine.power_s1_kw is None:
        raise InputError("is missing; a machine needs a curve, or power_s1_kw", "machine.power_s1_kw")
    return machine


def material_of(job: Job, shelf: Shelf) -> Material:
    """The workpiece's material as a whole record."""
    return _whole(job.workpiece.material, Material, shelf.materials, "workpiece.material")


def parts_of(job: Job, index: int, shelf: Shelf) -> CutParts:
    """Everything one cut names, whole and checked against each other.

    Raises
    ------
    InputError
        With the path of the field, seen from the job.
    """
    return next(_parts_at(job, (index,), shelf))


def all_parts(job: Job, shelf: Shelf) -> Iterator[CutParts]:
    """The parts of every cut, one after the other; machine and material are looked up once (errors as in `parts_of`)."""
    return _parts_at(job, range(len(job.cuts)), shelf)


def _parts_at(job: Job, places: Iterable[int], shelf: Shelf) -> Iterator[CutParts]:
    shelf = over(job.rows, shelf)
    machine, material = machine_of(job, shelf), material_of(job, shelf)
    taper = taper_of(machine, shelf)
    for index in places:
        cut = job.cuts[index]
        try:
            tool = tool_of(cut, shelf)
            holder = holder_of(cut, shelf)
            check_fit(cut, tool)
        except InputError as error:
            raise error.inside(f"cuts[{index}]") from None
        # a program is judged by the cut and changes nothing of it
        cut = cut if cut.program is None else cut.model_copy(update={"program": None})
        parts = CutParts(cut, tool, holder, machine, material, _data_for(tool, material, shelf), taper, job.workpiece,
                         job.batch, _other_use(job, cut))  # fmt: skip
        yield _taught(parts, shelf)


def parts_with(parts: CutParts, cut: Cut, shelf: Shelf) -> CutParts:
    """The parts of another cut on the same machine and workpiece (errors as in `parts_of`, seen from the cut)."""
    tool = tool_of(cut, shelf)
    holder = holder_of(cut, shelf)
    check_fit(cut, tool)
    made = replace(
        parts,
        cut=cut,
        tool=tool,
        holder=holder,
        data=_data_for(tool, parts.material, shelf),
        lesson=None,
        standard=None,
    )
    return _taught(made, shelf)


def _taught(parts: CutParts, shelf: Shelf) -> CutParts:
    """The same parts with what trials taught of them, and the shop's standard."""
    lesson, standard = shelf.lesson_of(parts), shelf.standard_of(parts.material.data_group, parts.cut.role)
    return parts if lesson is None and standard is None else replace(parts, lesson=lesson, standard=standard)


def _data_for(tool: Tool, material: Material, shelf: Shelf) -> CuttingData | None:
    return shelf.cutting_data.get((material.data_group, names.data_substrate(tool.substrate, tool.coating)))


def _other_use(job: Job, me: Cut) -> str:
    mine = me.tool.id
    others = (other.name for other in job.cuts if mine and other.tool.id == mine
              and (other.role == "finish") != (me.role == "finish"))  # fmt: skip
    return next(others, "")


def check_fit(cut: Cut, tool: Tool) -> None:
    """Refuses a cut that the tool cannot make in any way."""
    if cut.ae_mm > tool.DC * (1 + 1e-9):
        raise InputError(f"must be above 0 and at most the diameter DC = {tool.DC:g} mm, got {cut.ae_mm:g} mm", "ae_mm")
    if cut.stick_out_mm < cut.ap_mm:
        raise InputError(
            f"is {cut.stick_out_mm:g} mm and the depth ap {cut.ap_mm:g} mm: the holder would meet the part; "
            "stick the tool out further, or cut less deep",
            "stick_out_mm",
        )
    if cut.ap_mm > SLENDEREST * tool.DC:
        raise InputError(f"must be at most {SLENDEREST:g} times DC = {tool.DC:g} mm, got {cut.ap_mm:g} mm", "ap_mm")
    if cut.ap_mm > tool.usable_length * (1 + 1e-9):
        raise InputError(
            f"must be at most the usable length LU = {tool.usable_length:g} mm of the tool, got {cut.ap_mm:g} mm",
            "ap_mm",
        )
    if tool.OAL is not None and tool.kind != "face" and cut.stick_out_mm > tool.OAL:
        raise InputError(
            f"must be below the tool's length OAL = {tool.OAL:g} mm, got {cut.stick_out_mm:g} mm", "stick_out_mm"
        )


#: records made lately: a drag asks for the same ones many times a second
_RECENT: dict[tuple[int, int], tuple[Reference, Mapping[str, Record], Record]] = {}
_RECENT_MOST = 256


def _whole(spec: Reference, cls: type[R], shelf: Mapping[str, R], field: str) -> R:
    key = (id(spec), id(shelf))
    known = _RECENT.get(key)
    if known is not None and known[0] is spec and known[1] is shelf and isinstance(known[2], cls):
        return known[2]
    record = _made(spec, cls, shelf, field)
    if len(_RECENT) >= _RECENT_MOST:
        _RECENT.clear()
    _RECENT[key] = (spec, shelf, record)
    return record


def _made(spec: Reference, cls: type[R], shelf: Mapping[str, R], field: str) -> R:
    written = spec.written()
    known = written.get("id", "")
    base: R | None = None
    if known:
        if known in shelf:
            base = shelf[known]
        elif set(written) == {"id"}:
            raise InputError(_unknown(known, list(shelf), field), field)
    try:
        return cls.read(written if base is None else base.under(written))
    except InputError as error:
        raise error.inside(field) from None


def _unknown(given: str, known: list[str], field: str) -> str:
    guess = nearest(given, known)
    hint = f"; the nearest is '{guess}'" if guess else f"; known are for example {', '.join(sorted(known)[:3])}"
    return f"no {field.split('.')[-1]} '{given}' in the library{hint}"
