"""Ways kept in the user's cache: the same as made, made anew where what is kept is damaged, and never where nothing can be kept."""

import tempfile
import unittest
from dataclasses import fields, replace
from pathlib import Path
from unittest import mock

import numpy as np

from lesna.geometry.region import region_of
from lesna.model.errors import InputError
from lesna.model.job import Feature
from lesna.paths.demand import Demand
from lesna.planning.routes import kept, profile
from tests import support

POCKET = {"kind": "pocket", "length_mm": 60.0, "width_mm": 40.0, "depth_mm": 12.0, "corner_radius_mm": 8.0}


class Kept(unittest.TestCase):
    def setUp(self) -> None:
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name) / "cache"
        patched = mock.patch.object(kept, "cache_folder", lambda: self.folder)
        patched.start()
        self.addCleanup(patched.stop)
        found = profile.floor_of(support.parts(support.job(feature=POCKET)))
        self.floor = profile.Floor(found.region, found.generator, found.demand)

    def fresh(self) -> profile.Profile:
        """The profile of a floor that this process knows nothing of."""
        return profile.Floor(self.floor.region, self.floor.generator, self.floor.demand).profile(2.0)

    def test_what_is_kept_is_what_was_made(self) -> None:
        made = self.fresh()
        with mock.patch.object(profile, "_made", side_effect=AssertionError("it was kept")):
            again = self.fresh()
        for one in fields(profile.Profile):
            np.testing.assert_array_equal(getattr(made, one.name), getattr(again, one.name))

    def test_what_is_damaged_is_made_anew(self) -> None:
        made = self.fresh()
        (file,) = (self.folder / "ways").glob("*.npz")
        whole = file.read_bytes()
        for content in (b"", b"PK nonsense", whole[: len(whole) // 2], whole[:200] + b"\x00" * 50 + whole[250:]):
            file.write_bytes(content)
            self.assertEqual(self.fresh().length.sum(), made.length.sum())

    def test_why_no_way_is_made_is_kept_too(self) -> None:
        with mock.patch.object(
            profile, "_made", side_effect=InputError("leaves nothing to cut here", "feature")
        ) as making:
            for _ in range(2):
                with self.assertRaisesRegex(InputError, "leaves nothing to cut"):
                    self.fresh()
            self.assertEqual(making.call_count, 1)

    def test_where_nothing_can_be_kept_it_is_made(self) -> None:
        self.folder = support.READ_ONLY / "nowhere"
        self.assertGreater(self.fresh().length.sum(), 0)

    def test_keys_tell_floors_walls_and_cutters_apart(self) -> None:
        demand = Demand(6.0, 2.0)
        region = region_of(Feature.read(POCKET))
        wider = region_of(Feature.read({**POCKET, "width_mm": 41.0}))
        several = ((region, "held", demand), (region, "offsets", demand), (region, "held", replace(demand, wall=0.3)),
                   (wider, "held", demand), (replace(region, open_sides=frozenset({"x+"})), "held", demand))  # fmt: skip
        keys = {kept.key_of(*one) for one in several}
        self.assertEqual(len(keys), 5)
        self.assertEqual(
            kept.key_of(region, "held", demand), kept.key_of(region_of(Feature.read(POCKET)), "held", replace(demand))
        )

    def test_the_oldest_go_where_there_are_too_many(self) -> None:
        with mock.patch.multiple(kept, _MOST=3, _AT_ONCE=2):
            for k in range(5):
                kept.keep(f"key{k}", {"a": np.arange(k)})
        self.assertLessEqual(len(list((self.folder / "ways").glob("*.npz"))), 3)
        self.assertIsNotNone(kept.kept("key4"))


if __name__ == "__main__":
    unittest.main()
