"""Makes the program of the shipped five-axis job: one channel of a paddle-wheel runner for a sluice, roughed in levels.

python tools/paddle_runner.py src/lesna/data/demo/runner-channel.cl

Twelve twisted blades stand on a hub of revolution; between two of them a ball end mill goes down from level to level, leaning a little
into its way, one feed throughout. Invented for the lock works; nobody's part.
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

BLADES, TWIST = 12, -35.0
#: hub: from this radius at the top face it flares out to that at so much below [mm]
TOP_RADIUS, FOOT_RADIUS, HEIGHT = 30.0, 62.0, 40.0
#: blades stand so high over the hub, and are half so thick [mm]
CHANNEL, HALF_BLADE = 16.0, 1.6
#: ball end mill: radius, and how far it leans into its way [mm], [deg]
R, LEAD = 5.0, 12.0
#: levels over the hub, stock left on it, distance of passes and of points along them [mm]
LEVELS, LEFT, STEPOVER, SPACING = 6, 0.4, 4.4, 0.9
SPEED, FEED = 4100, 650
#: beyond both ends of the channel, and over the blank [mm]
BESIDE, OVER = 9.0, 16.0


def hub(s: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Places, unit tangents and normals (n, 2: radius, height) of the hub's section; beyond 0 and 1 it goes on straight."""
    inside = np.clip(s, 0.0, 1.0)
    a = 0.5 * np.pi * inside
    wide = FOOT_RADIUS - TOP_RADIUS
    place = np.stack((TOP_RADIUS + wide * (1 - np.cos(a)), -HEIGHT * np.sin(a)), axis=1)
    tangent = np.stack((wide * np.sin(a), -HEIGHT * np.cos(a)), axis=1)
    tangent /= np.linalg.norm(tangent, axis=1)[:, None]
    place += (s - inside)[:, None] * LENGTH * tangent
    return place, tangent, np.stack((-tangent[:, 1], tangent[:, 0]), axis=1)


LENGTH = 57.0


def blank() -> np.ndarray:
    """Half section (n, 2: radius, height) of the turned blank."""
    place, _, normal = hub(np.linspace(0.0, 1.0, 9))
    shroud = place + CHANNEL * normal
    foot = -HEIGHT - 6.0
    return np.concatenate(([(0.0, 0.0)], shroud, [(FOOT_RADIUS, foot), (0.0, foot)]))


def one_pass(height: float, side: float) -> tuple[np.ndarray, np.ndarray]:
    """Tips and axes (n, 3) of a pass so far over the hub, from the middle of the channel (0) to its wall (-1, 1)."""
    count = int(np.ceil((LENGTH + 2 * BESIDE) / SPACING))
    s = np.linspace(-BESIDE / LENGTH, 1.0 + BESIDE / LENGTH, count + 1)
    place, tangent, normal = hub(s)
    centre = place + (height + R) * normal
    half = np.radians(180.0 / BLADES) - (HALF_BLADE + R) / centre[:, 0]
    turn = np.radians(TWIST) * s + side * half
    c, q = np.cos(turn), np.sin(turn)

    def turned(rz: np.ndarray) -> np.ndarray:
        return np.stack((rz[:, 0] * c, rz[:, 0] * q, rz[:, 1]), axis=1)

    ball, lead = turned(centre), np.radians(LEAD)
    axis = np.cos(lead) * turned(normal) + np.sin(lead) * turned(tangent)
    return ball - R * axis, axis


def program() -> str:
    """The program in cutter locations."""
    out = [
        "PARTNO RUNNER CHANNEL 1 OF 12, KILNBROOK LOCK WORKS", "$$ SAMPLE DATA, INVENTED", "UNITS/MM", "MULTAX/ON",
        f"CUTTER/{2 * R:.4f},{R:.4f}", "LOADTL/7", f"SPINDL/{SPEED},RPM,CLW", "COOLNT/FLOOD",
    ]  # fmt: skip

    def go(tip: np.ndarray, axis: np.ndarray) -> None:
        out.append("GOTO/" + ",".join(f"{v:.4f}" for v in tip) + "," + ",".join(f"{v:.7f}" for v in axis))

    step = (CHANNEL - LEFT) / LEVELS
    # the widest place of the channel says how many passes lie beside each other
    half = np.radians(180.0 / BLADES) * (FOOT_RADIUS + 2.0) - HALF_BLADE - R
    beside = int(np.ceil(half / STEPOVER))
    sides = [0.0] + [sign * k / beside for k in range(1, beside + 1) for sign in (1.0, -1.0)]
    started = False
    for level in range(1, LEVELS + 1):
        out.append(f"$$ LEVEL {level}")
        for side in sides:
            tips, axes = one_pass(CHANNEL - level * step, side)
            away = level * step + OVER
            if started:
                out.append("RAPID")
            go(tips[0] + away * axes[0], axes[0])
            started = True
            out.append("RAPID")
            go(tips[0], axes[0])
            out.append(f"FEDRAT/{FEED}.0,MMPM")
            for tip, axis in zip(tips[1:], axes[1:], strict=True):
                go(tip, axis)
            out.append("RAPID")
            go(tips[-1] + away * axes[-1], axes[-1])
    return "\n".join([*out, "SPINDL/OFF", "COOLNT/OFF", "FINI", ""])


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(program())
    print("revolved:" + ";".join(f"{r:.2f},{z:.2f}" for r, z in blank()))
