"""The entry point: finds the command, and turns every failure into one line and an exit status."""

from __future__ import annotations

import _thread
import gc
import importlib
import io
import os
import signal
import sys
import threading
import time
from typing import TextIO

import click

from pravix import __version__
from pravix.errors import InputError
from pravix.wording import meant, printable

UNUSABLE = 2
INTERRUPTED = 130
TERMINATED = 143

_OBJECTS = 200_000, 20, 100
"""How many new objects there must be before cycles are looked for: a run makes millions, of which few are."""

_SOON = 0.01
"""Seconds after which a stop is heard again that was lost."""

_SECTIONS = {
    "Look at a file": {
        "survey": "Show what each column holds and repeats, and what stands in the way of 1NF.",
        "repair": "Decide about lists, families, yes/no and computed columns; write a patch.",
        "keys": "List every minimal unique combination of columns.",
        "dependencies": "List what determines what, and how strongly the rows speak for it.",
        "connect": "Find which columns of several tables refer to which keys of others.",
    },
    "Decide and design": {
        "declare": "Say of columns what was not found: a list, a family, a formula, a period.",
        "decide": "Answer the few questions about rules that the rows cannot settle.",
        "arrange": "Show what the design could do otherwise, and record what you wish.",
        "describe": "Record what columns, codes and tables mean, for the data dictionary.",
        "decompose": "Split the file into third normal form, step by step, with the proof.",
        "explain": "Tell why: a column, a table, a key, a link, a rule, or what was not done.",
        "review": "Review a design made by hand, or the tables of a database.",
    },
    "Work with a folder that decompose wrote": {
        "prove": "Repeat the proof from the folder, and nothing else.",
        "load": "Load the tables into a database, all or nothing.",
        "sql": "Write the SQL for one kind of database.",
        "recombine": "Put columns side by side again: the query and its rows.",
        "diagram": "Draw the tables, or write them as text for documents.",
        "dictionary": "Write the data dictionary.",
        "workbook": "Write the tables as the sheets of one workbook.",
        "report": "Write a report to pass around, in HTML or Markdown.",
        "check": "Hold a new file against the design, and load what is good.",
    },
    "Begin": {
        "demo": "Write the demo data and its results, and tell the story.",
    },
}
_WORKED_WITH = (
    *("numpy", "pyarrow", "numba", "sqlalchemy", "networkx", "matplotlib"),
    *("duckdb", "psycopg", "pymysql", "pyspark-client"),
)
_COMMANDS = [name for commands in _SECTIONS.values() for name in commands]


class _Commands(click.Group):
    """The commands by name; each module is imported only when its command runs."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the names in the order of an analyst's work."""
        return _COMMANDS

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Import and return a command; None when there is no such command."""
        if cmd_name not in _COMMANDS:
            if ctx is not None and not ctx.resilient_parsing:
                ctx.fail(f"No such command {cmd_name!r}. {meant(cmd_name, _COMMANDS)}".strip())
            return None
        if ctx is not None and not ctx.resilient_parsing:
            _listen()
            importlib.import_module("pravix.memory").shared_by_threads()
        command: click.Command = importlib.import_module(f"pravix.cli.{cmd_name}").command
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write the commands, section by section, without importing any of them."""
        for title, commands in _SECTIONS.items():
            with formatter.section(title):
                formatter.write_dl(list(commands.items()))


def _versions(context: click.Context, parameter: click.Parameter, wanted: bool) -> None:
    """Show the version, and those of what it works with."""
    if not wanted or context.resilient_parsing:
        return
    import platform
    from importlib.metadata import PackageNotFoundError, version
    from importlib.util import find_spec

    ready = find_spec("pravix.kernels._machine_code") is not None
    click.echo(f"pravix {__version__}")
    click.echo(f"Python {platform.python_version()} on {platform.platform()}")
    click.echo(f"inner loops: {'machine code of the wheel' if ready else 'compiled here by Numba'}")
    for name in _WORKED_WITH:
        try:
            click.echo(f"{name} {version(name)}")
        except PackageNotFoundError:
            click.echo(f"{name} is not installed")
    context.exit()


@click.group(
    cls=_Commands, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100}
)
@click.option(
    "--version",
    is_flag=True,
    expose_value=False,
    is_eager=True,
    callback=_versions,
    help="Show the versions that matter in a report of a fault, and exit.",
)
def pravix() -> None:
    """From a flat file to third-normal-form tables, every step explained and proved.

    Begin with: pravix demo
    """


class _Terminated(BaseException):
    """The system asks the program to end."""


def main() -> None:
    """Run the command line and exit: 0 done, 1 a check failed, 2 unusable input, 130 interrupted.

    143 stands for a termination by the system.
    """
    _prepared()
    status = _status()
    _hear_stops(signal.SIG_IGN)  # What there was to stop is done, or undone; this takes a moment only.
    if "pravix.temporary" in sys.modules:
        sys.modules["pravix.temporary"].let_all_go()
    try:
        sys.stdout.flush()
    except BrokenPipeError:
        pass
    except OSError as error:
        status = _told(f"standard output cannot be written: {error.strerror}", "")
    sys.stderr.flush()
    if status in (INTERRUPTED, TERMINATED):
        os._exit(status)  # Without waiting for a search that goes on in another thread.
    _let_go(sys.stdout)
    _hear_stops(signal.SIG_DFL)
    sys.exit(status)


def _hear_stops(how: signal.Handlers) -> None:
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, how)


def _prepared() -> None:
    """Have somewhere to write, whatever the marks; hear the system."""
    gc.set_threshold(*_OBJECTS)
    for name in ("stdout", "stderr"):
        stream = getattr(sys, name)
        if stream is None:
            setattr(sys, name, open(os.devnull, "w", encoding="utf-8"))  # noqa: SIM115
        elif isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    signal.signal(signal.SIGTERM, _terminate)
    sys.unraisablehook = _heard_again


def _listen() -> None:
    """Tell what the core logs; not of drivers, for what is wrong with those is told by ourselves."""
    import logging

    logging.getLogger("sqlalchemy").addHandler(logging.NullHandler())
    handler = logging.StreamHandler()
    handler.setFormatter(logging.Formatter("pravix: note: %(message)s"))
    logging.getLogger("pravix").addHandler(handler)


_asked_to_end: list[int] = []
"""The signals of the system that were heard."""


def _terminate(number: int, frame: object) -> None:
    _asked_to_end.append(number)
    raise _Terminated


def _heard_again(unraisable: sys.UnraisableHookArgs) -> None:
    """Stop soon, where a stop came in the midst of clearing something away.

    It cannot be raised here, where it would be lost as well: a thread has the main one hear it again.
    """
    stops: dict[type[BaseException], signal.Signals] = {
        _Terminated: signal.SIGTERM,
        KeyboardInterrupt: signal.SIGINT,
    }
    if unraisable.exc_type in stops:
        _thread.start_new_thread(_interrupt_soon, (stops[unraisable.exc_type],))
    else:
        sys.__unraisablehook__(unraisable)


def _interrupt_soon(number: signal.Signals) -> None:
    time.sleep(_SOON)
    if hasattr(signal, "pthread_kill"):
        signal.pthread_kill(threading.main_thread().ident or 0, number)  # What it waits for ends as well.
    else:
        _thread.interrupt_main(number)


def _let_go(stream: TextIO) -> None:
    """Leave nothing for Python to write at its end, where a reader has gone or the disk is full."""
    try:
        stream.flush()
    except OSError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())


def _status() -> int:
    try:
        return pravix.main(prog_name="pravix", standalone_mode=False) or 0
    except InputError as error:
        return _told(str(error), error.hint)
    except click.UsageError as error:
        place = error.ctx.command_path if error.ctx else "pravix"
        return _told(error.format_message(), f"{place} --help lists the arguments and options.")
    except click.ClickException as error:
        return _told(error.format_message(), "")
    except _Terminated:
        click.echo("pravix: terminated", err=True)
        return TERMINATED
    except (click.Abort, KeyboardInterrupt):
        if _asked_to_end:
            click.echo("pravix: terminated", err=True)
            return TERMINATED
        click.echo("pravix: interrupted", err=True)
        return INTERRUPTED
    except BrokenPipeError:
        return 0
    except SystemExit as error:
        if "PacifyFlushWrapper" in type(sys.stdout).__name__:  # So Click says that nobody reads.
            return 0
        return error.code if isinstance(error.code, int) else UNUSABLE
    except MemoryError:
        return _told("out of memory", "Take fewer columns or rows, or search less: --largest 2, --memory.")
    except OSError as error:
        return _told(*_system_error(error))
    except Exception as error:
        if os.environ.get("PRAVIX_TRACEBACK"):
            raise
        fault = f"a fault of Pravix itself: {type(error).__name__}: {error}"
        return _told(fault, "Please report it. With PRAVIX_TRACEBACK=1 it shows where.")


def _system_error(error: OSError) -> tuple[str, str]:
    """Return what the system refused, and a hint."""
    try:
        os.getcwd()
    except OSError:
        return "the folder in which this runs is gone", "Change into another folder."
    where = f"{error.filename}: " if error.filename else ""
    return f"{where}{error.strerror or error}", ""


def _told(message: str, hint: str) -> int:
    """Print one line for an error, and its hint under it; return the exit status."""
    click.echo(printable(f"pravix: error: {' '.join(message.split())}"), err=True)
    if hint:
        click.echo(printable(f"  {hint}"), err=True)
    return UNUSABLE
