"""How much material a feature holds."""

from __future__ import annotations

import math

from lesna.model.job import Feature


def volume(feature: Feature | None) -> float | None:
    """Material to remove [cm3], None where a dimension is missing.

    Pockets lose what their inner corners leave standing: ``(4 - pi) r^2`` over the depth.
    """
    if feature is None or feature.length_mm is None or feature.width_mm is None or feature.depth_mm is None:
        return None
    corner = feature.corner_radius_mm or 0.0
    corners = (4 - math.pi) * corner**2 if feature.kind in ("pocket", "through") else 0.0
    return max(feature.length_mm * feature.width_mm - corners, 0.0) * feature.depth_mm / 1000.0
