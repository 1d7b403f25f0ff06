"""Fills in a post that somebody wrote, in a process of its own: `python -m lesna.nc.post_child` reads JSON and answers JSON.

It may take so much time and memory and no more; whatever goes wrong is one sentence.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path

from lesna.model.errors import InputError
from lesna.nc.post import filled

#: processor time [s], memory beside what is needed to begin with [bytes], and text [characters]
SECONDS, MEMORY, MOST_TEXT = 2, 200_000_000, 50_000_000


def main() -> None:
    """Fills in the one that is asked for."""
    asked = json.load(sys.stdin)
    used = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (used + MEMORY, used + MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS + 1, SECONDS + 1))
    answer: dict[str, object]
    try:
        text = filled(asked["template"], asked["values"], asked["blocks"])
        answer = (
            {"text": text}
            if len(text) <= MOST_TEXT
            else {"trouble": f"makes more than {MOST_TEXT // 1_000_000} MB of text"}
        )
    except InputError as error:
        answer = {"trouble": str(error), "is_whole": True}
    except MemoryError:
        answer = {"trouble": f"needs more than {MEMORY // 1_000_000} MB of memory"}
    except RecursionError:
        answer = {"trouble": "calls itself without end"}
    except Exception as error:  # a template can raise whatever it likes
        answer = {"trouble": f"cannot be filled in: {str(error) or type(error).__name__}"}
    json.dump(answer, sys.stdout)


if __name__ == "__main__":
    main()
