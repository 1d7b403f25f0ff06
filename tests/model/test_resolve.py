"""From ids and fragments to whole records, and cuts that no tool can make."""

import unittest

from lesna.model.errors import InputError
from lesna.model.job import Job
from lesna.model.resolve import parts_of
from tests.support import LIBRARY, job, raw


class Resolve(unittest.TestCase):
    def refused(self, **changes: object) -> str:
        with self.assertRaises(InputError) as caught:
            parts_of(job(**changes), 0, LIBRARY)
        return str(caught.exception)

    def test_an_id_brings_the_whole_row(self) -> None:
        data = raw(holder="milling-chuck")
        data["cuts"][0]["tool"] = "sq-d12-z4"
        parts = parts_of(Job.read(data), 0, LIBRARY)
        self.assertEqual((parts.tool.DC, parts.tool.ZEFP, parts.tool.rated_rpm), (12.0, 4, None))
        self.assertEqual((parts.holder.kind, parts.holder.torque_d12_nm), ("milling_chuck", 220.0))
        self.assertEqual(parts.data.data_group if parts.data else "", "p-low-alloy-qt")

    def test_an_object_on_an_id_overrides_single_fields(self) -> None:
        data = raw()
        data["cuts"][0]["tool"] = {"id": "sq-d12-z4", "ZEFP": 5, "runout_um": 9.0}
        tool = parts_of(Job.read(data), 0, LIBRARY).tool
        self.assertEqual((tool.ZEFP, tool.runout_um, tool.APMX), (5, 9.0, 26.0))

    def test_a_spindle_is_as_strong_as_was_written_last(self) -> None:
        row = LIBRARY.machines["vmc40-8k"]
        typed = {"duty": {"S1": {"points": [{"speed_rpm": 500, "power_kw": 4}, {"speed_rpm": 8000, "power_kw": 8}]}}}
        for written, power, torque in (
            ({}, 11.0, 95.49),
            ({"power_s1_kw": 13.2}, 13.2, 95.49 * 1.2),
            ({"torque_s1_max_nm": 47.75}, 5.5, 47.75),
            ({"curve": typed}, 8.0, 76.4),
            ({"curve": typed, "power_s1_kw": 4.0}, 4.0, 38.2),
        ):
            with self.subTest(written=written):
                machine = parts_of(Job.read({**raw(), "machine": {"id": row.id, **written}}), 0, LIBRARY).machine
                duty = machine.curve.duty["S1"]
                self.assertAlmostEqual(machine.power_s1_kw, power, delta=0.01)
                self.assertAlmostEqual(duty.greatest_power, power, delta=0.01)
                self.assertAlmostEqual(machine.torque_s1_max_nm, torque, delta=0.1)
                self.assertAlmostEqual(duty.greatest_torque, torque, delta=0.1)
                self.assertEqual(machine, parts_of(Job.read({**raw(), "machine": dict(machine)}), 0, LIBRARY).machine)
        with self.assertRaisesRegex(InputError, "powr_s1_kw"):
            parts_of(Job.read({**raw(), "machine": {"id": row.id, "powr_s1_kw": 5.0}}), 0, LIBRARY)

    def test_a_bare_holder_kind_stands_on_its_shipped_row(self) -> None:
        holder = parts_of(job(holder={"kind": "hydraulic", "grip_torque_nm": 70.0}), 0, LIBRARY).holder
        self.assertEqual((holder.id, holder.grip_torque_nm, holder.torque_d12_nm), ("hydraulic", 70.0, 85.0))

    def test_the_documents_name_of_a_kind_serves_as_an_id(self) -> None:
        for name in ("shrink", "collet", "mechanical_lock", {"id": "side_lock"}):
            self.assertTrue(parts_of(job(holder=name), 0, LIBRARY).holder.name)

    def test_an_unknown_id_with_a_whole_object_is_just_a_name(self) -> None:
        self.assertEqual(parts_of(job(tool={"id": "our own"}), 0, LIBRARY).tool.id, "our own")

    def test_inline_machine_and_material(self) -> None:
        curve = {
            "duty": {
                "S1": {"points": [{"speed_rpm": 100.0, "torque_nm": 50.0}, {"speed_rpm": 9000.0, "power_kw": 5.0}]}
            }
        }
        machine = {"rpm_max": 9000.0, "curve": curve}
        material = {"kc11_n_mm2": 1800.0, "mc": 0.25}
        del machine["rpm_max"]  # the curve says it
        parts = parts_of(job(job={"machine": machine, "workpiece": {"material": material}}), 0, LIBRARY)
        self.assertEqual((parts.machine.rpm_max, parts.material.kc11_n_mm2, parts.data), (9000.0, 1800.0, None))

    def test_unknown_ids_name_the_nearest(self) -> None:
        cases = (
            ({"job": {"machine": "vmc40-12"}}, "machine", "vmc40-12k"),
            ({"job": {"workpiece": {"material": "42crmo4"}}}, "workpiece.material", "42crmo4-a"),
            ({"holder": "shrinkfit"}, "cuts[0].holder", "shrink-fit"),
        )
        for changes, field, nearest in cases:
            with self.subTest(field=field):
                text = self.refused(**changes)
                self.assertIn(field, text)
                self.assertIn(nearest, text)

    def test_cuts_that_cannot_be(self) -> None:
        cases = (
            ({"ae_mm": 13.0}, "cuts[0].ae_mm", "at most the diameter DC = 12 mm"),
            ({"ap_mm": 37.0}, "cuts[0].ap_mm", "usable length LU = 36 mm"),
            ({"stick_out_mm": 11.0}, "cuts[0].stick_out_mm", "the holder would meet the part"),
            ({"tool": {"OAL": 40.0}}, "cuts[0].stick_out_mm", "OAL = 40 mm"),
            ({"tool": {"RE": 7.0}}, "cuts[0].tool.RE", "half of DC"),
            ({"tool": {"kind": "high_feed"}}, "cuts[0].tool.KAPR", "below 60"),
            ({"tool": {"pitch_deg": [90.0, 90.0]}}, "cuts[0].tool.pitch_deg", "each of the 4 flutes"),
            ({"tool": {"pitch_deg": [80.0, 90.0, 90.0, 90.0]}}, "cuts[0].tool.pitch_deg", "360"),
            ({"tool": {"tip_diameter_mm": 13.0}}, "cuts[0].tool.tip_diameter_mm", "at most DC"),
            ({"job": {"machine": {"rpm_max": 8000.0}}}, "machine.power_s1_kw", "curve"),
            ({"job": {"machine": {"rpm_max": 80.0, "rpm_min": 90.0, "power_s1_kw": 5.0}}}, "machine.rpm_min", "below"),
            ({"job": {"workpiece": {"material": {"mc": 0.25}}}}, "workpiece.material.kc11_n_mm2", "missing"),
        )  # fmt: skip
        for changes, field, words in cases:
            with self.subTest(field=field):
                text = self.refused(**changes)
                self.assertIn(field, text)
                self.assertIn(words, text)

    def test_missing_parts_of_an_inline_tool_are_named(self) -> None:
        data = raw()
        del data["cuts"][0]["tool"]["ZEFP"]
        with self.assertRaises(InputError) as caught:
            parts_of(Job.read(data), 0, LIBRARY)
        self.assertIn("cuts[0].tool.ZEFP: is missing", str(caught.exception))
