"""The commands of the window as rows of data."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """One command: its text, shortcuts and the window's method that does it."""

    text: str
    shortcut: str
    handler: str
    menu: bool = True
    after_line: bool = False
    #: whether it acts on the job as typed: what stands in a field is taken first, and where it is refused nothing happens
    takes_typing: bool = True


ROWS = (
    Command("New job", "Ctrl+N", "new_job"),
    Command("Open ...", "Ctrl+O", "open_dialog"),
    Command("Save", "Ctrl+S", "save"),
    Command("Save as ...", "Ctrl+Shift+S", "save_as"),
    Command("Set-up sheet ...", "Ctrl+P", "sheet_dialog", after_line=True),
    Command("Copy S and F words", "Ctrl+Shift+C", "copy_nc_words"),
    Command("Undo", "Ctrl+Z", "undo", after_line=True, takes_typing=False),
    Command("Redo", "Ctrl+Shift+Z, Ctrl+Y", "redo", takes_typing=False),
    Command("Metric or inch", "Ctrl+U", "switch_units"),
    Command("Day or night", "Ctrl+T", "switch_theme", takes_typing=False),
    Command("How it came about", "F1", "toggle_working", takes_typing=False),
    Command("Rename this cut", "F2", "rename"),
    Command("Rename the job", "Shift+F2", "rename_job"),
    Command("Library ...", "Ctrl+L", "open_library", after_line=True),
    Command("Every field ...", "Ctrl+E", "every_field"),
    Command("Best point", "Ctrl+B, B", "best_point"),
    Command("Next cut", "Ctrl+PgDown", "next_cut", menu=False),
    Command("Former cut", "Ctrl+PgUp", "former_cut", menu=False),
    Command("Short tour", "", "start_tour", after_line=True, takes_typing=False),
    Command("Close", "Ctrl+Q", "leave"),
)
