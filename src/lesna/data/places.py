"""Where files live: those that ship with Lesna and those of the shop. Imports nothing heavy."""

from __future__ import annotations

from pathlib import Path


def shipped_folder() -> Path:
    """Folder of the files that ship with Lesna."""
    return Path(__file__).parent


def cache_folder() -> Path:
    """What may be made anew at any time: ``$XDG_CACHE_HOME/lesna``."""
    import platformdirs

    return Path(platformdirs.user_cache_dir("lesna"))


def shop_folder() -> Path:
    """The shop's own library: ``$XDG_DATA_HOME/lesna`` (tools.csv, machines.json ...)."""
    import platformdirs

    return Path(platformdirs.user_data_dir("lesna"))
