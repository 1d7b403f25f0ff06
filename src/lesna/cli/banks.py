"""Which bank a command works with, and opening it. Nothing of the store is imported before there is one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import click

from lesna.cli.refusal import BAD_INPUT, LIMIT_EXCEEDED, about, fail, line
from lesna.data.library import Library
from lesna.data.places import BANK_VARIABLE, bank_address, may_be_there, shop_folder
from lesna.model.errors import InputError, LesnaError
from lesna.model.job import Job
from lesna.model.shown import counted

if TYPE_CHECKING:
    from lesna.bank.exchange import Imported
    from lesna.bank.store import Bank

F = TypeVar("F", bound=Callable[..., Any])


def bank_option(command: F) -> F:
    """The option that every command about the bank has."""
    told = f"Database URL or file of the bank; ${BANK_VARIABLE}, or the shop's own, where left out."
    return click.option("--bank", "address", help=told)(command)


def open_bank(address: str | None, *, make: bool = False, put_by: Callable[[], str] = str) -> Bank:
    """The bank, opened; ends the command where it cannot be, and saves what can be read of a damaged one beside it.

    Parameters
    ----------
    address : str or None
        As told.
    make : bool
        Whether it is made where there is none.
    put_by : callable
        Keeps what was to be written until a server answers, and says so.
    """
    from lesna.bank.opening import Foreign, Unreachable, file_of, url_of
    from lesna.bank.store import Bank

    where = bank_address(address)
    try:
        return Bank(where, make=make)
    except Foreign as error:
        path = file_of(url_of(where))
        fail(f"{where}: {error}{'' if path is None else _saved(path)}")
    except Unreachable as error:
        fail(f"{where}: {error}{put_by()}")
    except LesnaError as error:
        fail(f"{where}: {error}")


def _saved(path: Path) -> str:
    """What could be saved of a damaged file, in words."""
    from lesna.bank.exchange import rescued
    from lesna.bank.opening import backup_of

    found = rescued(path)
    text = "" if found is None else f"; {found[1]} readings were saved in {found[0]}"
    return text + (f"; the copy of the day is {backup_of(path)}" if backup_of(path).exists() else "")


def take_file(file: Path, address: str | None, who: str) -> Imported:
    """Takes a file's readings and records in; what cannot be used is named on standard error.

    What a server does not take waits beside the shop's own data, and is sent before the next file.
    """
    from lesna.bank.exchange import MOST_TOLD, found_in, take_in
    from lesna.bank.opening import Unreachable
    from lesna.bank.store import Source
    from lesna.bank.waiting import folder_beside, keep_waiting, send_waiting

    with about(file):
        found = found_in(file)
    folder, source = folder_beside(shop_folder()), Source(who=who)

    def put_by() -> str:
        path = keep_waiting([reading for _, reading in found.readings], folder)
        return f"; the readings wait in {path} and are sent when it answers"

    with open_bank(address, make=True, put_by=put_by) as opened:
        try:
            if sent := send_waiting(opened, folder, source):
                click.echo(line(f"{counted(sent, 'reading')} that waited for the server were sent"), err=True)
            done = take_in(opened, found, source)
        except Unreachable as error:
            fail(f"{opened.label}: {error}{put_by()}")
        except LesnaError as error:
            fail(f"{opened.label}: {error}")
    for sentence in (*done.told, *done.refused[:MOST_TOLD]):
        click.echo(line(f"{file}: {sentence}"), err=True)
    if len(done.refused) > MOST_TOLD:
        click.echo(line(f"{file}: {len(done.refused) - MOST_TOLD} further rows are refused"), err=True)
    return done


def end_with(done: Imported) -> None:
    """Ends the command with 1 where some rows were refused, with 2 where none could be used."""
    if done.refused:
        raise SystemExit(BAD_INPUT if done.is_empty else LIMIT_EXCEEDED)


def kept_plans(job: Job) -> dict[str, dict[str, Any]]:
    """Ladders that are kept for the cuts of a job, by the cut's id; none where there is no bank that can be read."""
    where = bank_address()
    if not may_be_there(where):
        return {}
    from lesna.bank.plans import plans_of
    from lesna.bank.store import Bank

    try:
        with Bank(where, make=False) as opened:
            return plans_of(opened, job)
    except LesnaError:
        return {}  # told when the library was opened


def taught_library(address: str | None) -> Library:
    """Shipped tables with the shop's own over them, and what the trials of a bank taught."""
    library = Library(shop_folder())
    teach(library, address)
    return library


def teach(library: Library, address: str | None = None) -> None:
    """Lets the library know what trials taught, where there is a bank; one that cannot be read is told and left aside."""
    where = bank_address(address)
    if not may_be_there(where):
        return
    from lesna.bank.lessons import Lessons, standards_of
    from lesna.bank.own_rows import stored_rows
    from lesna.bank.store import Bank

    try:
        bank = Bank(where, make=False)
        library.standards = standards_of(bank)
        library.take_stored(stored_rows(bank))
        library.lessons = Lessons(bank, library).of
    except (LesnaError, InputError) as error:
        click.echo(line(f"{where}: {error}; what trials taught is left aside"), err=True)
