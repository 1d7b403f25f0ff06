"""The edits people make, each as the job that follows from it."""

from __future__ import annotations

from typing import Any

from lesna.document.inheritance import plain_values
from lesna.model import units
from lesna.model.errors import InputError
from lesna.model.job import SPEEDS, Batch, Cut, Job, Workpiece, new_id
from lesna.model.kept import over
from lesna.model.library_records import Tool
from lesna.model.resolve import Shelf, material_of, tool_of
from lesna.planning.cut.finishing import RULE, allowance, roughed_before
from lesna.planning.cut.levels import depth_of, even_depth, typed_depth
from lesna.planning.cut.setup import hardness_of
from lesna.planning.cut.starting import SpeedShare, StartingValues, starting_values

#: fields of which a cut has exactly one: setting one clears the others
_FEEDS = ("hex_mm", "fz_mm", "book")
#: what only a drawn feature has, and what it never has
_DRAWN = ("dxf", "part_layer", "stock_layer", "island_layer", "keep_out_layer", "open_sides")
_OUTLINES = ("profile_mm", "islands_mm")


def with_cut(job: Job, index: int, **values: Any) -> Job:
    """The job with fields of one cut changed; of the fields that exclude each other the last one set stays.

    Raises
    ------
    InputError
        When a value does not fit its field.
    """
    for family in (SPEEDS, _FEEDS):
        chosen = next((key for key in family if values.get(key) is not None), None)
        if chosen:
            values = {**{key: None for key in family if key != chosen}, **values}
    cut = job.cuts[index].with_values(**values)
    return _with_cuts(job, (*job.cuts[:index], cut, *job.cuts[index + 1 :]))


def with_workpiece(job: Job, **values: Any) -> Job:
    """The job with fields of its workpiece changed; one hardness replaces the other."""
    for one, other in (("hardness_hrc", "hardness_hb"), ("hardness_hb", "hardness_hrc")):
        if values.get(one) is not None:
            values.setdefault(other, None)
    return job.with_values(workpiece=job.workpiece.with_values(**values))


def with_batch(job: Job, **values: Any) -> Job:
    """The job with fields of its batch changed."""
    return job.with_values(batch=job.batch.with_values(**values))


def with_feature(job: Job, index: int, **values: Any) -> Job:
    """The job with fields of one cut's feature changed; a cut without one starts as a shelf."""
    feature = job.cuts[index].feature
    written = {**(dict(feature) if feature is not None else {"kind": "shelf"}), **values}
    # what belongs to another kind of feature goes with it
    for key in _OUTLINES if written["kind"] == "profile" else _DRAWN:
        if key not in values:
            written.pop(key, None)
    return with_cut(job, index, feature=written)


def with_tool(job: Job, index: int, tool_id: str, shelf: Shelf) -> Job:
    """The job with another tool in a cut: same stepover in percent, speed and chip from the tables where they know.

    Depth and stick-out are shortened to what the new tool can reach.
    """
    shelf = over(job.rows, shelf)
    cut = job.cuts[index]
    former, tool = tool_of(cut, shelf), shelf.tools[tool_id]
    values: dict[str, Any] = {
        "tool": tool_id,
        "ae_mm": min(cut.ae_mm / former.DC, 1.0) * tool.DC,
        "ap_mm": min(cut.ap_mm, tool.APMX),
        "stick_out_mm": _stick_out(cut, tool.usable_length, tool.OAL if tool.kind != "face" else None),
    }
    start = _proposed(job, index, tool, shelf)
    if start is not None and cut.book is None:
        values |= {"vc_m_min": round(start.vc), "hex_mm": round(start.hex, 4)}
    return with_cut(job, index, **values)


def _proposed(job: Job, index: int, tool: Tool, shelf: Shelf, share: SpeedShare = "full") -> StartingValues | None:
    """The tables' proposal for a cut with a tool, as its role asks."""
    cut = job.cuts[index]
    return starting_values(
        tool, material_of(job, shelf), cut.strategy, shelf, share=share, hb=hardness_of(job.workpiece), feature=cut.feature,
        role=cut.role, left=_left_for(job, index),
    )  # fmt: skip


def _left_for(job: Job, index: int) -> float | None:
    """Stock that roughing leaves on the walls of a cut's feature [mm]; None where it leaves none or nothing roughs it."""
    known = [job.cuts[k].feature for k in (roughed_before(job, index) if job.cuts[index].role == "finish" else ())]
    return max((feature.stock_wall_mm for feature in known if feature is not None), default=0.0) or None


def with_role(job: Job, index: int, role: str, shelf: Shelf) -> tuple[Job, str]:
    """The job with another role of a cut, and what else changed with it as a sentence, empty where nothing did.

    A cut that finishes takes the starting values of finishing and leaves nothing; the roughing of the same feature leaves it
    something to take, by the rule of `allowance`, where nobody has typed what it leaves.
    """
    job = with_cut(job, index, role=role)
    cut = job.cuts[index]
    if role != "finish" or cut.feature is None or cut.feature.kind in ("surface", "chamfer"):
        return job, ""
    told = []
    where = "stock_floor_mm" if cut.feature.kind == "face" else "stock_wall_mm"
    left = rule = allowance(tool_of(cut, over(job.rows, shelf)).DC)
    for k in roughed_before(job, index):
        typed = getattr(job.cuts[k].feature, where)
        if typed:
            left = typed
        else:
            job = with_feature(job, k, **{where: rule})
            told.append(
                f"{job.cuts[k].name} leaves {units.LENGTH.mark(rule)} for it, by the rule of {RULE}; change it in Setup"
            )
    # of a face nothing is left over the floor but that
    depth = {"depth_mm": left} if cut.feature.kind == "face" else {}
    job = with_feature(job, index, stock_wall_mm=0.0, stock_floor_mm=0.0, **depth)
    try:
        job = with_starting_values(job, index, shelf)
        told.append("stepover, chip and speed are those of finishing")
    except InputError:
        pass
    if where == "stock_wall_mm":
        told.append("a spring pass can be asked for on Path")
    return job, "; ".join(told)


def _stick_out(cut: Cut, reach: float, length: float | None) -> float:
    wanted = max(cut.stick_out_mm, reach + 2.0)
    return min(wanted, 0.75 * length) if length is not None else wanted


def with_starting_values(job: Job, index: int, shelf: Shelf, *, share: SpeedShare = "full") -> Job:
    """The job with speed, chip and engagement of one cut set to the tables' proposal."""
    shelf = over(job.rows, shelf)
    cut = job.cuts[index]
    tool = tool_of(cut, shelf)
    start = _proposed(job, index, tool, shelf, share=share)
    if start is None:
        known = material_of(job, shelf).name
        raise InputError(f"the tables have no starting values for this tool in {known}; type your own")
    depth = even_depth(depth_of(cut.feature), min(start.ap, tool.usable_length, cut.stick_out_mm))
    values = {
        "vc_m_min": round(start.vc),
        "hex_mm": round(start.hex, 4),
        "ae_mm": round(start.ae, 3),
        "ap_mm": typed_depth(depth),
    }
    families = {"vc_m_min": set(SPEEDS), "hex_mm": set(_FEEDS)}
    free = {key: value for key, value in values.items() if not families.get(key, {key}) & cut.fixed}
    if not free:
        raise InputError("every value that the tables propose is held; free one first")
    return with_cut(job, index, **free)


def with_starting_values_everywhere(job: Job, shelf: Shelf) -> tuple[Job, tuple[str, ...]]:
    """The job with the tables' proposal in every cut, and the names of those for which there is none."""
    left_out = []
    for index, cut in enumerate(job.cuts):
        try:
            job = with_starting_values(job, index, shelf)
        except InputError:
            left_out.append(cut.name)
    return job, tuple(left_out)


def new_job(job: Job, index: int, shelf: Shelf) -> Job:
    """A job with one cut that takes over machine, material, tool and holder of another job, and nothing else of it.

    Speed, chip and engagement are the tables' proposal where they have one, else those of the cut.
    """
    shelf = over(job.rows, shelf)
    cut = job.cuts[index]
    plain = {**plain_values("job", cut), "id": new_id(), "name": "Cut 1"}
    fresh = job.with_values(title="", notes="", batch=Batch(parts=1), cuts=(cut.with_values(**plain),),
                            workpiece=Workpiece(material=job.workpiece.material))  # fmt: skip
    try:
        return with_starting_values(fresh, 0, shelf)
    except InputError:
        return fresh


def with_new_cut(job: Job, shelf: Shelf, *, after: int) -> tuple[Job, int]:
    """The job with a cut added behind another, with its tool and holder and the tables' starting values, and its position.

    Where the tables know nothing for this pair, it starts with the values of the other.
    """
    shelf = over(job.rows, shelf)
    former = job.cuts[after]
    tool, material = tool_of(former, shelf), material_of(job, shelf)
    start = starting_values(
        tool, material, "light_radial", shelf, hb=hardness_of(job.workpiece), feature=former.feature
    )
    values: dict[str, Any] = {**plain_values("cut", former), "id": new_id(), "name": _free_name(job, "New cut")}
    if start is not None:
        depth = even_depth(depth_of(former.feature), min(start.ap, tool.usable_length, former.stick_out_mm))
        values |= {
            "strategy": "light_radial", "ae_mm": round(start.ae, 3), "ap_mm": typed_depth(depth),
            **dict.fromkeys(SPEEDS), "vc_m_min": round(start.vc), "hex_mm": round(start.hex, 4), "fz_mm": None, "book": None,
        }  # fmt: skip
    return _inserted(job, after + 1, former.with_values(**values))


def with_variant(job: Job, index: int) -> tuple[Job, int]:
    """The job with a cut repeated under a name of its own, and the position of the copy."""
    cut = job.cuts[index]
    own = {"id": new_id(), "name": _free_name(job, f"{cut.name}, variant")}
    return _inserted(job, index + 1, cut.with_values(**plain_values("variant", cut), **own))


def without_cut(job: Job, index: int) -> Job:
    """The job without one of its cuts."""
    if len(job.cuts) == 1:
        raise InputError("a job needs at least one cut; add another before you delete this one")
    return _with_cuts(job, job.cuts[:index] + job.cuts[index + 1 :])


def with_cut_moved(job: Job, index: int, to: int) -> Job:
    """The job with a cut at another place in the order."""
    cuts = list(job.cuts)
    cuts.insert(to, cuts.pop(index))
    return _with_cuts(job, tuple(cuts))


def _with_cuts(job: Job, cuts: tuple[Cut, ...]) -> Job:
    return job.with_values(cuts=cuts)


def _inserted(job: Job, place: int, cut: Cut) -> tuple[Job, int]:
    return _with_cuts(job, (*job.cuts[:place], cut, *job.cuts[place:])), place


def _free_name(job: Job, wanted: str) -> str:
    taken = {cut.name for cut in job.cuts}
    number, name = 2, wanted
    while name in taken:
        name, number = f"{wanted} {number}", number + 1
    return name
