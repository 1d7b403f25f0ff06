"""A feature from the layers of a drawing: floor, islands, stock beyond an open side, what is kept out, and what is wrong with it."""

import unittest

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.drawing import read_drawing
from lesna.geometry.drawn import drawn_of, layers_of
from lesna.geometry.region import Region, region_of
from lesna.model.errors import InputError
from lesna.model.job import Feature
from tests.geometry.test_drawing import drawn


def plate(space, _=None, *, clamp=((60, 30), (90, 30), (90, 60), (60, 60))) -> None:  # type: ignore[no-untyped-def]
    for layer, corners in (("PART", ((0, 0), (80, 0), (80, 50), (0, 50))), ("STOCK", ((-5, -5), (88, -5), (88, 55), (-5, 55))),
                           ("CLAMP", clamp)):  # fmt: skip
        space.add_lwpolyline(corners, close=True, dxfattribs={"layer": layer})
    space.add_circle((30, 25), 8, dxfattribs={"layer": "ISLAND"})


def feature(**values):  # type: ignore[no-untyped-def]
    return Feature.read({"kind": "profile", "dxf": "plate.dxf", "part_layer": "PART", "depth_mm": 12.0, **values})


def region(content: bytes, **values) -> Region:  # type: ignore[no-untyped-def]
    asked = feature(**values)
    return region_of(asked.drawn_as(drawn_of(asked, read_drawing(content), "plate.dxf")))


class Layers(unittest.TestCase):
    def test_each_layer_is_what_it_is_said_to_be(self) -> None:
        content = drawn(plate)
        found = region(content, island_layer="ISLAND", stock_layer="STOCK", open_sides=["x+"])
        self.assertAlmostEqual(found.floor.area, 4000 - np.pi * 64, delta=0.2)
        # the strip of stock beyond the open side is cut as well, no wider than the part
        self.assertAlmostEqual(found.cleared.area, found.floor.area + 8 * 50, delta=1e-6)
        self.assertEqual(found.bounds(3.0), (0.0, 0.0, 91.0, 50.0))
        x, y = np.arange(-9.0, 92.0, 0.5), np.arange(-6.0, 58.0, 0.5)
        away = found.outside(x, y)
        places = (int(np.argmin(abs(y - 25.0))), [int(np.argmin(abs(x - at))) for at in (84.0, 90.0, -7.0)])
        np.testing.assert_allclose(away[places], [-4, 2, 2], atol=1e-5)
        plain = shapely.distance(shapely.boundary(found.stock), shapely.points(*np.meshgrid(x, y)))
        np.testing.assert_allclose(abs(away), plain, atol=1e-5)
        self.assertEqual(layers_of(read_drawing(content)), ("CLAMP", "ISLAND", "PART", "STOCK"))

    def test_without_a_stock_layer_material_is_everywhere_but_beyond_open_sides(self) -> None:
        found = region(drawn(plate), open_sides=["x+", "y-"])
        away = found.outside(np.array([-100.0, 83.0]), np.array([25.0, -4.0]))
        self.assertLess(away[0, 0], 0)
        self.assertAlmostEqual(away[1, 1], 5.0)
        self.assertAlmostEqual(found.cleared.area, 4000.0)

    def test_what_is_kept_out_stops_the_cutter(self) -> None:
        found = region(drawn(plate), keep_out_layer="CLAMP", open_sides=["x+"])
        # a millimetre round it as well
        self.assertAlmostEqual(found.cleared.area, 4000 - 21 * 21 + (1 - np.pi / 4), delta=0.1)
        near = shapely.MultiLineString(found.walls.reshape(-1, 2, 2).tolist())
        self.assertLess(near.distance(shapely.Point(59, 40)), 1e-6)

    @settings(max_examples=25)
    @given(st.sampled_from([1, 2, 4, 5, 6]), st.floats(-500, 500), st.floats(-500, 500))
    def test_units_and_places_of_the_drawing_do_not_matter(self, unit: int, x: float, y: float) -> None:
        size = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}[unit]
        corners = [(x / size, y / size), ((x + 30) / size, y / size), ((x + 30) / size, (y + 20) / size)]
        found = region(
            drawn(lambda space, _: space.add_lwpolyline(corners, close=True, dxfattribs={"layer": "PART"}), unit)
        )
        self.assertAlmostEqual(found.floor.area, 300.0, delta=1e-3)


class Told(unittest.TestCase):
    def test_what_was_read_is_said(self) -> None:
        asked = feature(island_layer="ISLAND", stock_layer="STOCK")
        told = drawn_of(asked, read_drawing(drawn(plate, 1)), "plate.dxf").told
        self.assertEqual(told, "plate.dxf in inch: PART with 1 island, stock STOCK")
        self.assertIn("assumed since it states none", drawn_of(asked, read_drawing(drawn(plate, 0)), "plate.dxf").told)

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        def with_(layer: str, *corners: tuple[float, float], closed: bool = True):  # type: ignore[no-untyped-def]
            def draw(space, _):  # type: ignore[no-untyped-def]
                plate(space)
                space.add_lwpolyline(corners, close=closed, dxfattribs={"layer": layer})

            return drawn(draw)

        bow = ((100, 0), (120, 20), (120, 0), (100, 20))
        for content, values, words in (
            (with_("PART", *bow), {}, "crosses itself .*110 10"), (with_("PART", (0, 90), (9, 90), (9, 99), closed=False), {}, "open at x"),
            (with_("PART", (100, 0), (120, 0), (120, 9)), {}, "beside each other, one at x 1"),
            (drawn(plate), {"part_layer": "WALL"}, "no outline on a layer WALL; its layers are CLAMP"),
            (drawn(plate), {"part_layer": None, "island_layer": "NONE"}, "layer NONE"),
            (with_("ISLAND", (78, 20), (85, 20), (85, 30)), {"island_layer": "ISLAND"}, "island 2 at x .* does not lie inside"),
            (with_("FAR", (200, 0), (220, 0), (220, 9)), {"stock_layer": "FAR"}, "stock at x 2.* does not meet"),
            (with_("OVER", (-9, -9), (99, -9), (99, 99), (-9, 99)), {"keep_out_layer": "OVER"}, "covers the whole floor"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                region(content, **values)

    def test_a_side_that_no_edge_lies_on_cannot_be_open(self) -> None:
        content = drawn(lambda space, _: space.add_circle((0, 0), 20, dxfattribs={"layer": "PART"}))
        with self.assertRaisesRegex(InputError, "no edge on the side x"):
            region(content, open_sides=["x+"])

    def test_keys_of_other_kinds_are_refused(self) -> None:
        for values, words in (({"kind": "pocket"}, 'belongs to a feature of kind "profile"'), ({"dxf": None}, "is missing"),
                              ({"profile_mm": [[0, 0], [1, 0], [1, 1]]}, "belongs to a pocket"),
                              ({"open_sides": ["z+"]}, "must be one of")):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                feature(**values)


class Corners(unittest.TestCase):
    def test_what_a_cutter_leaves_in_corners(self) -> None:
        square = Region(shapely.box(0, 0, 60, 40))
        area, places = square.kept(6.0)
        self.assertAlmostEqual(area, (4 - np.pi) * 36, delta=0.3)
        self.assertEqual(len(places), 4)
        self.assertEqual(square.reaching(6.0), 0.0)
        rounded = Region(shapely.box(0, 0, 60, 40).buffer(-4).buffer(4, quad_segs=64))
        self.assertAlmostEqual(rounded.reaching(6.0), 4.0, delta=0.1)
        self.assertEqual(Region(shapely.box(0, 0, 60, 40).buffer(-8).buffer(8)).kept(6.0)[1], ())


if __name__ == "__main__":
    unittest.main()
