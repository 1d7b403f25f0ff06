"""The commands of the window as rows of data."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """One command: its text, shortcuts and the window's method that does it."""

    text: str
    shortcut: str
    handler: str
    menu: bool = True
    after_line: bool = False
    #: whether it acts on the job as typed: what stands in a field is taken first, and where it is refused nothing happens
    takes_typing: bool = True


ROWS = (
    Row("New job", "Ctrl+N", "new_job"),
    Row("Open ...", "Ctrl+O", "open_dialog"),
    Row("Save", "Ctrl+S", "save"),
    Row("Save as ...", "Ctrl+Shift+S", "save_as"),
    Row("Set-up sheet ...", "Ctrl+P", "sheet_dialog", after_line=True),
    Row("Copy S and F words", "Ctrl+Shift+C", "copy_nc_words"),
    Row("Undo", "Ctrl+Z", "undo", after_line=True, takes_typing=False),
    Row("Redo", "Ctrl+Shift+Z, Ctrl+Y", "redo", takes_typing=False),
    Row("Metric or inch", "Ctrl+U", "switch_units"),
    Row("Day or night", "Ctrl+T", "switch_theme", takes_typing=False),
    Row("How it came about", "F1", "toggle_working", takes_typing=False),
    Row("Rename this cut", "F2", "rename"),
    Row("Rename the job", "Shift+F2", "rename_job"),
    Row("Library ...", "Ctrl+L", "open_library", after_line=True),
    Row("Every field ...", "Ctrl+E", "every_field"),
    Row("Best point", "Ctrl+B, B", "best_point"),
    Row("Next cut", "Ctrl+PgDown", "next_cut", menu=False),
    Row("Former cut", "Ctrl+PgUp", "former_cut", menu=False),
    Row("Short tour", "", "start_tour", after_line=True, takes_typing=False),
    Row("Close", "Ctrl+Q", "leave"),
)
