"""Stock as it is named: blocks, surfaces, outlines of drawings by layer, and every way in which that goes wrong."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from lesna.model.errors import InputError
from lesna.model.resolve import parts_of
from lesna.nc.read import read_program
from lesna.planning.program.simulate import simulate
from lesna.planning.program.stock import check_form, stamp_of, stock_for, stock_of_program
from tests.geometry.test_drawing import drawn
from tests.stock.test_surface import binary, box
from tests.support import LIBRARY, job

POCKET = {"kind": "pocket", "length_mm": 80.0, "width_mm": 50.0, "depth_mm": 12.0}


def plate(space, _):  # type: ignore[no-untyped-def]
    space.add_lwpolyline([(0, 0), (60, 0), (60, 40), (0, 40)], close=True, dxfattribs={"layer": "STOCK"})
    space.add_circle((20, 20), 5, dxfattribs={"layer": "STOCK"})
    space.add_circle((90, 20), 5, dxfattribs={"layer": "BESIDE"})
    space.add_circle((120, 20), 5, dxfattribs={"layer": "BESIDE"})
    space.add_lwpolyline([(0, 0), (9, 9), (9, 0), (0, 9)], close=True, dxfattribs={"layer": "BOW"})
    space.add_lwpolyline([(0, 0), (9, 0), (9, 9)], dxfattribs={"layer": "OPEN"})


class Named(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.parts = parts_of(job(feature=POCKET), 0, LIBRARY)
        (self.folder / "plate.dxf").write_bytes(drawn(plate))
        (self.folder / "plate.stl").write_bytes(binary(box((-10, -20, -30), (40, 50, 2))))

    def named(self, text: str):  # type: ignore[no-untyped-def]
        return stock_for(text, self.parts, self.folder)

    def test_a_surface(self) -> None:
        found = self.named("plate.stl")
        self.assertEqual((found.low, found.high), ((-10, -20, -30), (40, 50, 2)))
        self.assertAlmostEqual(found.height_map(0.5).top, 2.0)
        self.assertIn("plate.stl", found.told)

    def test_an_outline_is_pulled_up_by_the_depth_of_the_feature(self) -> None:
        for text in ("plate.dxf:STOCK", "plate.dxf:stock", "plate.dxf"):
            found = self.named(text)
            self.assertEqual((found.low, found.high), ((0, 0, -12), (60, 40, 0)))
            self.assertEqual(len(found.shape.interiors), 1)
            held = found.height_map(0.5)
            self.assertAlmostEqual(held.volume / 13.0, 2400 - 78.5, delta=15)

    def test_nothing_is_the_block_of_the_feature(self) -> None:
        self.assertEqual(self.named("").high, (40.0, 25.0, 0.0))

    def test_a_block_as_large_as_where_the_program_goes(self) -> None:
        start = "G21 G17 G90 G94\nT1 M6\nS3183 M3\nG0 X-50. Y-20. Z5.\n"
        for text, low, high in (
            ("G1 Z-4. F200.\nX40.\nY10.\nG0 Z5.\n", (-56.0, -26.0, -4.0), (46.0, 16.0, 0.0)),
            # zero at the table: the first level is as deep as the next, a retract at a feed says nothing
            ("Z25.\nG1 Z18. F200.\nX40.\nZ12.\nX-10.\nG1 Z30.\n", (-56.0, -26.0, 12.0), (46.0, -14.0, 24.0)),
        ):
            with self.subTest(text=text):
                stock = stock_of_program(read_program((start + text).encode()).moves, None, 6.0)
                np.testing.assert_allclose((stock.low, stock.high), (low, high))
                self.assertFalse(stock.is_given)
        # a T number that the program lacks is told of the program, not of its stock
        flat = parts_of(job(feature=None), 0, LIBRARY)
        text = (start + "G1 Z-4. F200.\nX40.\n").encode()
        with self.assertRaisesRegex(InputError, "T9 makes no feed move"):
            simulate(text, flat, stock_for("", flat, None), tool=9)
        with self.assertRaisesRegex(InputError, "give it as block"):
            stock_of_program(read_program((start + "G1 X5. F100.\n").encode()).moves, None, 6.0)

    def test_what_goes_wrong(self) -> None:
        for text, words in (("plate.dxf:BESIDE", "several outlines beside each other"), ("plate.dxf:BOW", "crosses itself"),
                            ("plate.dxf:OPEN", "open at x 0.000"), ("plate.dxf:NONE", "no outline on a layer NONE"),
                            ("gone.stl", "gone.stl: does not exist"), ("plate.step", "not understood"), ("cube", "not understood"),
                            ("block:1,2", "six numbers"), ("block:5,0,0,1,1,1", "below its partner")):  # fmt: skip
            with self.subTest(text=text), self.assertRaisesRegex(InputError, words):
                self.named(text)
        flat = parts_of(job(feature=None), 0, LIBRARY)
        self.assertIsNone(stock_for("", flat, self.folder), "nobody has said: it is told from the program")
        with self.assertRaisesRegex(InputError, "an outline needs a depth"):
            stock_for("plate.dxf", flat, self.folder)
        (self.folder / "two.dxf").write_bytes(
            drawn(lambda s, _: [s.add_circle((0, 0), 5, dxfattribs={"layer": n}) for n in "AB"])
        )
        with self.assertRaisesRegex(InputError, "outlines on A, B; name one, as in two.dxf:STOCK"):
            self.named("two.dxf")

    def test_its_form_is_checked_without_reading(self) -> None:
        (self.folder / "broken.stl").write_bytes(b"?")
        for text in ("", "block:0,0,0,1,1,1", "plate.stl", "broken.stl", "plate.dxf:ANY"):
            check_form(text, self.folder)
        for text in ("cube", "gone.dxf", "block:1"):
            with self.subTest(text=text), self.assertRaises(InputError):
                check_form(text, self.folder)

    def test_a_file_that_changes_has_another_stamp(self) -> None:
        before = stamp_of("plate.stl", self.folder)
        (self.folder / "plate.stl").write_bytes(binary(box((0, 0, 0), (1, 1, 1))[:6]))
        self.assertNotEqual(stamp_of("plate.stl", self.folder), before)
        self.assertEqual(stamp_of("block:0,0,0,1,1,1", self.folder), (None,))
        self.assertEqual(stamp_of("gone.stl;G55=plate.stl", self.folder)[0], None)
        self.assertEqual(stamp_of("gone.stl;G55=plate.stl", self.folder)[1], stamp_of("plate.stl", self.folder)[0])


if __name__ == "__main__":
    unittest.main()
