"""Forces over rings: the single cut where the cutter stands upright, a plain sum where its axis swings, whatever its teeth are."""

import unittest

import numpy as np

from lesna.physics.edge.cutter import Cutter, Profile
from lesna.physics.edge.envelope import Envelope
from lesna.physics.edge.forces import ForceLaw
from lesna.physics.edge.ring_loads import Pieces, RingTable, loads_plain, ring_table
from lesna.physics.edge.turn import turn_of
from lesna.stock.outline import outline_of, rings_of

LAW = ForceLaw(mc=0.23, kienzle=np.array([1700.0, 700.0, 450.0]))
SHAPES = {
    "square": Envelope("straight", 12.0, 0.0, np.pi / 2, 12.0, 0.0, 4, 2),
    "corner": Envelope("round", 10.0, 1.0, np.pi / 2, 10.0, 0.0, 5, 2),
    "ball": Envelope("round", 10.0, 5.0, np.pi / 2, 10.0, 0.0, 4, 2), "lead": Envelope("cone", 10.0, 0.0, np.radians(20.0), 6.0, 0.0, 3, 2),
}  # fmt: skip


def made(
    name: str, *, pitch: tuple[float, ...] = (), runout: float = 0.0, profile: Profile | None = None
) -> tuple[RingTable, Cutter]:
    """The rings of a cutter and its teeth; pitch in degrees."""
    shape = SHAPES[name]
    places = np.radians(np.cumsum((0.0, *pitch[:-1]))) if pitch else 2 * np.pi * np.arange(shape.z) / shape.z
    cutter = Cutter(shape, places, np.full(len(places), np.radians(35.0)), runout, profile or Profile())
    rings = rings_of(outline_of(shape, 16.0))
    return ring_table(cutter, LAW, Pieces(rings.z, rings.r, rings.kappa, rings.edge, rings.low, rings.high)), cutter


def side_cut(name: str, ae: float, ap: float):  # type: ignore[no-untyped-def]
    """What an upright cutter meets in a down cut, as the walk tells it."""
    rings, spans, which = rings_of(outline_of(SHAPES[name], 16.0)), [], []
    for k in range(len(rings)):
        fill = np.clip((ap - rings.low[k]) / max(rings.high[k] - rings.low[k], 1e-9), 0.0, 1.0)
        if rings.kappa[k] > 0 and fill > 0:
            angle = np.arccos(np.clip(1 - ae / rings.r[k], -1.0, 1.0))
            which.append(k)
            spans.append((np.pi - angle, np.pi, fill))
    return np.array([0, len(which)]), np.array(which), np.array(spans), np.array([[1.0, 0.0, 0.0, 0.0]])


class AgainstTheSingleCut(unittest.TestCase):
    def check(self, name: str, teeth: int, **kinds: object) -> None:
        table, cutter = made(name, **kinds)  # type: ignore[arg-type]
        for ae, ap in ((1.0, 9.0), (3.0, 5.0), (9.0, 1.0), (SHAPES[name].DC, 3.0)):
            with self.subTest(cutter=name, ae=ae, ap=ap):
                turn = turn_of(cutter, LAW, 0.06, ae, ap)
                found = table.loads(side_cut(name, ae, ap), np.array([0.06 * teeth]))
                for mine, theirs in (
                    (found.fx, turn.means[0]),
                    (found.fy, turn.means[1]),
                    (found.torque, turn.means[3]),
                ):
                    self.assertAlmostEqual(mine[0], theirs, delta=0.012 * np.abs(turn.means[:2]).max())
                self.assertAlmostEqual(found.fxy_peak[0] / turn.fxy.max(), 1.0, delta=0.06)
                self.assertAlmostEqual(found.hex[0] / turn.chips.max(), 1.0, delta=0.05)
                self.assertAlmostEqual(found.height[0], turn.height, delta=0.1)

    def test_equal_teeth(self) -> None:
        for name, shape in SHAPES.items():
            self.check(name, shape.z)

    def test_unequal_pitch_and_runout(self) -> None:
        self.check("square", 4, pitch=(83.0, 97.0, 86.0, 94.0))
        self.check("square", 4, runout=0.008)


class Swinging(unittest.TestCase):
    def test_the_kernel_is_the_plain_sum(self) -> None:
        rng = np.random.default_rng(11)
        for name, kinds in (
            ("ball", {}),
            ("square", {"runout": 0.006}),
            ("corner", {"pitch": (70.0, 74.0, 70.0, 74.0, 72.0)}),
        ):
            table, cutter = made(name, **kinds)
            count = len(table.firsts) - 1
            which = np.sort(rng.choice(count, 9, replace=False))
            begin = rng.uniform(0.3, 1.8, 9)
            spans = np.column_stack((begin, begin + rng.uniform(0.3, 1.2, 9), rng.uniform(0.4, 1.2, 9)))
            met = (np.array([0, 9]), which, spans, np.array([[0.97, -0.2, 0.02, -0.015]]))
            feed = np.array([0.05 * cutter.teeth])
            fast, plain = table.loads(met, feed), loads_plain(table, met, feed)
            with self.subTest(cutter=name):
                for figure in ("fx", "fy", "fz", "torque", "height", "hex"):
                    theirs = float(getattr(plain, figure)[0])
                    self.assertAlmostEqual(float(getattr(fast, figure)[0]), theirs, delta=0.012 * abs(theirs) + 0.5)
                self.assertAlmostEqual(fast.fxy_peak[0] / plain.fxy_peak[0], 1.0, delta=0.06)

    def test_a_ring_higher_up_goes_faster(self) -> None:
        table, _ = made("square")
        ring = np.array([6])
        height = table.slices.z[table.firsts[6]]
        span = np.array([[0.5, np.pi / 2 + 0.3, 1.0]])
        still = table.loads((np.array([0, 1]), ring, span, np.array([[1.0, 0.0, 0.0, 0.0]])), np.array([0.2]))
        swings = table.loads((np.array([0, 1]), ring, span, np.array([[1.0, 0.0, 0.1, 0.0]])), np.array([0.2]))
        self.assertAlmostEqual(swings.hex[0] / still.hex[0], 1.0 + 0.1 * height, delta=0.01)

    def test_a_flat_end_cuts_as_it_goes_down(self) -> None:
        table, _ = made("square")
        met = (np.array([0, 1]), np.array([1]), np.array([[0.0, 2 * np.pi, 1.0]]), np.array([[0.97, -0.25, 0.0, 0.0]]))
        found = table.loads(met, np.array([0.2]))
        self.assertGreater(found.fz[0], 0.0)
        self.assertAlmostEqual(found.hex[0], 0.25 * 0.2 / 4, delta=1e-3)
        self.assertAlmostEqual(found.fx[0], 0.0, delta=0.02 * found.fz[0])

    def test_a_ground_relief_is_resolved(self) -> None:
        wave, _ = made("square", profile=Profile("wave", 0.15, 1.5))
        self.assertGreater(len(wave.slices.z), len(made("square")[0].slices.z))


if __name__ == "__main__":
    unittest.main()
