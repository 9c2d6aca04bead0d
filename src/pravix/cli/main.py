"""The entry point: finds the command, and turns every failure into one line and an exit status."""

from __future__ import annotations

import importlib
import os
import sys

import click

from pravix import __version__
from pravix.errors import InputError

UNUSABLE = 2
INTERRUPTED = 130

_SECTIONS = {
    "Look at a file": {
        "survey": "Show what each column holds and repeats, and what stands in the way of 1NF.",
        "repair": "Decide about lists, families, yes/no and computed columns; write a patch.",
        "keys": "List every minimal unique combination of columns.",
        "dependencies": "List what determines what, and how strongly the rows speak for it.",
        "connect": "Find which columns of several tables refer to which keys of others.",
    },
    "Decide and design": {
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
_COMMANDS = [name for commands in _SECTIONS.values() for name in commands]


class _Commands(click.Group):
    """The commands by name; each module is imported only when its command runs."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the names in the order of an analyst's work."""
        return _COMMANDS

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Import and return a command; None when there is no such command."""
        if cmd_name not in _COMMANDS:
            return None
        command: click.Command = importlib.import_module(f"pravix.cli.{cmd_name}").command
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write the commands, section by section, without importing any of them."""
        for title, commands in _SECTIONS.items():
            with formatter.section(title):
                formatter.write_dl(list(commands.items()))


@click.group(
    cls=_Commands, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 100}
)
@click.version_option(__version__, prog_name="pravix", message="%(prog)s %(version)s")
def pravix() -> None:
    """From a flat file to third-normal-form tables, every step explained and proved.

    Begin with: pravix demo
    """


def main() -> None:
    """Run the command line and exit: 0 done, 1 a check failed, 2 unusable input, 130 interrupted."""
    status = _status()
    if status == INTERRUPTED:
        sys.stderr.flush()
        os._exit(status)  # Without waiting for a search that goes on in another thread.
    sys.exit(status)


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
    except (click.Abort, KeyboardInterrupt):
        click.echo("pravix: interrupted", err=True)
        return INTERRUPTED
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except Exception as error:
        if os.environ.get("PRAVIX_TRACEBACK"):
            raise
        fault = f"a fault of Pravix itself: {type(error).__name__}: {error}"
        return _told(fault, "Please report it. With PRAVIX_TRACEBACK=1 it shows where.")


def _told(message: str, hint: str) -> int:
    """Print one line for an error, and its hint under it; return the exit status."""
    click.echo(f"pravix: error: {' '.join(message.split())}", err=True)
    if hint:
        click.echo(f"  {hint}", err=True)
    return UNUSABLE
