"""The short tour of the first start: four sentences, one at a time."""

from __future__ import annotations

STEPS = (
    "This is a sample job of the Kilnbrook Lock Works. The map shows where this tool, holder, machine and material can "
    "live: drag the ring, and every number follows.",
    "What is hatched cannot be held. The ladder on the right says what stops the cut, the most loaded limit first; "
    "click one, or the ? beside a number, to see how it came about.",
    'Type into the fields what you would say: 10%, 1.75xD, .5", 4 thou, 620 sfm, 5k rpm. B goes to the best point, '
    "arrows nudge, Shift-drag keeps the removal rate.",
    "Setup (Ctrl+1) holds tool, holder, machine and part, and whether they are ready. Sheet prints what goes to the "
    "machine. Everything can be undone.",
)
