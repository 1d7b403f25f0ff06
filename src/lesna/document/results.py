"""The Results of the open job, kept by all they depend on: what has been computed once is not computed again, and what
depends on something else cannot be found.
"""

from __future__ import annotations

from collections import OrderedDict
from typing import TypeVar

from lesna.model.job import Job, ProgramRef
from lesna.model.resolve import CutParts, Shelf, all_parts, parts_of
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.result import Chatter, Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of, seen_from, timing_of, with_chatter, with_timing

#: Results and chatter that are kept: some hundred steps back of a job of a few cuts
KEPT = 600

K = TypeVar("K")
V = TypeVar("V")


class Kept(OrderedDict[K, V]):
    """Answers by what they depend on; those not asked for longest go first."""

    def find(self, key: K) -> V | None:
        """The answer, None where there is none."""
        found = self.get(key)
        if found is not None:
            self.move_to_end(key)
        return found

    def keep(self, key: K, answer: V) -> V:
        """Keeps an answer and gives it back."""
        self[key] = answer
        while len(self) > KEPT:
            self.popitem(last=False)
        return answer


class Results:
    """The store.

    Parameters
    ----------
    shelf : Shelf
        Library against which jobs are resolved.
    """

    def __init__(self, shelf: Shelf) -> None:
        self._shelf = shelf
        self._plain: Kept[CutParts, Result] = Kept()
        self._whole: Kept[CutParts, Result] = Kept()
        self._paths: Kept[CutParts, Timing] = Kept()
        self._programs: Kept[tuple[CutParts, ProgramRef], Timing] = Kept()
        # a job never changes, so the very same one needs no second look
        self._latest: tuple[Job, tuple[Result, ...]] | None = None

    def of(self, job: Job) -> tuple[Result, ...]:
        """The Result of every cut; with its chatter where that has been computed."""
        if self._latest is None or self._latest[0] is not job:
            self._latest = (
                job,
                self._following(job)
                or tuple(self._of(job, index, parts) for index, parts in enumerate(all_parts(job, self._shelf))),
            )
        return self._latest[1]

    def _following(self, job: Job) -> tuple[Result, ...]:
        """The Results of a job that differs from the latest in the numbers of one cut, as at each move of a drag.

        Parts depend on the job's machine, workpiece, batch and rows, and on tool, role and name of its other cuts; where all
        these are the very same, the other cuts need no second look. Empty where they are not.
        """
        if self._latest is None:
            return ()
        former, results = self._latest
        if not (former.machine is job.machine and former.workpiece is job.workpiece and former.batch is job.batch
                and former.rows is job.rows and len(former.cuts) == len(job.cuts)):  # fmt: skip
            return ()
        changed = [index for index, (was, cut) in enumerate(zip(former.cuts, job.cuts, strict=True)) if was is not cut]
        if len(changed) != 1:
            return ()
        (index,) = changed
        was, cut = former.cuts[index], job.cuts[index]
        if not (was.tool is cut.tool and was.role == cut.role and was.name == cut.name):
            return ()
        found = self._of(job, index, parts_of(job, index, self._shelf))
        return (*results[:index], found, *results[index + 1 :])

    def _of(self, job: Job, index: int, parts: CutParts) -> Result:
        found = self._whole.find(parts) or self._plain.find(parts)
        if found is None:
            with seen_from(index):
                found = self._plain.keep(parts, self._computed(parts))
        ref = job.cuts[index].program
        timing = None if ref is None else self._programs.find((parts.on_its_way(), ref))
        return found if timing is None else with_timing(found, timing)

    def _computed(self, parts: CutParts) -> Result:
        return result_of(setup_of(parts), timing=self._paths.find(parts), wait=False)

    def look_again(self) -> None:
        """Something that parts depend on outside the job is known now: what trials taught."""
        self._latest = None

    def take_in(self, parts: CutParts, chatter: Chatter) -> None:
        """Chatter of a cut has been computed: its Result is whole from now on."""
        self._whole.keep(parts, with_chatter(self._plain.find(parts) or self._computed(parts), chatter))
        self._latest = None

    def take_timing(self, parts: CutParts, path: Timing | None = None) -> None:
        """How long a cut takes has been found out: by a path of exactly this cut, or else as an estimate whose way has been made."""
        if path is not None:
            self._paths.keep(parts, path)
        for kept in (self._plain, self._whole):
            found = kept.find(parts)
            if found is not None:
                known = self._paths.find(parts) or timing_of(found.setup, found.state, wait=False)
                if known is not None:
                    kept.keep(parts, with_timing(found, known))
        self._latest = None

    def take_program(self, parts: CutParts, ref: ProgramRef, timing: Timing | None) -> None:
        """How long a program takes has been found out, whatever is typed for its cut; None where it cannot be read."""
        key = parts.on_its_way(), ref
        if timing is None:
            self._programs.pop(key, None)
        else:
            self._programs.keep(key, timing)
        self._latest = None
