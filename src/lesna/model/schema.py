"""The published JSON Schema of the job document: ``python -m lesna.model.schema FILE``."""

from __future__ import annotations

import json
import sys
from itertools import combinations
from pathlib import Path
from typing import Any

from lesna.model.job import ONE_OF, SPEEDS, Job
from lesna.model.versions import VERSION


def schema_text() -> str:
    """The schema as it stands in docs/: what every reader asks for is required there as well."""
    made = Job.model_json_schema(by_alias=True)
    made["required"] = ["lesna", *made["required"]]
    speeds, feeds = ONE_OF
    pairs = [{"allOf": [_given(one), _given(other)]} for one, other in combinations(SPEEDS, 2)]
    made["$defs"]["Cut"]["allOf"] = [
        {"anyOf": [_given(key) for key in speeds]}, {"not": {"anyOf": pairs}}, {"oneOf": [_given(key) for key in feeds]},
    ]  # fmt: skip
    made["$defs"]["Feature"]["allOf"] = [{"if": {"properties": {"kind": {"const": "profile"}}}, "then": _given("dxf")}]
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Lesna job document, version {VERSION}",
        **{key: value for key, value in made.items() if key != "title"},
    }
    return json.dumps(schema, indent=1, ensure_ascii=False) + "\n"


def _given(key: str) -> dict[str, Any]:
    """That a field is there and says something."""
    return {"required": [key], "properties": {key: {"not": {"type": "null"}}}}


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(schema_text(), encoding="utf-8")
