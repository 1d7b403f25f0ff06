"""Stock from triangles: heights over cells, upright walls to a fraction of a cell, and files that are no surface."""

import struct
import unittest

import numpy as np

from lesna.geometry.motion import LINE
from lesna.geometry.solid import read_stl
from lesna.model.errors import InputError
from lesna.stock.body import Body
from lesna.stock.steps import steps_of
from lesna.stock.surface import surface_map
from lesna.stock.walk import walk
from tests.stock.gallery import motion

#: corners of the six faces of a box, two triangles each
_FACES = ((0, 2, 1), (1, 2, 3), (4, 5, 6), (5, 7, 6), (0, 1, 4), (1, 5, 4), (2, 6, 3), (3, 6, 7), (0, 4, 2), (2, 4, 6), (1, 3, 5),
          (3, 7, 5))  # fmt: skip


def box(low, high):  # type: ignore[no-untyped-def]
    corners = np.array([[(low, high)[k >> axis & 1][axis] for axis in range(3)] for k in range(8)], dtype=float)
    return corners[np.array(_FACES)]


def binary(triangles) -> bytes:  # type: ignore[no-untyped-def]
    rows = b"".join(struct.pack("<12fH", 0, 0, 0, *t.ravel().tolist(), 0) for t in triangles)
    return b"part".ljust(80) + struct.pack("<I", len(triangles)) + rows


def text(triangles) -> bytes:  # type: ignore[no-untyped-def]
    rows = ["solid part"]
    for triangle in triangles:
        rows += [
            "facet normal 0 0 0",
            " outer loop",
            *(f"  vertex {x} {y} {z}" for x, y, z in triangle),
            " endloop",
            "endfacet",
        ]
    return "\n".join([*rows, "endsolid part", ""]).encode()


class Surfaces(unittest.TestCase):
    def test_a_box_is_the_block(self) -> None:
        found = surface_map(box((-20.07, -15, -10), (20.07, 15, 0)), 0.2)
        self.assertAlmostEqual((found.volume - 30 * 40.14) / 10.0, 40.14 * 30, delta=8.0)
        # 2 mm from its upright side, at a place between two cells
        steps = steps_of(motion([(LINE, (20.07 + 6 - 2, 30, -5), None)], (20.07 + 6 - 2, -30, -5)), 0.5)
        met = walk(found, steps, Body(6.0))
        np.testing.assert_allclose(np.degrees(met.angle[45:70]), np.degrees(np.arccos(1 - 2 / 6)), atol=0.2)
        np.testing.assert_allclose(met.depth[45:70], 5.0, atol=1e-3)

    def test_a_step_within_has_its_wall(self) -> None:
        both = np.concatenate((box((-20, -20, -10), (20, 20, 0)), box((-20, -20, 0), (3.07, 20, 6))))
        found = surface_map(both, 0.2)
        steps = steps_of(motion([(LINE, (3.07 + 6 - 1.5, 30, 0.0), None)], (3.07 + 6 - 1.5, -30, 0.0)), 0.5)
        met = walk(found, steps, Body(6.0))
        np.testing.assert_allclose(np.degrees(met.angle[45:70]), np.degrees(np.arccos(1 - 1.5 / 6)), atol=0.3)

    def test_a_slope_stands_as_high_as_it_is(self) -> None:
        wedge = np.array(
            [[(-20, -20, 0), (20, -20, 8), (20, 20, 8)], [(-20, -20, 0), (20, 20, 8), (-20, 20, 0)]], dtype=float
        )
        found = surface_map(np.concatenate((wedge, box((-20, -20, -5), (20, 20, -4)))), 0.25)
        x = found.origin[0] + found.cell * np.arange(found.height.shape[1])
        inside = np.abs(x) < 19
        np.testing.assert_allclose(found.height[found.height.shape[0] // 2][inside], (x[inside] + 20) / 5, atol=1e-4)

    def test_binary_and_text_are_one_surface(self) -> None:
        triangles = box((0, 0, 0), (4, 5, 6))
        np.testing.assert_allclose(read_stl(binary(triangles)), triangles)
        np.testing.assert_allclose(read_stl(text(triangles)), triangles)


class Refusals(unittest.TestCase):
    def test_files_that_are_no_surface(self) -> None:
        whole = binary(box((0, 0, 0), (4, 5, 6)))
        wild = binary(np.full((1, 3, 3), np.nan))
        for content, words in ((b"", "empty"), (b"hello there, no triangles at all", "STL"), (whole[:200], "STL|triangle"),
                               (wild, "triangle 1 has a coordinate"), (b"solid x\nfacet normal 0\nendsolid", "STL|no tri")):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                read_stl(content)

    def test_a_sheet_is_no_stock(self) -> None:
        flat = np.array([[(0, 0, 0), (10, 0, 0), (0, 10, 0)]], dtype=float)
        with self.assertRaisesRegex(InputError, "thin as a sheet"):
            surface_map(flat, 0.2)


if __name__ == "__main__":
    unittest.main()
