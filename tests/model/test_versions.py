"""Documents of every released version open as they did; ids are given, kept and told apart."""

import json
import unittest
from pathlib import Path

from lesna.model.errors import InputError
from lesna.model.files import job_from_text, job_text, load_job
from lesna.model.versions import VERSION, migrate, with_ids
from tests.support import job, raw

RELEASED = Path(__file__).parent / "released"


class Released(unittest.TestCase):
    def test_every_released_version_has_fixtures_that_open(self) -> None:
        for version in range(1, VERSION + 1):
            files = sorted((RELEASED / str(version)).glob("*.lesna"))
            self.assertTrue(files, f"version {version}")
            for path in files:
                written = json.loads(path.read_text())
                self.assertEqual(written["lesna"], version)
                found = load_job(path)
                self.assertEqual(found.lesna, VERSION)
                self.assertEqual([cut.name for cut in found.cuts], [cut["name"] for cut in written["cuts"]])
                self.assertEqual(len({cut.id for cut in found.cuts}), len(found.cuts))
                self.assertEqual(job_from_text(job_text(found)), found)

    def test_islands_of_a_floor_by_length_and_width_count_from_its_middle(self) -> None:
        island = [[30.0, 30.0], [40.0, 30.0], [40.0, 40.0]]
        feature = {"kind": "pocket", "length_mm": 120.0, "width_mm": 80.0, "depth_mm": 9.0, "islands_mm": [island]}
        middle = [[-30.0, -10.0], [-20.0, -10.0], [-20.0, 0.0]]
        for version, expected in ((4, middle), (5, island), (1, island)):
            with self.subTest(version=version):
                found = migrate({"lesna": version, "cuts": [{"feature": feature}]})
                self.assertEqual(found["cuts"][0]["feature"]["islands_mm"], [expected])
        outside = {**feature, "islands_mm": [[[90.0, 30.0], [100.0, 30.0], [100.0, 40.0]]]}
        found = migrate({"lesna": 1, "cuts": [{"feature": outside}]})
        self.assertEqual(found["cuts"][0]["feature"]["islands_mm"][0][0], [30.0, -10.0])

    def test_newer_and_no_versions_are_refused_in_words(self) -> None:
        for version, words in ((VERSION + 1, "written by a newer Lesna"), (0, "must be a document version"),
                               ("1", "must be a document version"), (True, "must be a document version")):  # fmt: skip
            with self.assertRaises(InputError) as caught:
                migrate({"lesna": version})
            self.assertIn(words, str(caught.exception))


class Ids(unittest.TestCase):
    def test_cuts_without_ids_get_the_same_ones_at_each_reading(self) -> None:
        first, again = job(), job()
        self.assertEqual(first.cuts[0].id, again.cuts[0].id)
        self.assertEqual([cut["id"] for cut in with_ids([{}, {"id": "cut-1"}, {}])], ["cut-2", "cut-1", "cut-3"])

    def test_kept_by_renaming_and_writing(self) -> None:
        cut = job().cuts[0]
        self.assertEqual(cut.with_values(name="Other").id, cut.id)
        self.assertIn(f'"id": "{cut.id}"', job_text(job()))

    def test_the_same_on_two_cuts_is_refused(self) -> None:
        data = raw(id="a")
        data["cuts"].append({**data["cuts"][0], "name": "Second"})
        with self.assertRaises(InputError) as caught:
            job_from_text(json.dumps(data))
        self.assertIn("cuts[1].id", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
