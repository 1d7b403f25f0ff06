"""What the shop's own trials teach of one set-up, in the form in which every computation takes it."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model.shown import counted

#: edges of a set-up itself from which its own scatter counts, and a quote is the shop's own
KNOWN_FROM = 5


@dataclass(frozen=True)
class Lesson:
    """How far edges, forces and chatter lie off the tables, and how well that is known.

    Attributes
    ----------
    edges, others : int
        Edges of the set-up itself, and of neighbours that were believed in part.
    own_share : float
        Share of what is known that comes from its own edges, 0 to 1 [-].
    level : float
        ln of life over the table's, at the reference of the row [-].
    by_speed, by_chip : float
        What the exponents of speed and chip thickness are off the table's [-].
    scatter : float
        Spread of ln life of the next edge, what is not known of the median among it [-].
    spread : float
        Standard deviation of ln of the median life [-].
    breaks, break_minutes : float
        Edges that broke, with half a one for those to come, and minutes in the cut that they broke in [min].
    force, force_low, force_high : float
        Factor on the force, and the band that holds it in nine of ten [-].
    force_edges : int
        Edges whose spindle load said so.
    depth, depth_low, depth_high : float
        Factor on the estimated depth of chatter, and its band [-].
    depth_looks : int
        Calm and chattering cuts that said so.
    """

    edges: int = 0
    others: int = 0
    own_share: float = 0.0
    level: float = 0.0
    by_speed: float = 0.0
    by_chip: float = 0.0
    scatter: float = 0.37
    spread: float = 0.0
    breaks: float = 0.5
    break_minutes: float = 450.0
    force: float = 1.0
    force_low: float = 1.0
    force_high: float = 1.0
    force_edges: int = 0
    depth: float = 1.0
    depth_low: float = 1.0
    depth_high: float = 1.0
    depth_looks: int = 0

    @property
    def of_life(self) -> str:
        """What says how long an edge lives, in few words; empty where only the tables do."""
        if self.edges:
            return f"from {counted(self.edges, 'edge')}"
        return f"like {counted(self.others, 'edge')}" if self.others else ""

    @property
    def of_force(self) -> str:
        """What says how large the force is; empty where only the tables do."""
        return f"from {counted(self.force_edges, 'edge')}" if self.force_edges else ""
