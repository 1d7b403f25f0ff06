"""Our table of units against pint, where pint is installed (it is no dependency)."""

from __future__ import annotations

import importlib.util
import statistics

from bench.timing import interleaved, millis, printed_seconds, report
from lesna.model import units

IMPORT = "import time; start = time.perf_counter()\n{}\nprint(time.perf_counter() - start)"


def main() -> None:
    """Prints what parsing costs, and what pint would cost."""
    ours = statistics.median(millis(lambda: [units.parse("200 sfm", units.SURFACE_SPEED) for _ in range(1000)], 9))
    report("1000 typed entries parsed", median_ms=ours)
    if importlib.util.find_spec("pint") is None:
        return
    import pint

    registry = pint.UnitRegistry()
    theirs = statistics.median(millis(lambda: [registry("200 foot/minute").to("m/min") for _ in range(100)], 5)) * 10
    report("the same with pint", ratio=theirs / ours, median_ms=theirs)
    registry_s, both_s, ratio = interleaved(
        lambda: printed_seconds(IMPORT.format("import pint; pint.UnitRegistry()('1 mm')")),
        lambda: printed_seconds(IMPORT.format("import pydantic, numpy\nclass A(pydantic.BaseModel): x: int")), 5,
    )  # fmt: skip
    report("pint and its registry against pydantic and NumPy", ratio=ratio, pint_s=registry_s, both_s=both_s)
