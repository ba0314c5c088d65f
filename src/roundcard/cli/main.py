"""The command ``roundcard``: its commands, its errors and its exit codes."""

from __future__ import annotations

import contextlib
import os
import signal
import sys
from typing import Annotated, Any, NoReturn

import typer

from roundcard import __version__
from roundcard.cli.catalog import ABOUT, Catalog
from roundcard.cli.interrupted import Interrupted
from roundcard.cli.render.text import Screen, error_line, write_data
from roundcard.errors import RoundCardError, TargetError, UsageError

INTERRUPTED = 130
_COMMAND_LINE_ERROR: type[Exception] = typer.BadParameter.__mro__[1]
"""What typer raises for a command line that it cannot make sense of."""


app = typer.Typer(
    name="roundcard",
    cls=Catalog,
    no_args_is_help=True,
    rich_markup_mode="rich",
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
    help=ABOUT,
    epilog="Try it: roundcard demo lays out made-up address books and runs the whole way on them.",
)


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
    for stream in (sys.stdout, sys.stderr):
        with contextlib.suppress(AttributeError):
            stream.reconfigure(errors="backslashreplace")  # type: ignore[union-attr]
    sys.stdout, sys.stderr = Screen(sys.stdout), Screen(sys.stderr)
    try:
        code = app(standalone_mode=False)
    except RoundCardError as error:
        _say(error_line(str(error)))
        code = error.exit_code
    except _COMMAND_LINE_ERROR as error:
        _say(_command_line(error))
        code = UsageError.exit_code
    except (typer.Abort, Interrupted):
        _say(error_line("interrupted; nothing was written"))
        code = INTERRUPTED
    except BrokenPipeError:
        # nobody reads on; keep the interpreter from complaining at the end
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        code = TargetError.exit_code
    except OSError as error:  # what the system refuses where nothing of ours expected it
        where = f"{error.filename}: " if error.filename else ""
        _say(error_line(f"{where}{error.strerror or error}"))
        code = TargetError.exit_code
    sys.exit(code if isinstance(code, int) else 0)


def _say(error: str) -> None:
    """Write an error: one line, but at a terminal, where it is parted between words."""
    if sys.stderr.isatty():
        sys.stderr.write(error)
    else:
        write_data(error, sys.stderr)


def _command_line(error: Any) -> str:
    """What is wrong with the command line, or the help where nothing was asked for."""
    text = error.format_message()
    if type(error).__name__ == "NoArgsIsHelpError":
        return f"{text}\n"
    command = error.ctx.command_path if error.ctx else "roundcard"
    return error_line(f"{text.rstrip('.')}; '{command} --help' shows what there is")


def _interrupt(*_: object) -> NoReturn:
    raise Interrupted
