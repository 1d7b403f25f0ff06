"""The first start on a machine: a rough map soon, true progress, and nothing decided by the rough one."""

import threading
from unittest import mock

from lesna.physics import engine
from tests.desktop.driver import APP, WindowTest, wait_for


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

    def test_it_does_not_wait_for_what_rests_meanwhile(self) -> None:
        resting = threading.Semaphore(0)

        def rests(pulse) -> None:  # type: ignore[no-untyped-def]
            resting.release()
            pulse.check()

        wait_for(lambda: self.answers.map.value is not None)
        for number in range(3):
            self.running.runner.run(f"long {number}", rests, lambda _: None, lambda _: None, queue="long")
        for _ in range(2):
            wait_for(lambda: resting.acquire(blocking=False))
        self.session.select(2)
        wait_for(lambda: self.answers.map.value is not None and self.answers.map.value.DC == 10.0)
        self.assertTrue(self.answers.map.is_rough)

    def test_the_best_point_waits_for_the_fine_map(self) -> None:
        answer, before = self.answers.map, self.session.cut
        wait_for(lambda: answer.value is not None)
        self.bench.best_point()
        APP.processEvents()
        self.assertEqual(self.session.cut, before)
        self.ready.set()
        wait_for(lambda: self.session.cut != before)
        self.assertGreater(self.session.result.state.q, 30.0)

    def test_another_cut_drops_the_rough_map_of_the_former(self) -> None:
        wait_for(lambda: self.answers.map.value is not None)
        former = self.answers.map.value
        self.session.select(2)
        self.assertIsNot(self.answers.map.value, former)
        wait_for(lambda: self.answers.map.value is not None and self.answers.map.value.DC == 10.0)
