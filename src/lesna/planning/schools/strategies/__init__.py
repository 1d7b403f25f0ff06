"""The schools of roughing, one registry entry each. Adding one is adding an entry; nothing else knows them by name."""

from lesna.planning.schools.strategies import high_feed, radial, slotting, surfacing, trochoid, two_tools  # noqa: F401
from lesna.planning.schools.strategies.base import REGISTRY, Case, Stage, Strategy, corner_rest, passes_of

__all__ = ["REGISTRY", "Case", "Stage", "Strategy", "corner_rest", "passes_of"]
