"""The published JSON Schema of the job document: ``python -m lesna.model.schema FILE``."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from lesna.model.job import Job
from lesna.model.versions import VERSION


def schema_text() -> str:
    """The schema as it stands in docs/."""
    schema = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Lesna job document, version {VERSION}",
        **{key: value for key, value in Job.model_json_schema(by_alias=True).items() if key != "title"},
    }
    return json.dumps(schema, indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(schema_text(), encoding="utf-8")
