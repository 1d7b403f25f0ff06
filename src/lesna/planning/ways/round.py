"""The stock that a path of our own begins with."""

from __future__ import annotations

from lesna.model.job import Feature
from lesna.planning.program.stock import Stock
from lesna.planning.ways.make import Route

#: material round a floor beyond its closed sides, over the radius
_ROUND = 1.5


def stock_round(route: Route, radius: float) -> Stock:
    """What stands before a path: what an earlier cut left, what finishing takes off, the drawn stock, or the block round a floor."""
    import shapely

    region, demand, low = route.region, route.demand, route.floor - radius
    if route.before is not None:
        x0, y0, x1, y1 = route.before.stock.extent()
        return Stock(
            (x0, y0, low),
            (x1, y1, 0.0),
            left=route.before.stock,
            told=f"what {route.before.told} leaves",
            is_given=False,
        )
    if route.generator.only_floor:
        return _pulled_up(region.cleared, low, demand.top, "what is left on the floor")
    left, lower, right, upper = region.floor.bounds
    out = {side: 0.0 if side in region.open_sides else _ROUND * radius for side in ("x-", "x+", "y-", "y+")}
    box = (left - out["x-"], lower - out["y-"], right + out["x+"], upper + out["y+"])
    if route.generator.id == "walls":
        inside = region.extended(10 * radius).buffer(-demand.wall - demand.stepover, quad_segs=64)
        whole = shapely.box(*box) if region.stock is None else region.stock
        return _pulled_up(whole.difference(inside), low, 0.0, "what is left on the walls")
    if region.stock is not None:
        return _pulled_up(region.stock, low, 0.0, "the stock that was drawn")
    return Stock((*box[:2], low), (*box[2:], 0.0), told="the block round the feature", is_given=False)


def typed(route: Route, feature: Feature | None) -> str:
    """That stock as it is typed beside a program; the block where nothing else can be written down."""
    if feature is not None and feature.dxf and feature.stock_layer and route.before is None:
        return f"{feature.dxf}:{feature.stock_layer}"
    stock = stock_round(route, route.demand.radius)
    return f"block:{','.join(f'{value:g}' for value in (*stock.low, *stock.high))}"


def _pulled_up(shape: object, low: float, high: float, told: str) -> Stock:
    x0, y0, x1, y1 = shape.bounds  # type: ignore[attr-defined]
    return Stock((x0, y0, low), (x1, y1, high), shape=shape, told=told, is_given=False)
