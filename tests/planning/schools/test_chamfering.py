"""A chamfer is a feature of its own, and keeps its chamfer mill."""

import unittest

from lesna.model import units
from lesna.model.errors import InputError
from lesna.planning.cut.features import solid_of
from lesna.planning.cut.suits import misfit
from lesna.planning.routes.wish import Wish
from lesna.planning.schools.compare import case_of, compare
from lesna.planning.schools.lanes import with_lane
from lesna.planning.schools.ranking import problem_of
from lesna.planning.search.engagement_map import best_in_school
from lesna.planning.ways.make import route_of
from tests.support import LIBRARY, job, result

EDGE = {"kind": "chamfer", "length_mm": 240.0, "width_mm": 0.8, "depth_mm": 0.8}
MILL = {"kind": "chamfer", "DC": 10.0, "tip_angle_deg": 90.0, "tip_diameter_mm": 0.0, "APMX": 5.0, "ZEFP": 4, "RE": 0.0}
CUT = {"tool": MILL, "feature": EDGE, "ae_mm": 0.8, "ap_mm": 0.8, "role": "finish", "hex_mm": 0.03}


class Chamfering(unittest.TestCase):
    def test_its_material_is_a_prism_and_its_time_the_way_along_the_edge(self) -> None:
        found = result(**CUT)
        solid = solid_of(found.setup.parts.cut.feature)
        assert solid is not None and found.timing is not None
        self.assertAlmostEqual(solid.volume, 0.8 * 0.8 / 2 * 240.0 / 1000.0)
        self.assertAlmostEqual(found.timing.cutting, 240.0 / found.state.vf)
        unmeasured = job(**{**CUT, "feature": {key: value for key, value in EDGE.items() if key != "width_mm"}})
        self.assertEqual(solid_of(unmeasured.cuts[0].feature), solid)  # of 45 deg where no width is given

    def test_every_other_school_and_tool_gives_way_to_the_chamfer_mill(self) -> None:
        found = compare(result(**CUT).setup.parts, LIBRARY)
        assert found.winner is not None and found.today is not None
        self.assertEqual([lane.strategy.id for lane in found.lanes if lane.is_there], ["chamfer"])
        self.assertEqual((found.winner.main.point.ae, found.winner.main.point.ap), (0.8, 0.8))
        self.assertEqual(with_lane(job(**CUT), 0, found.winner).cuts[0].tool, job(**CUT).cuts[0].tool)
        case = case_of(found.parts, LIBRARY)
        for tool in LIBRARY.tools.values():
            if tool.kind != "chamfer":
                self.assertEqual(problem_of(case, tool), "a chamfer keeps its chamfer mill")
        self.assertIn("chamfer mill", units.said(misfit(LIBRARY.tools["sq-d12-z4"], case.feature), "metric"))

    def test_a_search_leaves_its_size_alone(self) -> None:
        found = best_in_school(result(**CUT).setup)
        assert found is not None
        self.assertEqual((found.ae, found.ap), (0.8, 0.8))

    def test_no_path_is_made_of_it(self) -> None:
        with self.assertRaisesRegex(InputError, "no path is made for chamfers"):
            route_of(result(**CUT), Wish())


if __name__ == "__main__":
    unittest.main()
