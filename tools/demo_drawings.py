"""Writes the shipped drawing of the Kilnbrook valve plate: ``python tools/demo_drawings.py``."""

from __future__ import annotations

import math
from pathlib import Path

import ezdxf

FOLDER = Path(__file__).parents[1] / "src" / "lesna" / "data" / "demo"
#: bulge of a quarter circle
_QUARTER = math.tan(math.pi / 8)


def valve_plate() -> ezdxf.document.Drawing:
    """The seat of a paddle valve: open towards the water, a boss for the spindle and a rib, held by two clamps."""
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    space = document.modelspace()

    def outline(layer: str, *corners: tuple[float, ...]) -> None:
        space.add_lwpolyline(corners, format="xyb", close=True, dxfattribs={"layer": layer})

    # the floor: straight on the open side, corners of 12 and 20 mm elsewhere
    outline("PART", (20, 0, 0), (108, 0, _QUARTER), (120, 12, 0), (120, 80, 0), (0, 80, 0), (0, 20, _QUARTER))
    outline("STOCK", (-25, -25, 0), (145, -25, 0), (145, 86, 0), (-25, 86, 0))
    space.add_circle((38, 36), 11, dxfattribs={"layer": "ISLAND"})
    outline("ISLAND", (72, 22, 0), (94, 22, 1), (94, 34, 0), (72, 34, 1))
    outline("CLAMP", (128, 30, 0), (145, 30, 0), (145, 56, 0), (128, 56, 0))
    outline("CLAMP", (-25, 30, 0), (-8, 30, 0), (-8, 56, 0), (-25, 56, 0))
    return document


if __name__ == "__main__":
    valve_plate().saveas(FOLDER / "valve-plate.dxf")
