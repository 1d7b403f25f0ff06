"""The cutting edges in axial slices: where each tooth stands, how it leans, how far out it runs.

The slices are what every force computation walks over; nothing here knows about chips or forces.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from lesna.physics import Array
from lesna.physics.edge.envelope import Envelope

#: equal steps of the lead angle on a round part, and least slices of a cone (physics.md section 5)
ROUND_STEPS = 24
#: thickest slice of a straight part, as a share of DC
STRAIGHT_SHARE = 0.02
#: slices along one wave or notch of a profiled edge
_PER_WAVE = 12


@dataclass(frozen=True)
class Profile:
    """Relief ground into the edges of roughers, as a radial offset along the height.

    Parameters
    ----------
    kind : str
        ``plain``, ``wave`` (serrated) or ``notch`` (chip splitter).
    depth : float
        Amplitude of the wave, depth of the notch [mm].
    length : float
        Wavelength, spacing of the notches on one tooth [mm].
    width : float
        Width of a notch [mm]; unused for a wave.
    """

    kind: str = "plain"
    depth: float = 0.0
    length: float = 1.0
    width: float = 0.0

    def offsets(self, z: Array, teeth: int) -> Array:
        """Radial offset of each tooth at heights z, shifted from tooth to tooth by an equal share of the length."""
        share = np.arange(teeth)[:, None] / teeth
        place = z[None, :] / self.length + share
        if self.kind == "wave":
            return self.depth * np.sin(2 * np.pi * place)
        if self.kind == "notch":
            from_notch = np.abs((place + 0.5) % 1.0 - 0.5) * self.length
            inside = np.clip(1 - 2 * from_notch / self.width, 0.0, 1.0) if self.width > 0 else 0.0 * place
            return -self.depth * np.sqrt(inside)
        return np.zeros((teeth, len(z)))


@dataclass(frozen=True)
class Cutter:
    """Envelope and teeth of a cutter.

    Parameters
    ----------
    shape : Envelope
        Outline of the edges.
    places : array (z,)
        Angle by which each tooth trails the first at the tip, rising from 0 [rad].
    helices : array (z,)
        Helix angle of each tooth [rad].
    eccentricity : float
        Half of the total indicator reading [mm].
    profile : Profile
        Relief of roughers.
    """

    shape: Envelope
    places: Array
    helices: Array
    eccentricity: float = 0.0
    profile: Profile = field(default_factory=Profile)

    @property
    def teeth(self) -> int:
        """Number of teeth."""
        return len(self.places)

    @cached_property
    def is_even(self) -> bool:
        """Whether all teeth are alike: equal pitch and helix, no runout, no relief."""
        even = 2 * np.pi * np.arange(self.teeth) / self.teeth
        return (
            self.has_plain_flank
            and self.eccentricity == 0.0
            and bool(np.allclose(self.places, even, rtol=0.0, atol=1e-12))
        )

    @property
    def has_plain_flank(self) -> bool:
        """Whether the teeth keep their distance and their offset along the height."""
        return self.profile.kind == "plain" and bool(np.ptp(self.helices) < 1e-12)

    @cached_property
    def leads(self) -> Array:
        """Lag of each tooth over the height: ``tan(lam) / R`` [rad/mm]."""
        return np.tan(self.helices) / (self.shape.DC / 2)

    @property
    def run(self) -> Array:
        """Radial offset of each tooth by runout, largest on the first [mm]."""
        return self.eccentricity * np.cos(self.places)


@dataclass(frozen=True)
class Slices:
    """Edges cut into m slices; arrays over slices, or over (teeth, slices).

    Attributes
    ----------
    z, r, arm, kappa, db : array (m,)
        Middle height, radius, lever of the tangential force [mm], lead angle [rad], edge length [mm].
    ends : array (2, m)
        Radius at the lower and the upper end [mm].
    smear : array (m,)
        Angle over which a slice enters and leaves the cut, because its upper end lags behind its lower [rad].
    trail : array (teeth, m)
        Angle by which a tooth trails the first one's tip [rad].
    share : array (teeth, before, m)
        Share of a turn between a tooth and the one `before` + 1 places ahead [-].
    gap : array (teeth, before, m)
        Radial offset of a tooth over the one `before` + 1 places ahead [mm].
    """

    z: Array
    r: Array
    ends: Array
    arm: Array
    kappa: Array
    db: Array
    smear: Array
    trail: Array
    share: Array
    gap: Array

    def of_first(self) -> Slices:
        """The first tooth alone."""
        return replace(self, trail=self.trail[:1], share=self.share[:1], gap=self.gap[:1])


def heights(shape: Envelope, ap: float, profile: Profile | None = None) -> Array:
    """Edges of the slices from the tip to ap, as fine as the model asks.

    Parameters
    ----------
    shape : Envelope
        Outline of the edges.
    ap : float
        Axial depth [mm].
    profile : Profile or None
        Relief; its waves are resolved.

    Returns
    -------
    array (m + 1,)
        Heights, rising from 0 to ap [mm].
    """
    low = round_height(shape)
    lower = min(ap, low)
    parts = [np.zeros(1)]
    if lower > 0 and shape.form == "round":
        kappas = np.linspace(0.0, np.arccos(1 - lower / shape.r), ROUND_STEPS + 1)
        parts.append(shape.r * (1 - np.cos(kappas[1:])))
    elif lower > 0:
        parts.append(np.linspace(0.0, lower, ROUND_STEPS + 1)[1:])
    if ap > low:
        thick = STRAIGHT_SHARE * shape.DC
        if profile is not None and profile.kind != "plain":
            thick = min(thick, (profile.width or profile.length) / _PER_WAVE)
        count = int(np.ceil((ap - low) / thick))
        parts.append(np.linspace(low, ap, count + 1)[1:])
    edges = np.concatenate(parts)
    edges[-1] = ap
    return edges


def round_height(shape: Envelope) -> float:
    """Height up to which the radius grows: the corner, the ball or the cone.

    Parameters
    ----------
    shape : Envelope
        Outline of the edges.

    Returns
    -------
    float
        Height, 0 for a straight edge [mm].
    """
    if shape.form == "round":
        return shape.r
    if shape.form == "cone":
        return float((shape.DC - shape.tip_diameter) / 2 * np.tan(shape.kappa))
    return 0.0


def slices_of(cutter: Cutter, edges: Array) -> Slices:
    """The slices between given heights.

    Parameters
    ----------
    cutter : Cutter
        The cutter.
    edges : array (m + 1,)
        Heights of the slice edges [mm].

    Returns
    -------
    Slices
        One slice between each pair of heights.
    """
    shape = cutter.shape
    low, high = edges[:-1], edges[1:]
    z = (low + high) / 2
    r, rim = np.full(len(z), shape.DC / 2), _radius_at(shape, edges)
    kappa = np.full(len(z), np.pi / 2 if shape.form != "straight" else shape.kappa)
    db = (high - low) / np.sin(kappa)
    curved = z < round_height(shape)
    if shape.form == "round":
        k_low = np.arccos(np.clip(1 - low / shape.r, -1, 1))
        k_high = np.arccos(np.clip(1 - high / shape.r, -1, 1))
        middle = (k_low + k_high) / 2
        db = np.where(curved, shape.r * (k_high - k_low), db)
        # the mean lead angle of the slice, so that its edge spans its height exactly and removal is kept
        kappa = np.where(curved, np.arcsin(np.minimum(1.0, (high - low) / db)), kappa)
        r = np.where(curved, shape.DC / 2 - shape.r + shape.r * np.sin(middle), r)
        z = np.where(curved, shape.r * (1 - np.cos(middle)), z)
    elif shape.form == "cone":
        kappa = np.where(curved, shape.kappa, kappa)
        r = np.where(curved, shape.tip_diameter / 2 + z / np.tan(shape.kappa), r)
        db = np.where(curved, (high - low) / np.sin(shape.kappa), db)
    arm = r
    if shape.is_ball and shape.tilt > 0:
        # the lens that is cut is the same, but it lies further from the axis
        arm = shape.DC / 2 * np.sin(np.minimum(np.pi / 2, shape.tilt + kappa))
    return replace(slices_between(cutter, (low, high), z, r, kappa, db), ends=np.stack((rim[:-1], rim[1:])), arm=arm)


def slices_between(
    cutter: Cutter, ends: tuple[Array, Array], z: Array, r: Array, kappa: Array, db: Array
) -> Slices:  # fmt: skip
    """Slices of a geometry that somebody else has worked out, with the teeth of a cutter in them.

    Parameters
    ----------
    cutter : Cutter
        The cutter.
    ends : tuple of array (m,)
        Heights of their lower and upper ends [mm].
    z, r, kappa, db : array (m,)
        As `Slices` has them; the tangential force acts at the radius.
    """
    share, gap = _before(cutter, z)
    return Slices(
        z=z, r=r, ends=np.stack((r, r)), arm=r, kappa=kappa, db=db, smear=(ends[1] - ends[0]) * float(cutter.leads.mean()),
        trail=cutter.places[:, None] + cutter.leads[:, None] * z[None, :], share=share, gap=gap,
    )  # fmt: skip


def _radius_at(shape: Envelope, z: Array) -> Array:
    """Radius of the edge at heights above the tip [mm]."""
    if shape.form == "round":
        return shape.DC / 2 - shape.r + np.sqrt(np.maximum(0.0, shape.r**2 - np.maximum(0.0, shape.r - z) ** 2))
    if shape.form == "cone":
        return np.minimum(shape.DC / 2, shape.tip_diameter / 2 + z / np.tan(shape.kappa))
    return np.full(len(z), shape.DC / 2)


def _before(cutter: Cutter, z: Array) -> tuple[Array, Array]:
    """What every tooth finds before it: share of a turn and radial gap to each tooth ahead."""
    teeth = cutter.teeth
    rho = cutter.run[:, None] + cutter.profile.offsets(z, teeth)
    # without offsets the tooth just ahead decides alone
    reach = teeth if np.ptp(rho, axis=0).max(initial=0.0) > 0 else 1
    tooth = np.arange(teeth)[:, None]
    ahead = (tooth - np.arange(reach) - 1) % teeth
    # taken apart so that teeth of equal helix keep exactly one share along the height
    lag = (cutter.leads[tooth] - cutter.leads[ahead])[:, :, None] * z
    turn = ((cutter.places[tooth] - cutter.places[ahead])[:, :, None] + lag) / (2 * np.pi)
    share = np.where(turn > 0, turn, turn + 1.0)
    share[:, teeth - 1 :] = 1.0  # a tooth finds its own last turn
    return share, rho[:, None, :] - rho[ahead]
