"""Where files live: those that ship with Lesna and those of the shop. Imports nothing heavy."""

from __future__ import annotations

import os
from pathlib import Path

#: names another bank than the file in the shop's own data
BANK_VARIABLE = "LESNA_BANK"


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


def bank_address(told: str | None = None) -> str:
    """Database URL or file of the bank: as told, by ``$LESNA_BANK``, or the shop's own file."""
    return told or os.environ.get(BANK_VARIABLE, "") or str(shop_folder() / "bank.db")


def seat_name() -> str:
    """Who changes something at this seat, where nobody says a name: the user of the system."""
    import getpass

    try:
        return getpass.getuser()
    except (KeyError, OSError):  # a user without a name
        return ""


def may_be_there(address: str) -> bool:
    """Whether a bank can be expected: a file that exists, or a server, which is asked when it is opened."""
    return "://" in address or Path(address).exists()
