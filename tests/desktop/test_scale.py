"""The window grows with the desktop's type, as far as the screen has room."""

import os
import unittest
from unittest import mock

from lesna.desktop import scale
from tests.desktop.driver import APP


class Scale(unittest.TestCase):
    def test_factors(self) -> None:
        for dots, points, screen, factor in ((96, 9, 1920, 1.0), (96, 11, 1920, 1.0), (120, 10, 1920, 1.25), (144, 11, 1920, 1.5),
                                             (96, 14, 1920, 1.27), (192, 22, 3840, 2.0), (144, 11, 1280, 1.21), (100, 11, 1920, 1.0),
                                             (144, 11, 1000, 1.0)):  # fmt: skip
            self.assertAlmostEqual(scale.factor_of(dots, points, screen), factor, places=2, msg=str((dots, points)))

    def test_what_somebody_chose_stays(self) -> None:
        self.assertIsNone(scale.environment_for(1.0, {}))
        self.assertIsNone(scale.environment_for(1.5, {"QT_SCALE_FACTOR": "1.2"}))
        found = scale.environment_for(1.25, {"HOME": "/x"})
        self.assertEqual(found, {"HOME": "/x", "QT_SCALE_FACTOR": "1.25", "QT_FONT_DPI": "96"})

    def test_the_program_begins_anew_only_where_it_must(self) -> None:
        with mock.patch.object(os, "execve") as anew:
            scale.follow_desktop(APP)
            anew.assert_not_called()
            with mock.patch.object(scale, "factor_of", return_value=1.5), mock.patch.dict(os.environ, clear=False) as _:
                os.environ.pop("QT_SCALE_FACTOR", None)
                scale.follow_desktop(APP)
            environment = anew.call_args[0][2]
            self.assertEqual(environment["QT_SCALE_FACTOR"], "1.5")
