"""The first start on a machine: a rough map soon, true progress, and nothing decided by the rough one."""

import functools
import threading
from unittest import mock

from lesna.desktop import map_picture
from lesna.physics import engine
from lesna.planning.cut.setup import setup_of
from lesna.planning.search.engagement_map import rough_map_of
from tests.desktop.driver import APP, WindowTest, wait_for


@functools.cache
def _plain_map(parts):  # type: ignore[no-untyped-def]
    """The rough map of a cut, summed once for all tests."""
    return rough_map_of(setup_of(parts))


class FirstStart(WindowTest):
    """The compiled sums of the map are held back until the test lets them go."""

    def setUp(self) -> None:
        self.ready = threading.Event()
        plain, kernels = engine.kernel, self.ready

        def kernel(name: str, tell=None):  # type: ignore[no-untyped-def]
            while name == "sweep" and not kernels.wait(0.02):
                (tell or (lambda done, total: None))(7, 103)
            return plain(name, tell)

        for patch in (
            mock.patch.object(engine, "kernel", kernel),
            mock.patch.object(map_picture, "rough_map_of", lambda setup: _plain_map(setup.parts)),
            mock.patch.object(engine, "is_cached", lambda: False),
        ):
            patch.start()
            self.addCleanup(patch.stop)
        super().setUp()
        self.session.select(1)

    def tearDown(self) -> None:
        self.ready.set()
        super().tearDown()

    def test_a_rough_map_comes_first_and_the_fine_one_takes_its_place(self) -> None:
        answer = self.answers.map
        wait_for(lambda: answer.value is not None)
        self.assertTrue(answer.is_rough)
        rough = answer.value
        self.assertEqual(len(rough.map.ae), 24)
        wait_for(lambda: "7 of 103" in answer.progress)
        self.cut_page.map.grab()
        self.ready.set()
        wait_for(lambda: not answer.is_rough)
        self.assertEqual(len(answer.value.map.ae), 96)
        self.assertAlmostEqual(
            answer.value.layers["removal"].ends[1] / rough.layers["removal"].ends[1], 1.0, delta=0.08
        )
        self.assertEqual(answer.progress, "")

    def test_the_best_point_waits_for_the_fine_map(self) -> None:
        answer, before = self.answers.map, self.session.cut
        wait_for(lambda: answer.value is not None)
        self.bench.best_point()
        APP.processEvents()
        self.assertEqual(self.session.cut, before)
        self.ready.set()
        wait_for(lambda: self.session.cut != before)
        self.assertGreater(self.session.result.state.q, 30.0)

    def test_another_cut_drops_the_rough_map_of_the_former_and_waits_for_nothing_that_rests(self) -> None:
        wait_for(lambda: self.answers.map.value is not None)
        former, runner = self.answers.map.value, self.running.runner
        for number in range(2):  # they rest until the fine map is there
            runner.run(f"long {number}", lambda pulse: pulse.check(), lambda _: None, lambda _: None, queue="long")
        self.session.select(2)
        self.assertIsNot(self.answers.map.value, former)
        wait_for(lambda: self.answers.map.value is not None and self.answers.map.value.DC == 10.0)
        self.assertTrue(self.answers.map.is_rough)
