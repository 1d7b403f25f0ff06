"""Programs in the window: the file behind a cut, its simulation and its levelled forms."""
