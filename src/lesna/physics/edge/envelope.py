"""Shape of the cutter's envelope: effective diameter, lead angle at the depth, edge length, flutes in the cut."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from lesna.physics import Num


@dataclass(frozen=True)
class Envelope:
    """The cutter as its engagement sees it.

    Parameters
    ----------
    form : str
        ``straight``, ``round`` (corner radius or ball) or ``cone`` (chamfer and lead-angle tools).
    DC : float
        Cutting diameter at full depth [mm].
    r : float
        Radius of the round part, DC/2 for a ball, 0 without one [mm].
    kappa : float
        Lead angle of the straight part of the edge [rad].
    tip_diameter : float
        Diameter at the lowest point of a cone [mm].
    tilt : float
        Tilt of a ball away from its centre [rad].
    z : int
        Effective flutes [-].
    z_centre : int
        Flutes that reach the middle of a ball [-].
    """

    form: str
    DC: float
    r: float
    kappa: float
    tip_diameter: float
    tilt: float
    z: int
    z_centre: int

    @property
    def upright(self) -> Envelope:
        """The same cutter without its tilt."""
        return replace(self, tilt=0.0) if self.tilt else self

    @property
    def is_ball(self) -> bool:
        """Whether the whole end is one sphere."""
        return self.form == "round" and abs(2 * self.r - self.DC) < 1e-9 * self.DC


def round_diameter(DC: Num, r: Num, ap: Num) -> Num:
    """Diameter in contact of a corner radius or ball: ``DC - 2 r + 2 sqrt(ap (2 r - ap))`` below its height.

    Examples
    --------
    >>> float(round_diameter(10.0, 5.0, 1.0))
    6.0
    """
    depth = np.minimum(ap, r)
    return DC - 2 * r + 2 * np.sqrt(depth * (2 * r - depth))


def tilted_ball_diameters(DC: Num, ap: Num, tilt: Num) -> tuple[Num, Num]:
    """Largest and smallest diameter in contact of a tilted ball.

    Largest: ``DC sin(min(90 deg, beta + acos(1 - 2 ap/DC)))``; smallest, over the whole cap and so on the
    safe side: ``DC sin(max(0, beta - acos(1 - 2 ap/DC)))``; 0 means that the centre is in the cut.
    """
    cap = np.arccos(np.clip(1 - 2 * np.minimum(ap, DC / 2) / DC, -1, 1))
    return DC * np.sin(np.minimum(np.pi / 2, tilt + cap)), DC * np.sin(np.maximum(0.0, tilt - cap))


def effective_diameter(shape: Envelope, ap: Num) -> Num:
    """Largest diameter that touches material at a depth (physics.md section 2).

    Parameters
    ----------
    shape : Envelope
        The cutter.
    ap : float or array
        Axial depth [mm].

    Returns
    -------
    float or array
        Effective diameter [mm].
    """
    if shape.form == "cone":
        grown = shape.tip_diameter + 2 * ap / np.tan(shape.kappa)
        return np.minimum(grown, shape.DC)
    if shape.form == "round" and shape.r > 0:
        if shape.is_ball and shape.tilt > 0:
            return tilted_ball_diameters(shape.DC, ap, shape.tilt)[0]
        return round_diameter(shape.DC, shape.r, ap)
    return shape.DC + 0.0 * ap


def sin_kappa_top(shape: Envelope, ap: Num) -> Num:
    """Sine of the lead angle where the edge leaves the material at the top of the contact.

    On a round edge ``cos(kappa) = 1 - ap/r``.
    """
    flank = np.sin(shape.kappa)
    if shape.form != "round" or shape.r <= 0:
        return flank + 0.0 * ap
    share = np.minimum(ap / shape.r, 1.0)
    return np.where(share < 1.0, np.sqrt(2 * share - share**2), flank)


def sin_kappa_mean(shape: Envelope, ap: Num) -> Num:
    """Mean of sin(kappa) along the engaged edge, for the mean chip thickness.

    Below the corner radius it is ``(1 - cos kappa) / kappa``, from twice the radius up that of the flank.
    Between the two the page's rule would jump by a third at ap = r; it is bridged in a straight line
    (docs/decisions/0004-chip-thickness.md).
    """
    flank = np.sin(shape.kappa)
    if shape.form != "round" or shape.r <= 0:
        return flank + 0.0 * ap
    kappa = np.arccos(1 - np.minimum(ap / shape.r, 1.0))
    edge = (1 - np.cos(kappa)) / np.maximum(kappa, 1e-12)
    weight = np.clip(ap / shape.r - 1.0, 0.0, 1.0)
    return edge + weight * (flank - edge)


#: contact diameters over DC between which the flutes that do not reach the middle of a ball come in
_COMING_IN = (0.15, 0.25)


def flutes_in_cut(shape: Envelope, d_eff: Num) -> Num:
    """Flutes that reach the material: on a ball whose contact is well below 0.2 DC only those cut to the centre.

    Between 0.15 and 0.25 DC the others come in one after the other, so that feed and power have no step.
    """
    if not shape.is_ball:
        return shape.z + 0.0 * d_eff
    centre = min(shape.z, shape.z_centre)
    low, high = (share * shape.DC for share in _COMING_IN)
    return centre + (shape.z - centre) * np.clip((d_eff - low) / (high - low), 0.0, 1.0)
