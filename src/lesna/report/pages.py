"""The templates of what is printed: text of the job is escaped, and what nobody sees in it is written out."""

from __future__ import annotations

from functools import cache
from typing import Any

from lesna.model.shown import visible


@cache
def template(name: str) -> Any:
    """A template of this package."""
    from jinja2 import Environment, PackageLoader, StrictUndefined

    environment = Environment(
        loader=PackageLoader("lesna.report"),
        autoescape=True,
        finalize=lambda value: visible(value) if type(value) is str else value,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters["unbroken"] = lambda text: type(text)(text.replace(" ", "\u00a0"))
    return environment.get_template(name)
