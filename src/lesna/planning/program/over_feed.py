"""What steps do over the feed, read both ways: what a feed does, and which feed keeps to a limit."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lesna.physics import Array


@dataclass(frozen=True)
class OverFeed:
    """What steps do over the feed per tooth: rows of nodes, columns of steps. All of it rises with the feed, as a power of it.

    Attributes
    ----------
    nodes : array (m,)
        Feeds per tooth, in equal ratios [mm].
    force, limits, power, deflection, chip : array (m, n)
        Side force [N], greatest use of the limits [-], power [kW], deflection [um], thickest chip [mm].
    chatters : array (n,) of bool
        Whether the depth of a step lies over its limit of chatter.
    """

    nodes: Array
    force: Array
    limits: Array
    power: Array
    deflection: Array
    chip: Array
    chatters: NDArray[np.bool_]

    def most(self, values: Array, limit: float | Array) -> Array:
        """Greatest feed per tooth at which values keep to a limit; less than the nodes go where none does."""
        logs = np.log(np.maximum(values, 1e-12))
        wanted = np.broadcast_to(np.log(np.maximum(limit, 1e-12)), values.shape[1:])
        below = np.clip((logs <= wanted).sum(axis=0) - 1, 0, len(self.nodes) - 2)
        columns = np.arange(values.shape[1])
        low, high = logs[below, columns], logs[below + 1, columns]
        share = (wanted - low) / np.maximum(high - low, 1e-9)
        ratio = self.nodes[1] / self.nodes[0]
        return np.asarray(np.minimum(self.nodes[below] * ratio ** np.clip(share, -20.0, 1.0), self.nodes[-1]))

    def at(self, values: Array, fz: Array) -> Array:
        """Values at feeds per tooth [mm]."""
        place = np.clip(np.log(fz / self.nodes[0]) / np.log(self.nodes[1] / self.nodes[0]), 0.0, len(self.nodes) - 1.0)
        below = np.minimum(place.astype(int), len(self.nodes) - 2)
        columns, share = np.arange(values.shape[1]), place - below
        logs = np.log(np.maximum(values, 1e-12))
        return np.asarray(np.exp((1 - share) * logs[below, columns] + share * logs[below + 1, columns]))
