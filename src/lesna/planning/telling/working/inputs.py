"""What an explanation is, and the inputs that many of them share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from lesna.model import names, units
from lesna.planning.cut.result import Result

#: finds the table and row of a library record: (table, id) -> text
Where = Callable[[str, object], str]


@dataclass(frozen=True)
class Input:
    """One value that was put in; `figure` is the id of the figure it is, where it is one."""

    symbol: str
    meaning: str
    value: float | None
    quantity: units.Quantity
    origin: str
    figure: str = ""


@dataclass(frozen=True)
class Explanation:
    """How a number came about; inputs that are figures themselves stand as their id."""

    formula: str
    inputs: tuple[Input | str, ...]
    source: str
    override: str


Explain = Callable[[Result, Where], Explanation]

TOOLMAKER = "The toolmaker's own figure for this edge."
TRIALS = "The shop's own trials: measure it and enter what was found."


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


def holder_row(result: Result, where: Where) -> str:
    """Where the holder comes from."""
    holder = result.setup.parts.holder
    return where("holders", holder.id) or "holder of this cut"
