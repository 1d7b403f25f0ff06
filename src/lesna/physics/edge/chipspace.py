"""Whether the chip fits the gullet (physics.md section 8)."""

from __future__ import annotations

import numpy as np

from lesna.physics import Num

#: loose chip volume over solid volume
SWELL = {"long": 5.0, "segmented": 4.0, "short": 3.0, "powder": 3.0}


#: geometric core circle over DC where the toolmaker names none, by the number of flutes; beyond the last the last
_CORE = {1: 0.50, 2: 0.50, 3: 0.55, 4: 0.60, 5: 0.65, 6: 0.70}
#: share of the annulus between DC and core circle that is gullet
_GULLET_SHARE = 0.6
#: a serrated or split edge breaks the chip into pieces that lie closer
BROKEN = 0.6
#: a short chip spreads along the gullet over at least this length, over DC
_SPREAD = 0.5


def core_of(z: int, core_ratio: float | None = None) -> float:
    """Core circle over DC: as given, else the usual one of a solid cutter with so many flutes."""
    return core_ratio if core_ratio is not None else _CORE[min(z, max(_CORE))]


def gullet_area(DC: float, core_ratio: float, z: int) -> float:
    """Cross section of one gullet where the toolmaker gives none: 0.6 of the annulus over the flutes.

    Examples
    --------
    >>> round(gullet_area(10.0, 0.6, 4), 2)
    7.54
    """
    annulus = np.pi / 4 * DC**2 * (1 - core_ratio**2)
    return float(_GULLET_SHARE * annulus / z)


def room_of(gullet: float, ap: Num, DC: float) -> Num:
    """Volume that one gullet holds: its cross section over the depth, at least over half a diameter.

    Parameters
    ----------
    gullet : float
        Cross section [mm2].
    ap : float or array
        Axial depth [mm].
    DC : float
        Cutting diameter [mm].

    Returns
    -------
    float or array
        Volume [mm3].
    """
    return gullet * np.maximum(ap, _SPREAD * DC)


def space_needed(ae: Num, fz: Num, ap: Num, swell: Num, closed_factor: Num) -> Num:
    """Volume that the loose chip of one tooth takes: ``ae fz ap`` times the swell."""
    return ae * fz * ap * swell * closed_factor


def closed_factor(*, slot: Num, pocket: bool, depth_over_d: Num, blown: bool) -> Num:
    """Half as much room again where chips cannot leave: slots deeper than 1 DC, closed pockets than 2 DC."""
    deep = (np.asarray(slot) & (depth_over_d > 1.0)) | (pocket & (np.asarray(depth_over_d) > 2.0))
    return np.where(deep & (not blown), 1.5, 1.0)
