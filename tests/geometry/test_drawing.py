"""Outlines of drawings: every kind of curve joined end to end, units, gaps with their place, and what is refused."""

import io
import math
import unittest

import ezdxf
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lesna.geometry.drawing import read_drawing
from lesna.model.errors import InputError


def drawn(draw, unit: int | None = 4) -> bytes:  # type: ignore[no-untyped-def]
    document = ezdxf.new()
    if unit is not None:
        document.header["$INSUNITS"] = unit
    draw(document.modelspace(), document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def area(outline) -> float:  # type: ignore[no-untyped-def]
    x, y = outline.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2


class Curves(unittest.TestCase):
    def test_circles_ellipses_splines_and_bulges_to_a_tolerance(self) -> None:
        def draw(space, _):  # type: ignore[no-untyped-def]
            space.add_circle((5, 5), 10, dxfattribs={"layer": "A"})
            space.add_ellipse((0, 0), major_axis=(20, 0), ratio=0.5, dxfattribs={"layer": "B"})
            space.add_lwpolyline([(0, 0, 1), (10, 0, 1)], format="xyb", close=True, dxfattribs={"layer": "C"})
            corners = [(10 * math.cos(t), 10 * math.sin(t)) for t in np.linspace(0, 2 * math.pi, 40, endpoint=False)]
            space.add_spline([*corners, corners[0]], dxfattribs={"layer": "D"})

        found = read_drawing(drawn(draw))
        for layer, exact in (("A", math.pi * 100), ("B", math.pi * 200), ("C", math.pi * 25), ("D", math.pi * 100)):
            self.assertAlmostEqual(area(found.of(layer)[0]) / exact, 1.0, delta=3e-3)
        circle = found.of("A")[0]
        middles = (circle + np.roll(circle, -1, axis=0)) / 2
        for points in (circle, middles):
            self.assertLess(np.abs(np.hypot(*(points - 5).T) - 10).max(), 0.006)

    def test_loose_lines_and_arcs_join_whatever_way_they_run(self) -> None:
        def draw(space, _):  # type: ignore[no-untyped-def]
            space.add_line((30, 0), (0, 0))
            space.add_arc((30, 10), 10, 270, 90)
            space.add_line((0, 20), (30, 20.005))
            space.add_line((0, 0), (0, 20))

        outline = read_drawing(drawn(draw)).of("0")[0]
        self.assertAlmostEqual(area(outline), 600 + math.pi * 50, delta=1.0)

    @settings(max_examples=25)
    @given(st.permutations(range(7)), st.lists(st.booleans(), min_size=7, max_size=7), st.sampled_from([1, 4, 5, 6]))
    def test_any_order_and_unit(self, order, turned, unit: int) -> None:  # type: ignore[no-untyped-def]
        factor = {1: 25.4, 4: 1.0, 5: 10.0, 6: 1000.0}[unit]
        corners = [(10 + 5 * math.cos(2 * math.pi * k / 7), 5 * math.sin(2 * math.pi * k / 7)) for k in range(7)]

        def draw(space, _):  # type: ignore[no-untyped-def]
            for k in order:
                ends = (corners[k], corners[(k + 1) % 7])
                space.add_line(*(ends[::-1] if turned[k] else ends))

        found = read_drawing(drawn(draw, unit))
        self.assertTrue(found.stated)
        exact = 3.5 * 25 * math.sin(2 * math.pi / 7) * factor**2
        self.assertAlmostEqual(area(found.of("0")[0]) / exact, 1.0, delta=1e-9)

    def test_blocks_are_opened(self) -> None:
        def draw(space, document):  # type: ignore[no-untyped-def]
            block = document.blocks.new("PLATE")
            block.add_lwpolyline([(0, 0), (10, 0), (10, 10), (0, 10)], close=True, dxfattribs={"layer": "P"})
            space.add_blockref("PLATE", (100, 0), dxfattribs={"xscale": 2.0, "yscale": 2.0})

        self.assertAlmostEqual(area(read_drawing(drawn(draw)).of("p")[0]), 400.0)


class Refusals(unittest.TestCase):
    def test_a_gap_is_told_with_its_place(self) -> None:
        def draw(space, _):  # type: ignore[no-untyped-def]
            space.add_lwpolyline([(0, 0), (10, 0), (10, 10), (0, 0.5)], dxfattribs={"layer": "PART"})

        found = read_drawing(drawn(draw))
        self.assertAlmostEqual(found.gaps[0].width, 0.5)
        with self.assertRaisesRegex(
            InputError, "layer PART: the outline is open at x 0.000, y 0.000; its ends are 0.500 mm"
        ):
            found.of("part")

    def test_units_that_are_not_stated_are_millimetres(self) -> None:
        found = read_drawing(drawn(lambda space, _: space.add_circle((0, 0), 1), unit=0))
        self.assertEqual((found.units, found.stated), ("mm", False))

    def test_what_is_no_outline_is_counted(self) -> None:
        def draw(space, _):  # type: ignore[no-untyped-def]
            space.add_circle((0, 0), 1)
            space.add_text("FACE A")
            space.add_line((0, 0, 0), (5, 0, 9))

        self.assertEqual(read_drawing(drawn(draw)).left_out, {"TEXT": 1, "3D LINE": 1})

    def test_no_drawing(self) -> None:
        solid = drawn(lambda space, _: space.add_3dface([(0, 0, 0), (1, 0, 0), (1, 1, 5)]))
        far = drawn(lambda space, _: space.add_circle((1e9, 0), 5))
        for content, words in ((b"", "begin with a section"), (b"\x00\xff" * 90, "begin with a section"), (solid, "no flat outline"),
                               (far, "beyond 100000 mm"), (b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nx\n", "DXF|no flat")):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                read_drawing(content)
        with self.assertRaisesRegex(InputError, "no outline on a layer PART; its layers are 0"):
            read_drawing(drawn(lambda space, _: space.add_circle((0, 0), 5))).of("PART")


if __name__ == "__main__":
    unittest.main()
