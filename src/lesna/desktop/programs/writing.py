"""Programs that the step Path writes: a way that was made, or a levelled form of a program, never over what it was made from."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QWidget

from lesna.desktop.dialogs import ask_anyway, ask_where_to_save
from lesna.desktop.programs.answers import Programs
from lesna.desktop.programs.levelled_table import LevelledTable
from lesna.desktop.programs.targets import is_source, write_program
from lesna.desktop.programs.ways_face import WaysFace
from lesna.desktop.session import Session
from lesna.planning.program.summary import Summary
from lesna.planning.program.told import broken_rules
from lesna.planning.ways.round import typed


class ProgramFiles(QWidget):
    """The part of the page that writes programs."""

    session: Session
    programs: Programs
    ways_face: WaysFace
    levelled: LevelledTable

    def _edit(self, label: str, values: dict[str, object] | None) -> None:
        """Changes what the cut says of its program."""
        self.session.attempt(lambda: self.session.edit_cut(label, program=values))

    def _ask_where(self) -> None:
        name = "".join(c if c.isalnum() else "-" for c in self.session.cut.name.lower()).strip("-") or "path"
        chosen = ask_where_to_save(
            self, "Write the path", (self.session.folder or Path.home()) / f"{name}.nc", "NC programs (*.nc)", "nc"
        )
        if chosen is not None:
            self.write_path(chosen)

    def write_path(self, path: Path) -> None:
        """Writes the way that is looked at as a program and takes that for the cut."""
        way = self.ways_face.chosen
        if way is None or way.proved is None or self.session.is_job_itself(path) or self._is_source(path, own=False):
            return
        if not self._is_wanted(path, way.proved.summary) or not self._write(path, way.proved.content):
            return
        self.ways_face.look_at(None)
        stock = typed(way.proved.route, self.session.cut.feature)
        digest = self.programs.disk_at(path).digest
        self._edit("Make a path", {"file": self.session.name_of(path), "digest": digest, "stock": stock, "tool": None})

    def _ask_export(self) -> None:
        variant, ref = self.levelled.chosen, self.programs.ref
        if variant is None or ref is None:
            return
        path = self.programs.path_of(ref)
        name = path.with_name(f"{path.stem}-{variant.aim}{path.suffix}")
        chosen = ask_where_to_save(
            self, "Write the program", name, "NC programs (*.nc)", path.suffix.lstrip(".") or "nc"
        )
        if chosen is not None:
            self.export_to(chosen)

    def export_to(self, path: Path) -> None:
        """Writes the chosen variant; never over the program it was made from."""
        if self.session.is_job_itself(path) or self._is_source(path, own=True):
            return
        variant = self.levelled.chosen
        if variant is None or variant.made is None:
            return
        if variant.summary is not None and self._is_wanted(path, variant.summary):
            self._write(path, variant.made.content)

    def _is_source(self, path: Path, *, own: bool) -> bool:
        return is_source(self.session, path, own=own)

    def _is_wanted(self, path: Path, found: Summary) -> bool:
        """Asks before a program is written that breaks a limit or a rule as it is."""
        broken = broken_rules(found)
        if not broken:
            return True
        told = f"{path.name} would break: {'; '.join(broken)}.\n\nIt may break the tool, the part or the machine. Write it all the same?"
        return ask_anyway(self, "This program breaks limits", told, "Write it all the same")

    def _write(self, path: Path, content: bytes) -> bool:
        return write_program(self.session, path, content)
