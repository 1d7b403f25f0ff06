"""The group of commands, and what happens without one: the window."""

from __future__ import annotations

import difflib
import importlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import click

from lesna import __version__
from lesna.cli.refusal import ASKED_TO_STOP, BAD_INPUT, fail, say_refused
from lesna.model.errors import LesnaError


@dataclass(frozen=True)
class Front:
    """What the command line asks of the desktop without knowing it.

    Parameters
    ----------
    open_window : callable
        Opens the window with a job file or the demo; gives the exit code.
    pdf_of : callable
        The PDF of an HTML sheet.
    """

    open_window: Callable[[Path | None, bool], int]
    pdf_of: Callable[[str], bytes]


#: where each command lives, and what the list of commands says of it; only the one that runs is imported
_COMMANDS = {
    "bank": ("lesna.cli.bank", "bank", "List, check, import and export what the shop keeps."),
    "compare": ("lesna.cli.compare", "compare_command", "Rank the schools of roughing on a cut's feature."),
    "cut": ("lesna.cli.cut", "cut", "Compute the cuts of a job."),
    "map": ("lesna.cli.map", "map_command", "Compute removal and every limit over stepover and depth."),
    "nc": ("lesna.cli.nc", "nc", "Check NC programs and level their feeds."),
    "path": ("lesna.cli.path", "path_command", "Make a cut's path, simulate it and write the program."),
    "quote": ("lesna.cli.quote", "quote", "Quote a batch in time, edges and money."),
    "sheet": ("lesna.cli.sheet", "sheet", "Write the set-up sheet of a job."),
    "surface": ("lesna.cli.surface", "surface", "Decide how a surface is finished, and prove what a program leaves."),
    "trial": ("lesna.cli.trial", "trial", "Plan test cuts, log what was seen, and learn from it."),
    "stability": ("lesna.cli.stability", "stability_command", "Compute where a cut chatters."),
}


class _WindowUnlessCommand(click.Group):
    """`lesna JOB` opens the window; `lesna cut JOB` runs a command."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(_COMMANDS)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, told) for name, (_, _, told) in _COMMANDS.items()])

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in _COMMANDS:
            return super().get_command(ctx, cmd_name)
        module, name, _ = _COMMANDS[cmd_name]
        command = getattr(importlib.import_module(module), name)
        assert isinstance(command, click.Command)
        return command

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        if args and args[0] != "open" and args[0] not in _COMMANDS:
            self._refuse_mistyped(args)
            return "open", self.commands["open"], args
        return super().resolve_command(ctx, args)

    def _refuse_mistyped(self, args: list[str]) -> None:
        guess = difflib.get_close_matches(args[0], list(_COMMANDS), n=1)
        if not Path(args[0]).exists() and (len(args) > 1 or guess):
            hint = f"; did you mean '{guess[0]}'?" if guess else f"; known are {', '.join(_COMMANDS)}"
            fail(f"{args[0]}: is neither a job file nor a command{hint}")


@click.group(cls=_WindowUnlessCommand, invoke_without_command=True)
@click.option("--demo", is_flag=True, help="Open the window with the shipped demo job.")
@click.version_option(__version__, prog_name="lesna")
@click.pass_context
def lesna(context: click.Context, demo: bool) -> None:
    """Lesna: what a milling cut does, what holds it back, and what to set.

    Without a command, `lesna [JOB]` opens the window.
    """
    if context.invoked_subcommand is None:
        raise SystemExit(context.obj.open_window(None, demo))


@lesna.command("open", hidden=True)
@click.argument("job_file", type=click.Path(path_type=Path))
@click.pass_context
def open_job_file(context: click.Context, job_file: Path) -> None:
    """Open the window with JOB."""
    if not job_file.exists():
        fail(f"{job_file}: does not exist; check the name")
    raise SystemExit(context.obj.open_window(job_file, False))


def run(front: Front, args: list[str] | None = None) -> int:
    """Runs a command line and gives its exit code; whatever goes wrong becomes one line."""
    try:
        lesna.main(args=args, prog_name="lesna", standalone_mode=False, obj=front)
        return 0
    except SystemExit as stop:
        return stop.code if isinstance(stop.code, int) else 0
    except click.ClickException as error:
        return _refused(error.format_message())
    except (click.Abort, KeyboardInterrupt):
        ASKED_TO_STOP.set()
        return _refused("stopped")
    except LesnaError as error:
        return _refused(str(error))
    except BrokenPipeError:
        return 0
    except Exception as error:  # the last net: a sentence, never a traceback
        return _refused(f"this should not have happened ({type(error).__name__}: {error}); nothing was written")


def _refused(text: str) -> int:
    say_refused(text)
    return BAD_INPUT
