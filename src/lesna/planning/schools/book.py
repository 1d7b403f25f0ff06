"""A toolmaker's value beside the model, and what converts between them."""

from __future__ import annotations

from dataclasses import dataclass

from lesna.model import units
from lesna.physics.edge import chip
from lesna.planning.cut.life import multiplier, speed_of_tables
from lesna.planning.cut.motion import REFERENCE_ENGAGEMENT
from lesna.planning.cut.result import Result

#: a difference above this wants an explanation
_EXPLAIN = 0.25
#: a geometry that was not made for the material's group loses about a quarter
_DERATED = 0.75


@dataclass(frozen=True)
class AgainstBook:
    """Book and model for one cut.

    Attributes
    ----------
    ae_over_dc : float
        Engagement that the book's value was given for [-].
    thinning : float
        Factor on the feed from there to this engagement [-].
    chip_book, chip_model : float
        Thickest chip of the book's value, and the tables' typical one [mm].
    vc_book, vc_model : float or None
        Surface speeds; None where one of the two names none [m/min].
    derating : float
        Factor for a geometry that was not made for this group, 1 where it was [-].
    """

    ae_over_dc: float
    thinning: float
    chip_book: float
    chip_model: float | None
    vc_book: float | None
    vc_model: float | None
    derating: float

    def text(self, system: units.System) -> str:
        """Both values, and what lies between them, in sentences."""
        words = [
            f"The book's feed was given at {self.ae_over_dc:.0%} stepover; here the chip thins, so the feed is multiplied "
            f"by {self.thinning:.2f}."
        ]
        if self.derating < 1.0:
            words.append(f"The tool was made for other materials: about {1 - self.derating:.0%} less is usual.")
        pairs = [
            ("Chip", units.CHIP, self.chip_book, self.chip_model),
            ("Speed", units.SURFACE_SPEED, self.vc_book, self.vc_model),
        ]
        for name, quantity, book, model in pairs:
            if book is None or model is None:
                continue
            off = book / (model * self.derating) - 1.0
            line = f"{name}: book {quantity.full(book, system)}, model {quantity.full(model * self.derating, system)}"
            if abs(off) > _EXPLAIN:
                why = "bolder" if off > 0 else "more careful"
                line += f". The book is {abs(off):.0%} {why}: another grade, holder or edge life was meant; a trial settles it"
            words.append(line + ".")
        return " ".join(words)


def against_book(result: Result) -> AgainstBook | None:
    """The toolmaker's value of a cut against the tables' model, None where no book value is entered."""
    setup, state = result.setup, result.state
    parts = setup.parts
    book = parts.cut.book
    if book is None:
        return None
    x_ref = book.ae_over_dc or REFERENCE_ENGAGEMENT
    groups = parts.tool.intended_iso_groups.split()
    typical = speed_of_tables(setup)
    return AgainstBook(
        ae_over_dc=x_ref,
        thinning=state.fz_asked / book.fz_mm,
        chip_book=float(chip.greatest_thickness(book.fz_mm, x_ref, setup.shape.DC, 1.0)),
        chip_model=setup.chip.typical,
        vc_book=book.vc_m_min,
        vc_model=None if typical is None else typical * float(multiplier(setup, state.ae, state.ap)),
        derating=_DERATED if groups and parts.material.iso_group not in groups else 1.0,
    )
