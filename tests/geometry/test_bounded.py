"""Drawings, surfaces and programs that would never end, or say what they do not hold: a sentence with the thing or its line."""

import io
import struct
import unittest

import ezdxf
import numpy as np

from lesna.geometry.drawing import read_drawing
from lesna.geometry.solid import open_at, read_stl
from lesna.model.errors import InputError
from lesna.nc.read import read_program
from lesna.planning.program.run import geometry_of
from lesna.stock.surface import surface_map
from tests.planning.program.test_run import work

SQUARE = [(0, 0), (60, 0), (60, 40), (0, 40)]


def drawn(fill, units: int = 4) -> bytes:  # type: ignore[no-untyped-def]
    """A drawing that a function fills."""
    document = ezdxf.new(units=units)
    fill(document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def box() -> np.ndarray:
    """Twelve triangles of a closed block."""
    x = np.array([[a, b, c] for a in (0.0, 10.0) for b in (0.0, 8.0) for c in (0.0, 6.0)])
    faces = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    return np.array([x[[a, b, c]] for p, q, r, s in faces for a, b, c in ((p, q, r), (p, r, s))])


def text_of(triangles: np.ndarray, name: str = "part") -> str:
    """As a text file."""
    facets = "".join(
        "facet normal 0 0 0\nouter loop\n"
        + "".join(f"vertex {x} {y} {z}\n" for x, y, z in triangle)
        + "endloop\nendfacet\n"
        for triangle in triangles
    )
    return f"solid {name}\n{facets}endsolid {name}\n"


def binary_of(triangles: np.ndarray, stated: int | None = None) -> bytes:
    """As a binary file."""
    rows = b"".join(struct.pack("<12fH", 0, 0, 0, *triangle.ravel(), 0) for triangle in triangles)
    return b"\0" * 80 + struct.pack("<I", len(triangles) if stated is None else stated) + rows


class Drawings(unittest.TestCase):
    def refused(self, fill, words: str) -> None:  # type: ignore[no-untyped-def]
        with self.assertRaisesRegex(InputError, words):
            read_drawing(drawn(fill))

    def test_blocks_of_blocks(self) -> None:
        def fill(document) -> None:  # type: ignore[no-untyped-def]
            for deep in range(8):
                block = document.blocks.new(f"B{deep}")
                for _ in range(12):
                    if deep:
                        block.add_blockref(f"B{deep - 1}", (0, 0))
                    else:
                        block.add_line((0, 0), (1, 0))
            document.modelspace().add_blockref("B7", (0, 0))

        self.refused(fill, "put in more than")

    def test_circles_of_a_planet_and_knots_that_fall(self) -> None:
        self.refused(lambda d: d.modelspace().add_circle((0, 0), 1e12), "CIRCLE .* on layer 0: has a coordinate beyond")

        def spline(knots: list[float]):  # type: ignore[no-untyped-def]
            def fill(document) -> None:  # type: ignore[no-untyped-def]
                curve = document.modelspace().add_spline(degree=3)
                curve.control_points = [(0, 0, 0), (5, 9, 0), (9, 2, 0), (14, 0, 0)]
                curve.knots = knots

            return fill

        self.refused(spline([0, 0, 0, 0, 1, 0.5, 1, 1]), "SPLINE .* knots fall")

    def test_an_outline_of_many_lines_is_joined_at_once(self) -> None:
        angle = np.linspace(0, 2 * np.pi, 4_001)
        points = np.column_stack((80 * np.cos(angle), 80 * np.sin(angle))).tolist()

        def fill(document) -> None:  # type: ignore[no-untyped-def]
            for a, b in zip(points[:-1], points[1:], strict=True):
                document.modelspace().add_line(a, b)

        found = read_drawing(drawn(fill))
        self.assertEqual(len(found.of("0")), 1)
        self.assertEqual(len(found.of("0")[0]), 4_000)

    def test_array_inserts_are_expanded_up_to_a_bound(self) -> None:
        def grid(rows: int):  # type: ignore[no-untyped-def]
            def fill(document) -> None:  # type: ignore[no-untyped-def]
                document.blocks.new("P").add_lwpolyline(SQUARE, close=True)
                insert = document.modelspace().add_blockref("P", (0, 0))
                insert.grid((rows, 3), (100, 100))

            return fill

        self.assertEqual(len(read_drawing(drawn(grid(2))).of("0")), 6)
        self.refused(grid(32_000), "INSERT .* times|put in more than|beyond")

    def test_units_that_are_rare(self) -> None:
        for unit, name, size in ((9, "mil", 0.0254), (10, "yard", 914.4), (3, "mile", 1_609_344.0)):
            small = [(x / size, y / size) for x, y in SQUARE]
            found = read_drawing(drawn(lambda d, p=small: d.modelspace().add_lwpolyline(p, close=True), unit))
            self.assertEqual(found.units, name)
            self.assertAlmostEqual(float(np.ptp(found.of("0")[0][:, 0])), 60.0, places=3)


class Surfaces(unittest.TestCase):
    def test_text_in_capitals_and_two_solids_are_read(self) -> None:
        self.assertEqual(len(read_stl(text_of(box()).upper().encode())), 12)
        both = read_stl((text_of(box()) + text_of(box() + 20.0, "other")).encode())
        self.assertEqual(both.shape, (24, 3, 3))
        np.testing.assert_allclose(read_stl(binary_of(box())), box())

    def test_what_it_does_not_hold_is_told(self) -> None:
        for content, words in (
            (binary_of(box(), 40), "states 40 triangles and holds 12"), (binary_of(box(), 3), "states 3 triangles and holds 12"),
            (text_of(box()).replace("vertex", "point", 1).encode(), "triangle 1 has 2 corners"),
            (text_of(box()).replace("10.0", "nowhere", 1).encode(), "no number"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                read_stl(content)

    def test_an_open_surface_names_its_place(self) -> None:
        self.assertIsNone(open_at(box()))
        place = open_at(box()[1:])
        assert place is not None
        self.assertIn(tuple(place), {tuple(corner) for corner in box().reshape(-1, 3).tolist()})

    def test_triangles_over_each_other(self) -> None:
        many = np.tile(np.array([[[0.0, 0, 0], [90, 0, 0], [0, 90, 5]]]), (20_000, 1, 1))
        with self.assertRaisesRegex(InputError, "times over each other"):
            surface_map(many, 0.1)


class Programs(unittest.TestCase):
    def test_a_line_without_end_and_rapids_round_the_world(self) -> None:
        with self.assertRaisesRegex(InputError, "line 2: has [0-9,]+ characters"):
            read_program(b"G21\n" + b"X1 " * 300_000 + b"\n")
        ways = "".join(f"X{400 * (-1) ** k}.\n" for k in range(31_000))
        with self.assertRaisesRegex(InputError, "line [0-9]+: up to here rapids go"):
            geometry_of(read_program(f"G21 G90\nS900 M3\nG0 X0. Y0. Z5.\nG1 Z-1. F90\nG0 Z5.\n{ways}".encode()), work())


if __name__ == "__main__":
    unittest.main()
