"""What the tables know of edge life: usual speeds, what an engagement may run faster, the law, the speed that keeps a life."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np

from lesna.model import names
from lesna.model.errors import InputError
from lesna.model.library_records import CuttingData, Material, Tool
from lesna.model.resolve import CutParts
from lesna.physics import Num
from lesna.physics.life import heat
from lesna.physics.life.edge_life import LifeLaw
from lesna.planning.cut.setup import CutSetup

#: factor on life by the place of the medium in the table's ranking, beyond it, and where it is to be avoided; the lives
#: of the tables were timed with a usual medium, so the second keeps them too
_BY_RANK = (1.0, 1.0, 0.95, 0.9, 0.85)
_UNRANKED, _AVOIDED = 0.7, 0.5


def coolant_factor(parts: CutParts) -> float:
    """Factor of the cooling medium on life, from its place in the table's ranking (docs/decisions/0007-life.md)."""
    data = parts.data
    if data is None:
        return 1.0
    medium = names.ranked_as(parts.cut.coolant)
    if medium in data.avoided:
        return _AVOIDED
    ranking = [name.strip() for name in data.coolant_rank.split(">")]
    return _BY_RANK[min(ranking.index(medium), len(_BY_RANK) - 1)] if medium in ranking else _UNRANKED


def multiplier_of(data: CuttingData, tool: Tool, material: Material, x: Num, section: Num) -> Num:
    """How much faster an engagement may run than the row's own: by practice and heat, one factor for speed and life alike [-].

    Parameters
    ----------
    data, tool, material : CuttingData, Tool, Material
        The row, and what it is of.
    x : float or array
        Stepover over the effective diameter [-].
    section : float or array
        ae ap over DC squared [-].
    """
    if tool.kind == "high_feed":
        return (data.vc_mult_highfeed or 1.0) + 0.0 * np.asarray(x)
    thin_share = 1.0 if data.vc_thin_share is None else data.vc_thin_share
    law = material.mc or 0.0, data.vc_mult_light or 1.0, data.vc_mult_slot or 1.0, thin_share
    by_width = heat.speed_multiplier(x, *law) / _own_multiplier(data.ref_ae_over_d, *law)
    return by_width * heat.finish_multiplier(section, data.vc_mult_finish or 1.0)


@lru_cache(maxsize=256)
def _own_multiplier(x: float, mc: float, light: float, slot: float, thin_share: float) -> float:
    """The multiplier at the engagement of a row, which does not change while a cut is moved [-]."""
    return float(heat.speed_multiplier(x, mc, light, slot, thin_share))


def multiplier(setup: CutSetup, ae: Num, ap: Num) -> Num:
    """The same for a set-up at one or many engagements [mm], 1 where the tables have no row [-]."""
    parts, x = setup.parts, setup.radial_ratio(ae, ap)
    if parts.data is None:
        return 1.0 + 0.0 * np.asarray(x)
    return multiplier_of(parts.data, parts.tool, parts.material, x, np.asarray(ae) * ap / setup.shape.DC**2)


def hardness_speed(hb: float | None, material: Material) -> float:
    """Factor on the tables' speeds for work harder or softer than the row's: ``(HB / HB_row)^-1`` [-]."""
    return 1.0 if hb is None or material.hb_mid is None else material.hb_mid / hb


def speed_of_tables(setup: CutSetup) -> float | None:
    """Typical surface speed of the row at its own engagement, for the hardness of this workpiece [m/min]; None without a row."""
    data, material = setup.parts.data, setup.parts.material
    if data is None or data.vc_typ_m_min is None:
        return None
    return data.vc_typ_m_min * material.vc_factor * hardness_speed(setup.hb, material)


def usual_speeds(setup: CutSetup, ae: Num, ap: Num) -> tuple[float, float] | None:
    """Least and greatest surface speed that are usual at an engagement [m/min]; None where no table says."""
    data, typical = setup.parts.data, speed_of_tables(setup)
    if (
        data is None
        or typical is None
        or data.vc_low_m_min is None
        or data.vc_high_m_min is None
        or not data.vc_typ_m_min
    ):
        return None
    factor = typical / data.vc_typ_m_min * float(multiplier(setup, ae, ap))
    return data.vc_low_m_min * factor, data.vc_high_m_min * factor


def law_of(setup: CutSetup) -> LifeLaw | None:
    """The life law of a set-up, None where the tables have none."""
    data, typical, speed = setup.parts.data, setup.chip.typical, speed_of_tables(setup)
    if data is None or speed is None or data.taylor_n is None or data.ref_life_min is None or typical is None:
        return None
    law = LifeLaw(speed, typical, setup.chip.least or 0.0, data.ref_life_min, data.taylor_n, data.taylor_feed_exp or 0.0,
                  coolant_factor(setup.parts), data.life_end_over_ref or LifeLaw.ends)  # fmt: skip
    lesson = setup.parts.lesson
    if lesson is None:
        return law
    return replace(law, level=lesson.level, by_speed=lesson.by_speed, by_chip=lesson.by_chip)


def speed_keeping(setup: CutSetup, ae: Num, ap: Num, h_ex: Num) -> Num:
    """Surface speed that keeps the minutes of edge life that are wanted, at one or many engagements and chips [m/min].

    Where chance and abrasion end an edge before, however slowly it runs, it is the slowest that is usual: the life then falls short,
    and `edge_life` says so.
    """
    law, wanted = law_of(setup), setup.parts.cut.life_min_wanted
    assert wanted is not None  # asked for with it
    if law is None:
        raise InputError(
            "cannot be kept: the tables know no edge life for this tool in this material; give vc_m_min",
            "life_min_wanted",
        )
    m = multiplier(setup, ae, ap)
    kept = law.speed_for(wanted, h_ex, m)
    return np.where(np.isnan(kept), _CRAWLING * m * law.vc_ref, kept)


#: speed over that of the tables where no speed keeps a life
_CRAWLING = 0.1
