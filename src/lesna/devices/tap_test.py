"""A hammer with a force cell and a displacement probe at the tool tip, simulated."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from lesna.physics import Array
from lesna.physics.structure.beam import Mode


@dataclass(frozen=True)
class Strike:
    """One record: force [N] and displacement of the tip [um] over the same instants."""

    force: Array
    response: Array


class Hammer(Protocol):
    """What a tap test needs of its device."""

    @property
    def rate(self) -> float:
        """Samples a second [Hz]."""

    @property
    def span(self) -> float:
        """Largest force the channel shows [N]."""

    def strike(self) -> Strike:
        """Waits for a hit and gives its record."""


class SimulatedHammer:
    """Hits a tool of known modes as people do: unevenly, with noise, now and then twice or too hard.

    Parameters
    ----------
    modes : tuple of Mode
        Modes at the tip.
    seed : int
        Of the hand that holds the hammer.
    """

    rate = 51200.0
    span = 500.0
    #: length of a record [s], of the contact [s]
    _seconds, _contact = 0.32, 0.00009
    _double, _hard = 0.12, 0.1

    def __init__(self, modes: tuple[Mode, ...], seed: int = 1) -> None:
        self._modes = modes
        self._random = np.random.default_rng(seed)

    def strike(self) -> Strike:
        """One hit."""
        r = self._random
        t = np.arange(int(self._seconds * self.rate)) / self.rate
        peak = r.uniform(120.0, 320.0) * (2.2 if r.random() < self._hard else 1.0)
        force = self._blow(t, 0.004, peak)
        if r.random() < self._double:
            force = force + self._blow(t, 0.004 + r.uniform(0.012, 0.03), peak * r.uniform(0.25, 0.6))
        response = self._ring(force) + r.normal(0.0, 0.0015, len(t))
        shown = np.minimum(force + r.normal(0.0, 0.25, len(t)), self.span)
        return Strike(shown, response)

    def _blow(self, t: Array, at: float, peak: float) -> Array:
        width = self._contact * self._random.uniform(0.9, 1.3)
        inside = (t >= at) & (t < at + width)
        return np.where(inside, peak * np.sin(np.pi * (t - at) / width), 0.0)

    def _ring(self, force: Array) -> Array:
        """Response of the modes, computed in the frequency domain over twice the record."""
        count = 2 * len(force)
        f = np.fft.rfftfreq(count, 1.0 / self.rate)
        H = np.zeros(len(f), dtype=complex)
        for mode in self._modes:
            ratio = f / mode.frequency
            H += 1.0 / mode.stiffness / (1 - ratio**2 + 2j * mode.zeta * ratio)
        return np.fft.irfft(H * np.fft.rfft(force, count), count)[: len(force)]
