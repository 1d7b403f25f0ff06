"""What a file that was dropped is, by its name and its first lines."""

from __future__ import annotations

import re
from pathlib import Path

from lesna.model.errors import LesnaError
from lesna.model.files import table_text

#: tables of the library by words of a file's name
TABLE_NAMES = {
    "tools": "tool",
    "holders": "holder",
    "machines": "machine",
    "materials": "material",
    "cutting_data": "cutting",
}
#: columns that only one table has
_TELLING = {
    "tools": ("ZEFP", "APMX", "APMX_mm"), "machines": ("rpm_max",), "materials": ("kc11_n_mm2", "Ktc_n_mm2"),
    "holders": ("radial_stiffness_rel", "clamping_principle"), "cutting_data": ("data_group", "vc_typ_m_min"),
}  # fmt: skip
#: endings of NC programs
PROGRAMS = (".nc", ".ngc", ".tap", ".mpf", ".cnc", ".gcode", ".cl", ".apt")


def kind_of(path: Path) -> str:
    """``job``, ``recording``, ``response``, ``program``, ``drawing``, ``part`` or a table's name; else what can be dropped."""
    suffix = path.suffix.lower()
    if suffix == ".lesna":
        return "job"
    if suffix == ".wav":
        return "recording"
    if suffix in PROGRAMS:
        return "program"
    if suffix == ".dxf":
        return "drawing"
    if suffix == ".stl":
        return "part"
    if suffix not in (".csv", ".json", ".txt", ".frf"):
        return ("is no file that Lesna reads; drop a job (.lesna), a program (.nc), a drawing (.dxf), a part (.stl), a recording (.wav), "
                "a response or a table (.csv, .json)")  # fmt: skip
    try:
        head = table_text(path)[:4000]
    except LesnaError as error:
        return str(error)
    if suffix == ".json" and '"cuts"' in head:
        return "job"
    words = set(re.split(r'[\s,;"\t:{}\[\]]+', head))
    for table, columns in _TELLING.items():
        if words & set(columns):
            return table
    for table, word in TABLE_NAMES.items():
        if word in path.stem.lower():
            return table
    return "response"
