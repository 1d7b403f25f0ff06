"""Checks the system packages Lesna needs, and names (as root on Debian: installs) those that are missing.

Runs before anything is installed, so only the standard library is used.
"""

from __future__ import annotations

import ctypes
import importlib.util
import os
import shutil
import subprocess
import sys

#: library -> Debian package that brings it
NEEDED = {
    "libEGL.so.1": "libegl1",
    "libGL.so.1": "libgl1",
    "libglib-2.0.so.0": "libglib2.0-0",
    "libfontconfig.so.1": "libfontconfig1",
    "libfreetype.so.6": "libfreetype6",
    "libdbus-1.so.3": "libdbus-1-3",
    "libxkbcommon.so.0": "libxkbcommon0",
}
#: needed only where there is a screen
NEEDED_ON_SCREEN = {
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-xinerama.so.0": "libxcb-xinerama0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
}


def missing(screen: bool) -> list[str]:
    """Packages of what cannot be loaded."""
    wanted = {**NEEDED, **NEEDED_ON_SCREEN} if screen else NEEDED
    found = []
    for library, package in wanted.items():
        try:
            ctypes.CDLL(library)
        except OSError:
            found.append(package)
    if importlib.util.find_spec("ensurepip") is None:
        found.append("python3-venv")
    return found


def main() -> int:
    """0 when everything is there, 1 when something has to be installed by hand."""
    if not sys.platform.startswith("linux"):
        return 0
    screen = bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
    packages = missing(screen)
    if not packages:
        return 0
    command = ["apt-get", "install", "-y", "--no-install-recommends", *packages]
    if os.geteuid() == 0 and shutil.which("apt-get"):
        print(f"Installing what is missing: {' '.join(packages)}", flush=True)
        subprocess.run(["apt-get", "update", "-q"], check=False, stdout=subprocess.DEVNULL)
        subprocess.run(command, check=False, stdout=subprocess.DEVNULL)
        packages = missing(screen)
        if not packages:
            return 0
    print("Some system packages are missing. On Debian, as root:\n  " + " ".join(["apt-get install", *packages]))
    return 1


if __name__ == "__main__":
    sys.exit(main())
