"""What a new cut, a variant and the first cut of a new job take over from the cut they are made beside: one table for all three."""

from __future__ import annotations

from typing import Any, Literal

from lesna.model.job import Cut

#: what is made: another cut of the job, the same cut tried otherwise, a job of its own
Made = Literal["cut", "variant", "job"]
#: field of a cut -> what takes it over. `id` and `name` are each one's own; speed, feed and engagement of a cut or a job are the
#: tables' where they know any, and stay as they are where they do not
INHERITED: dict[str, frozenset[Made]] = {
    "id": frozenset(), "name": frozenset(),
    **dict.fromkeys(
        ("strategy", "tool", "holder", "direction", "coolant", "compensation", "ae_mm", "ap_mm", "vc_m_min", "n_rpm", "hex_mm", "fz_mm",
         "stick_out_mm"),
        frozenset({"cut", "variant", "job"}),
    ),
    # what the part looks like and how the tool swings in its holder go on being true in the same job
    **dict.fromkeys(("feature", "tap_modes"), frozenset({"cut", "variant"})),
    # what was decided for one cut, or looked up for it in a catalogue, is tried otherwise with it
    **dict.fromkeys(
        ("role", "book", "life_min_wanted", "tilt_deg", "deflection_limit_um", "wear_vb_mm", "removal_floor_cm3_min", "locks"),
        frozenset({"variant"}),
    ),
    # a program with its stock and T number makes one cut as it stands
    "program": frozenset(),
}  # fmt: skip


def plain_values(made: Made, former: Cut) -> dict[str, Any]:
    """Fields of a cut that are not taken over, as they are where nothing is said.

    What alone gives the speed or the feed stays, or the cut would have none.
    """
    fields = Cut.model_fields
    kept = {key for key, takers in INHERITED.items() if made in takers} | {"id", "name"}
    if former.vc_m_min is None and former.n_rpm is None:
        kept |= {"life_min_wanted", "book"}
    if former.hex_mm is None and former.fz_mm is None:
        kept.add("book")
    return {key: fields[key].get_default(call_default_factory=True) for key in fields if key not in kept}
