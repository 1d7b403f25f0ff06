"""The Results of the open job, kept by all they depend on: what has been computed once is not computed again, and what
depends on something else cannot be found.
"""

from __future__ import annotations

from collections import OrderedDict
from typing import TypeVar

from lesna.model.job import Job
from lesna.model.resolve import CutParts, Shelf, all_parts, parts_of
from lesna.planning.cut.economy import Timing
from lesna.planning.cut.result import Chatter, Result
from lesna.planning.cut.setup import setup_of
from lesna.planning.evaluate import result_of, seen_from, timing_of, with_chatter, with_timing

#: Results and chatter that are kept: some hundred steps back of a job of a few cuts
KEPT = 600

V = TypeVar("V")


class Kept(OrderedDict[CutParts, V]):
    """Answers by what they depend on; those not asked for longest go first."""

    def find(self, parts: CutParts) -> V | None:
        """The answer, None where there is none."""
        found = self.get(parts)
        if found is not None:
            self.move_to_end(parts)
        return found

    def keep(self, parts: CutParts, answer: V) -> V:
        """Keeps an answer and gives it back."""
        self[parts] = answer
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
        self._plain: Kept[Result] = Kept()
        self._whole: Kept[Result] = Kept()
        self._timed: Kept[Timing] = Kept()
        # a job never changes, so the very same one needs no second look
        self._latest: tuple[Job, tuple[Result, ...]] | None = None

    def of(self, job: Job) -> tuple[Result, ...]:
        """The Result of every cut; with its chatter where that has been computed."""
        if self._latest is None or self._latest[0] is not job:
            self._latest = (
                job,
                self._following(job)
                or tuple(self._of(index, parts) for index, parts in enumerate(all_parts(job, self._shelf))),
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
        found = self._of(index, parts_of(job, index, self._shelf))
        return (*results[:index], found, *results[index + 1 :])

    def _of(self, index: int, parts: CutParts) -> Result:
        found = self._whole.find(parts) or self._plain.find(parts)
        if found is not None:
            return found
        with seen_from(index):
            return self._plain.keep(parts, result_of(setup_of(parts), timing=self._timing(parts), wait=False))

    def take_in(self, parts: CutParts, chatter: Chatter) -> None:
        """Chatter of a cut has been computed: its Result is whole from now on."""
        plain = self._plain.find(parts) or result_of(setup_of(parts), timing=self._timing(parts), wait=False)
        self._whole.keep(parts, with_chatter(plain, chatter))
        self._latest = None

    def _timing(self, parts: CutParts) -> Timing | None:
        """What a path of exactly this cut, or its program at any engagement, says of its time."""
        return self._timed.find(parts.over_engagement()) or self._timed.find(parts)

    def take_timing(self, parts: CutParts, timing: Timing | None = None) -> None:
        """How long a cut takes has been found out: by its program, whatever stepover and depth are typed, by a path of exactly this cut,
        or as an estimate whose way has been made.
        """
        if timing is not None:
            self._timed.keep(parts.over_engagement() if timing.basis == "program" else parts, timing)
        for kept in (self._plain, self._whole):
            found = kept.find(parts)
            if found is not None:
                known = self._timing(parts) or timing_of(found.setup, found.state, wait=False)
                if known is not None:
                    kept.keep(parts, with_timing(found, known))
        self._latest = None

    def forget_timing(self, parts: CutParts) -> None:
        """Its program is gone: the estimate speaks again."""
        self._timed.pop(parts.over_engagement(), None)
        self.take_timing(parts)
