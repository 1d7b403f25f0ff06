"""Whether the chip fits the gullet (physics.md section 8)."""

from __future__ import annotations

import numpy as np

from lesna.physics import Num

#: loose chip volume over solid volume
SWELL = {"long": 5.0, "segmented": 4.0, "short": 3.0, "powder": 3.0}


def gullet_area(DC: float, core_ratio: float, z: int) -> float:
    """Cross section of one gullet where the toolmaker gives none: a quarter of the annulus over the flutes.

    Parameters
    ----------
    DC : float
        Cutting diameter [mm].
    core_ratio : float
        Core diameter over DC [-].
    z : int
        Flutes [-].

    Returns
    -------
    float
        Area [mm2].
    """
    annulus = np.pi / 4 * DC**2 * (1 - core_ratio**2)
    return float(0.25 * annulus / z)


def space_needed(ae: Num, fz: Num, swell: Num, closed_factor: Num) -> Num:
    """Gullet cross section that the chip of one tooth needs: ``ae fz`` times the swell.

    Parameters
    ----------
    ae : float or array
        Radial engagement [mm].
    fz : float or array
        Feed per tooth [mm].
    swell : float or array
        Loose over solid volume [-].
    closed_factor : float or array
        1.5 in deep slots and closed pockets that are not blown out, else 1 [-].

    Returns
    -------
    float or array
        Area [mm2].
    """
    return ae * fz * swell * closed_factor


def closed_factor(*, slot: Num, pocket: bool, depth_over_d: Num, blown: bool) -> Num:
    """Half as much room again where chips cannot leave: slots deeper than 1 DC, closed pockets than 2 DC.

    Parameters
    ----------
    slot : bool or array
        Whether the cut is a full slot [-].
    pocket : bool
        Whether the feature is a closed pocket [-].
    depth_over_d : float or array
        Depth of the slot or pocket over DC [-].
    blown : bool
        Whether air or coolant through the tool clears the chips [-].

    Returns
    -------
    float or array
        1.5 or 1 [-].
    """
    deep = (np.asarray(slot) & (depth_over_d > 1.0)) | (pocket & (np.asarray(depth_over_d) > 2.0))
    return np.where(deep & (not blown), 1.5, 1.0)
