"""What an explanation is, and the inputs that many of them share."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from lesna.model import names, units
from lesna.planning.cut.result import Result

#: finds the table and row of a library record: (table, id) -> text
Where = Callable[[str, object], str]


@dataclass(frozen=True)
class Input:
    """One value that was put in."""

    symbol: str
    meaning: str
    value: float | None
    quantity: units.Quantity
    origin: str


@dataclass(frozen=True)
class Explanation:
    """How a number came about; its name, quantity and value stand in `figures`."""

    formula: str
    inputs: tuple[Input, ...]
    source: str
    override: str


@dataclass(frozen=True)
class Working:
    """The whole explanation of one number, with the number itself."""

    title: str
    value: float | None
    quantity: units.Quantity
    explanation: Explanation


Explain = Callable[[Result, Where], Explanation]
ENTRIES: dict[str, Explain] = {}

TOOLMAKER = "The toolmaker's own figure for this edge."
TRIALS = "The shop's own trials: measure it and enter what was found."


def explains(id: str) -> Callable[[Explain], Explain]:
    """Registers the explanation of a number under its id."""

    def register(entry: Explain) -> Explain:
        ENTRIES[id] = entry
        return entry

    return register


# ---------------------------------------------------------------- inputs that many numbers share

TYPED = "typed in this cut"


def tool_row(result: Result, where: Where) -> str:
    """Where the tool comes from."""
    tool = result.setup.parts.tool
    return where("tools", tool.id) or "tool written in this job"


def machine_row(result: Result, where: Where) -> str:
    """Where the machine comes from."""
    return where("machines", result.setup.parts.machine.id) or "machine written in this job"


def material_row(result: Result, where: Where) -> str:
    """Where the material comes from."""
    return where("materials", result.setup.parts.material.id) or "material written in this job"


def data_row(result: Result, where: Where) -> str:
    """Row of the cutting data."""
    tool, material = result.setup.parts.tool, result.setup.parts.material
    key = (material.data_group, names.data_substrate(tool.substrate, tool.coating))
    return where("cutting_data", key) or "no row of the cutting data fits"


def ae_in(result: Result) -> Input:
    """The stepover."""
    return Input("ae", "radial engagement", result.state.ae, units.LENGTH, TYPED)


def ap_in(result: Result) -> Input:
    """The depth."""
    return Input("ap", "axial depth", result.state.ap, units.LENGTH, TYPED)


def n_in(result: Result) -> Input:
    """The spindle speed."""
    return Input("n", "spindle speed", result.state.n, units.SPINDLE_SPEED, "see Spindle")


def vf_in(result: Result) -> Input:
    """The feed."""
    return Input("vf", "feed speed", result.state.vf, units.FEED, "see Feed")


def fz_in(result: Result) -> Input:
    """The feed per tooth."""
    return Input("fz", "feed per tooth as set", result.state.fz, units.CHIP, "see Per tooth")


def hm_in(result: Result) -> Input:
    """The mean chip."""
    return Input("hm", "mean chip thickness", result.state.hm, units.CHIP, "see Mean chip")


def flutes_in(result: Result, where: Where) -> Input:
    """The flutes in the cut."""
    return Input("z", "flutes in the cut", result.state.z, units.COUNT, tool_row(result, where))


def d_eff_in(result: Result, where: Where) -> Input:
    """The diameter that touches material."""
    return Input(
        "Deff", "largest diameter in contact", result.state.d_eff, units.DIMENSION, f"{tool_row(result, where)}, at ap"
    )


def engagement_in(result: Result) -> Input:
    """The engagement over the effective diameter."""
    return Input("φs", "engagement angle", math.degrees(result.state.phi_s), units.ANGLE, "acos(1 - 2 ae/Deff)")


def holder_row(result: Result, where: Where) -> str:
    """Where the holder comes from."""
    holder = result.setup.parts.holder
    return where("holders", holder.id) or "holder of this cut"
