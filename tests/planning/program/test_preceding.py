"""Stock that an earlier cut of the job leaves: in three axes and in five, through one cut or several, and what cannot be had."""

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import parts_of
from lesna.planning.program.of_cut import run_of_cut
from lesna.planning.program.preceding import preceding_of
from lesna.planning.program.run import Run
from lesna.planning.ways.rest import before_of, earlier_in
from tests.planning.program.leaning_job import BALL, HEAD, TAIL, line
from tests.support import LIBRARY, raw

SMALL = "block:-14,-10,-8,14,10,0"


def one_pass(y: float, z: float) -> str:
    """A pass along x."""
    return (
        HEAD
        + "RAPID\n"
        + line((-24, y, 15))
        + "RAPID\n"
        + line((-24, y, z))
        + "FEDRAT/600,MMPM\n"
        + line((24, y, z))
        + TAIL
    )


def upright(y: float, z: float) -> str:
    return f"G21 G90 G94\nT1 M6\nS4000 M3\nG0 X-26. Y{y} Z10.\nG0 Z{z}\nG1 X26. F600.\nG0 Z10.\nM30\n"


class Following(unittest.TestCase):
    def setUp(self) -> None:
        place = TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)

    def job(self, *cuts: tuple[str, str, str], machine: str = "hsk63-5x-18k", **first: Any) -> Job:
        """Cuts by name, text of their program and stock."""
        out = []
        for number, (name, text, stock) in enumerate(cuts):
            (self.folder / f"{number}.cl").write_text(text)
            program = {"file": f"{number}.cl", "stock": stock}
            data = raw(
                job={"machine": machine}, tool=BALL, ae_mm=3.0, ap_mm=2.0, stick_out_mm=44.0, name=name, program=program
            )
            out.append({**data["cuts"][0], **(first if number == 0 else {})})
        return Job.read({**data, "cuts": out})

    def run_of(self, job: Job, index: int) -> Run:
        ref = job.cuts[index].program
        assert ref is not None
        before = preceding_of(job, LIBRARY, self.folder, ref.stock, (job.cuts[index].name,))
        return run_of_cut(parts_of(job, index, LIBRARY), ref, self.folder, {}, before=before)

    def test_five_axes(self) -> None:
        job = self.job(
            ("One", one_pass(0, -3), SMALL),
            ("Two", one_pass(3, -3), "after:One"),
            ("Three", one_pass(3, -3.5), "after: Two"),
        )
        volumes = [self.run_of(job, k) for k in range(3)]
        left = [run.geometry.left.volume for run in volumes]
        self.assertGreater(left[0], left[1])
        self.assertGreater(left[1], left[2])
        # beside what is gone the tool is engaged less than in the full
        angles = [float(np.median(run.geometry.engagement.angle[run.geometry.contact])) for run in volumes]
        self.assertLess(angles[1], 0.85 * angles[0])
        self.assertIn("what 'Two' leaves", volumes[2].geometry.work.stock.told)

    def test_three_axes(self) -> None:
        job = self.job(("One", upright(0, -3), SMALL), ("Two", upright(3, -3), "after:One"), machine="vmc40-12k")
        alone = self.run_of(self.job(("Two", upright(3, -3), SMALL), machine="vmc40-12k"), 0)
        job = self.job(("One", upright(0, -3), SMALL), ("Two", upright(3, -3), "after:One"), machine="vmc40-12k")
        after = self.run_of(job, 1)
        self.assertLess(after.geometry.engagement.volume.sum(), 0.8 * alone.geometry.engagement.volume.sum())

    def test_what_cannot_be_had(self) -> None:
        for cuts, told in (
            ((("One", one_pass(0, -3), "after:None such"),), "no cut is named 'None such'"),
            ((("One", one_pass(0, -3), "after:One"),), "goes in a circle"),
            ((("One", one_pass(0, -3), "after:Two"), ("Two", one_pass(0, -3), "after:One")), "goes in a circle"),
            ((("One", one_pass(0, -3).replace("SPINDL", "CIRCLE"), SMALL), ("Two", one_pass(0, -3), "after:One")), "'One' goes before"),
        ):  # fmt: skip
            with self.subTest(told=told), self.assertRaisesRegex(InputError, told):
                self.run_of(self.job(*cuts), len(cuts) - 1)
        job = self.job(("One", one_pass(0, -3), SMALL), ("Two", one_pass(3, -3), "after:One"))
        (self.folder / "0.cl").unlink()
        with self.assertRaisesRegex(InputError, "0.cl, does not exist; choose it again in Path"):
            self.run_of(job, 1)

    def test_a_path_of_three_axes_does_not_follow_five(self) -> None:
        job = self.job(("One", one_pass(0, -3), SMALL), ("Two", one_pass(3, -3), SMALL))
        earlier = earlier_in(job, 1, LIBRARY, self.folder, "One")
        assert earlier is not None
        with self.assertRaisesRegex(InputError, "goes before in five axes"):
            before_of(earlier)


if __name__ == "__main__":
    unittest.main()
