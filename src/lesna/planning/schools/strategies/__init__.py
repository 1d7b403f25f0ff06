"""The schools of roughing, one registry entry each. Adding one is adding an entry; nothing else knows them by name."""

from lesna.planning.schools.strategies import chamfering, high_feed, radial, slotting, surfacing, trochoid, two_tools  # noqa: F401
from lesna.planning.schools.strategies.base import (
    CHAMFER,
    REGISTRY,
    Case,
    Stage,
    Strategy,
    corner_rest,
    passes_of,
    schools_for,
)

__all__ = ["CHAMFER", "REGISTRY", "Case", "Stage", "Strategy", "corner_rest", "passes_of", "schools_for"]
