"""Ladders of test cuts that are kept: each trial's plan, found again by the job and the cut it is for."""

from __future__ import annotations

from typing import Any

from lesna.bank.store import Bank, Kept, Source
from lesna.model.job import Job


def keep_plan(bank: Bank, trial: str, job: Job, cut: str, plan: dict[str, Any], who: str = "") -> Kept | None:
    """Keeps the plan of a trial; what else is kept of the trial stays.

    Raises
    ------
    Conflict
        When somebody else changed the trial in between.
    FileProblem
        When it cannot be written.
    """
    former = bank.record("trials", trial)
    data = {**(former.data if former else {}), "job": job.title, "cut": cut, "plan": plan}
    return bank.keep("trials", trial, data, Source(who=who, job=job.title, trial=trial), former)


def plans_of(bank: Bank, job: Job) -> dict[str, dict[str, Any]]:
    """The newest plan of each cut of a job, by the cut's id (FileProblem when the store cannot be read)."""
    by_name = {cut.name: cut.id for cut in job.cuts}
    out: dict[str, tuple[str, dict[str, Any]]] = {}
    for one in bank.records("trials"):
        cut = by_name.get(one.data.get("cut", ""))
        plan = one.data.get("plan")
        if cut is None or one.data.get("job") != job.title or not isinstance(plan, dict):
            continue
        if cut not in out or one.at >= out[cut][0]:
            out[cut] = one.at, plan
    return {cut: plan for cut, (_, plan) in out.items()}
