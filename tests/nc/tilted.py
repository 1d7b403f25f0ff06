"""A trunnion and a turning head, and programs of five axes for them: what many tests read."""

from __future__ import annotations

from lesna.geometry.kinematics import Kinematics, Turning

TRUNNION = Kinematics(
    (Turning("A", True, (1.0, 0.0, 0.0), (0.0, 0.0, -20.0), 90.0, 300.0, -120.0, 30.0),
     Turning("C", True, (0.0, 0.0, 1.0), (5.0, 0.0, 0.0), 180.0, 600.0)),
    name="Trunnion",
)  # fmt: skip
HEAD = Kinematics(
    (Turning("C", True, (0.0, 0.0, 1.0), (0.0, 0.0, 0.0), 60.0, 150.0),
     Turning("B", False, (0.0, 1.0, 0.0), (0.0, 0.0, 0.0), 60.0, 200.0, -110.0, 110.0)),
    150.0, name="Head",
)  # fmt: skip

LOCATIONS = """PARTNO PADDLE
UNITS/MM
MULTAX/ON
LOADTL/4 $$ the ball
SPINDL/2200,RPM,CLW
COOLNT/FLOOD
FROM/0,0,50,0,0,1
RAPID
GOTO/0,0,10,0,-0.342020,0.939693
FEDRAT/380.,MMPM
GOTO/0,0,0,0,-0.342020,0.939693
GOTO/20,0,0,0,-0.342020, $
 0.939693
GOTO/20,10,0,0.342020,0,0.939693
FEDRAT/200.,MMPM
GOTO/20,20,0,0.342020,0,0.939693
RAPID
GOTO/20,20,50,0.342020,0,0.939693
FINI
"""

#: the same kind of motion in blocks, as controls are told it
START = "%\nO12\nG21 G90 G94\nT1 M6\nS2200 M3\nG0 X0. Y0. Z30. A-20. C0.\n"
FOLLOWED = START + "G43.4 H1 X0. Y0. Z10.\nG1 Z0. F380.\nX20. A-20.\nY10. A-30. C-45.\nG0 Z50.\nG49\nM30\n"
INVERSE = START + "G43.4 H1 X0. Y0. Z10.\nG93\nG1 Z0. F38.\nG1 X20. F19.\nG1 Y10. A-30. C-45. F38.\nG94 G0 Z50.\nM30\n"
NOT_FOLLOWED = START + "G0 Z10.\nG1 Z0. F380.\nX20.\nY10. A-30. C-45.\nG0 Z50.\nM30\n"
INCH = START.replace("G21", "G20") + "G43.4 H1 X0. Y0. Z.4\nG1 Z0. F15.\nX.8\nY.4 A-30. C-45.\nG0 Z2.\nM30\n"
TIGHT = "G21G90G94\nT1M6\nS2200M3\nG0X0Y0Z30A-20C0\nG43.4H1X0Y0Z10\nG1Z0F380\nX20A-20\nY10A-30C-45\nG0Z50\nM30\n"
SKIPPED = FOLLOWED.replace("Y10. A-30. C-45.\n", "/X21.\nY10. A-30. C-45.\nX25. A-35.\n")
KINDS = {"followed": FOLLOWED, "inverse time": INVERSE, "not followed": NOT_FOLLOWED, "inch": INCH, "no blanks or points": TIGHT,
         "skipped blocks": SKIPPED}  # fmt: skip
