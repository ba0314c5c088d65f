"""The command ``roundcard``: its commands, its errors and its exit codes."""

from __future__ import annotations

import contextlib
import gc
import inspect
import os
import signal
import sys
from collections.abc import Callable
from typing import Annotated, Any, NoReturn

import typer

from roundcard import __version__
from roundcard.cli import options, plain
from roundcard.cli.commands import (
    backup,
    check,
    clean,
    compare,
    convert,
    demo,
    destination,
    job,
    layout,
    match,
    merge,
    pick,
    preview,
    review,
    run,
    runs,
    survey,
    trace,
    undo,
    unmerge,
    update,
)
from roundcard.cli.commands import help as help_page
from roundcard.cli.interrupted import Interrupted
from roundcard.cli.render.text import Screen, error_line
from roundcard.errors import RoundCardError, TargetError, UsageError

INTERRUPTED = 130
_COMMAND_LINE_ERROR: type[Exception] = typer.BadParameter.__mro__[1]
"""What typer raises for a command line that it cannot make sense of."""


class _InOrder(plain.Group):
    """The program's commands in the order of work, single ones and groups alike."""

    def list_commands(self, ctx: Any) -> list[str]:
        """The names of the commands."""
        names = [module.__name__.rpartition(".")[2]
                 for modules in _IN_ORDER.values() for module in modules]  # fmt: skip
        return [name for name in names if name in super(_InOrder, self).list_commands(ctx)]


app = typer.Typer(
    name="roundcard",
    cls=_InOrder,
    no_args_is_help=True,
    rich_markup_mode="rich",
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
    help="Gather address books, CSV files and vCards, and move them on complete, clean and "
    "provably so. Every value read is accounted for.",
    epilog="Try it: roundcard demo lays out made-up address books and runs the whole way on them.",
)


def _paragraphs(function: Callable[..., object]) -> str:
    """A docstring with its paragraphs on one line each, for the help page to wrap."""
    text = inspect.getdoc(function) or ""
    return "\n\n".join(" ".join(part.split()) for part in text.split("\n\n"))


_IN_ORDER: dict[str, tuple[Any, ...]] = {
    "Look": (survey, preview),
    "Map": (layout,),
    "Choose and clean": (convert, pick, clean, update),
    "Doubles": (match, review, merge, unmerge),
    "Destination": (destination, check, compare),
    "The whole way": (job, run, runs, undo, trace, backup),
    "This tool": (demo, help_page),
}
"""The commands in the order of work."""


def _add(module: Any, panel: str) -> None:
    """Add a command, or a group of them, to the program."""
    name = module.__name__.rpartition(".")[2]
    group = getattr(module, "app", None)
    if group is not None:
        for each in group.registered_commands:
            if each.callback is not None:
                each.help = _paragraphs(each.callback)
                each.callback = options.with_blocks(each.callback)
                each.cls = plain.Command
        app.add_typer(group, name=name, rich_help_panel=panel)
        return
    command = getattr(module, name)
    app.command(name, cls=plain.Command, epilog=module.EXAMPLES, help=_paragraphs(command),
                rich_help_panel=panel)(options.with_blocks(command))  # fmt: skip


for _panel, _modules in _IN_ORDER.items():
    for _module in _modules:
        _add(_module, _panel)


def _version(asked: bool) -> None:
    if asked:
        typer.echo(f"roundcard {__version__}")
        raise typer.Exit()


@app.callback()
def start(
    version: Annotated[
        bool,
        typer.Option("--version", callback=_version, is_eager=True, help="Show the version."),
    ] = False,
) -> None:
    """Takes the options that stand before a command."""


def main() -> NoReturn:
    """Run a command and leave with its exit code; an error of the user's is one line."""
    for which in (signal.SIGINT, signal.SIGTERM):
        signal.signal(which, _interrupt)
    gc.set_threshold(50_000, 20, 50)  # contacts hold no cycles; looking for them costs a tenth
    for stream in (sys.stdout, sys.stderr):
        with contextlib.suppress(AttributeError):
            stream.reconfigure(errors="backslashreplace")  # type: ignore[union-attr]
    sys.stdout, sys.stderr = Screen(sys.stdout), Screen(sys.stderr)
    try:
        code = app(standalone_mode=False)
    except RoundCardError as error:
        sys.stderr.write(error_line(str(error)))
        code = error.exit_code
    except _COMMAND_LINE_ERROR as error:
        sys.stderr.write(_command_line(error))
        code = UsageError.exit_code
    except (typer.Abort, Interrupted):
        sys.stderr.write(error_line("interrupted; nothing was written"))
        code = INTERRUPTED
    except BrokenPipeError:
        # nobody reads on; keep the interpreter from complaining at the end
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        code = TargetError.exit_code
    except OSError as error:  # what the system refuses where nothing of ours expected it
        where = f"{error.filename}: " if error.filename else ""
        sys.stderr.write(error_line(f"{where}{error.strerror or error}"))
        code = TargetError.exit_code
    sys.exit(code if isinstance(code, int) else 0)


def _command_line(error: Any) -> str:
    """What is wrong with the command line, or the help where nothing was asked for."""
    text = error.format_message()
    if type(error).__name__ == "NoArgsIsHelpError":
        return f"{text}\n"
    command = error.ctx.command_path if error.ctx else "roundcard"
    return error_line(f"{text.rstrip('.')}; '{command} --help' shows what there is")


def _interrupt(*_: object) -> NoReturn:
    raise Interrupted
