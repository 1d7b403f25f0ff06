"""The outlines of a feature from its drawing, layer by layer."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from lesna.geometry.drawing import Drawing
from lesna.model.drawn import Drawn, Outline
from lesna.model.errors import InputError
from lesna.model.job import Feature

if TYPE_CHECKING:
    from shapely import Polygon

_PART = "PART"


def drawn_of(feature: Feature, drawing: Drawing, name: str) -> Drawn:
    """What a drawing says of a feature; its trouble is told instead of raised."""
    try:
        return _read(feature, drawing, name)
    except InputError as error:
        return Drawn(layers=layers_of(drawing), trouble=f"{name}: {error}")


def layers_of(drawing: Drawing) -> tuple[str, ...]:
    """Layers that hold outlines, also open ones."""
    return tuple(sorted({*drawing.outlines, *(gap.layer for gap in drawing.gaps)}))


def _read(feature: Feature, drawing: Drawing, name: str) -> Drawn:
    layer = feature.part_layer or _part_layer(drawing)
    shapes = _polygons(drawing, layer)
    outer, inner = shapes[0], shapes[1:]
    for shape in inner:
        if not outer.contains(shape):
            x, y = shape.representative_point().coords[0]
            raise InputError(
                f"layer {layer} has outlines beside each other, one at x {x:.3f}, y {y:.3f}; give each as a feature of its own"
            )
    if feature.island_layer:
        inner = [*inner, *_polygons(drawing, feature.island_layer)]
    stock = _polygons(drawing, feature.stock_layer) if feature.stock_layer else []
    keep_out = _polygons(drawing, feature.keep_out_layer) if feature.keep_out_layer else []
    told = f"{name} in {drawing.units}{'' if drawing.stated else ', assumed since it states none'}: {layer}"
    told += f" with {len(inner)} {'island' if len(inner) == 1 else 'islands'}" if inner else ""
    told += f", stock {feature.stock_layer}" if stock else ""
    told += f", keep out of {feature.keep_out_layer}" if keep_out else ""
    if drawing.left_out:
        told += f"; left out: {', '.join(f'{n} {kind}' for kind, n in sorted(drawing.left_out.items())[:4])}"
    return Drawn(_corners([outer])[0], _corners(inner), _corners(stock), _corners(keep_out), layers_of(drawing), told)


def _part_layer(drawing: Drawing) -> str:
    layers = layers_of(drawing)
    named = [layer for layer in layers if layer.casefold() == _PART.casefold()] or list(layers)
    if len(named) != 1:
        raise InputError(f"has outlines on {', '.join(layers[:8])}; name the part's as part_layer")
    return named[0]


def _polygons(drawing: Drawing, layer: str) -> list[Polygon]:
    """Outlines of a layer, the largest first."""
    import shapely

    shapes = sorted((shapely.Polygon(outline) for outline in drawing.of(layer)), key=lambda shape: -shape.area)
    for shape in shapes:
        if not shape.is_valid:
            where = str(shapely.is_valid_reason(shape)).lower().replace("[", " at ").replace("]", "")
            raise InputError(f"layer {layer}: an outline crosses itself ({where})")
    if not shapes:
        raise InputError(f"layer {layer} holds no closed outline")
    return shapes


def _corners(shapes: Sequence[Polygon]) -> tuple[Outline, ...]:
    return tuple(tuple((float(x), float(y)) for x, y in shape.exterior.coords[:-1]) for shape in shapes)
