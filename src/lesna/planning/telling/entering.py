"""In how many levels a cut takes its feature, and how it comes into the material, as a sentence."""

from __future__ import annotations

from lesna.model import units
from lesna.model.shown import counted
from lesna.planning.cut.features import solid_of
from lesna.planning.cut.result import Result
from lesna.planning.schools.strategies.base import ramp_of


def levels_line(result: Result) -> str:
    """The sentence, its length marked for `units.said`; empty where nothing is known of the feature."""
    feature = result.setup.parts.cut.feature
    solid = solid_of(feature)
    if result.levels is None or solid is None:
        return ""
    told = f"{counted(result.levels, 'level')} of {units.LENGTH.mark(result.level_height)}"
    if not solid.is_closed:
        return f"{told}, in from the side"
    each = "each " if result.levels > 1 else ""
    return f"{told}, {each}entered on a ramp of at most {ramp_of(result.setup):g}°"
