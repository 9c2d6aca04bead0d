"""Makes the man pages of all commands from their help: python tools/make_man_pages.py"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import click

from pravix import __version__
from pravix.cli.helped import ABOUT_READING, EXAMPLES
from pravix.cli.main import pravix

FOLDER = Path(__file__).parent.parent / "docs" / "man"


def escaped(text: str) -> str:
    """Return a text that roff takes as it is."""
    told = text.replace("\\", "\\e").replace("-", "\\-")
    return "\\&" + told if told.startswith((".", "'")) else told


def head(name: str, told: str) -> Iterator[str]:
    yield f'.TH "{name.upper()}" 1 "" "pravix {__version__}" "Pravix"'
    yield ".SH NAME"
    yield f"{escaped(name)} \\- {escaped(told)}"


def options(command: click.Command, context: click.Context) -> Iterator[str]:
    records = [
        (one.name in ABOUT_READING, record)
        for one in command.get_params(context)
        if isinstance(one, click.Option) and (record := one.get_help_record(context))
    ]
    for reading, title in ((False, "OPTIONS"), (True, "READING THE SOURCE")):
        chosen = [record for about, record in records if about is reading]
        if chosen:
            yield f".SH {title}"
        for names, told in chosen:
            yield from (".TP", f".B {escaped(names)}", escaped(" ".join(told.split())))


def page(name: str, command: click.Command) -> str:
    """Return the page of a command."""
    whole = f"pravix-{name}"
    context = click.Context(command, info_name=f"pravix {name}")
    first, *rest = (command.help or "").split("\n\n")
    lines = list(head(whole, " ".join(first.split())))
    lines += [".SH SYNOPSIS", f".B pravix {name}", escaped(" ".join(command.collect_usage_pieces(context)))]
    if rest:
        lines.append(".SH DESCRIPTION")
    for part in rest:
        lines += [".PP", escaped(" ".join(part.split()))]
    lines.append(".SH EXAMPLES")
    for line, told in EXAMPLES[name]:
        lines += [".TP", f".B {escaped(line)}", escaped(told)]
    lines += [*options(command, context), ".SH EXIT STATUS"]
    lines.append(
        "0 done, 1 a check failed, 2 the input cannot be used, 130 interrupted, 143 ended by the system."
    )
    lines += [".SH SEE ALSO", ".BR pravix (1)"]
    return "\n".join(lines) + "\n"


def overview() -> str:
    """Return the page of the program."""
    lines = list(head("pravix", " ".join((pravix.help or "").split("\n\n")[0].split())))
    lines += [".SH SYNOPSIS", ".B pravix", "COMMAND [OPTIONS] ...", ".SH COMMANDS"]
    context = click.Context(pravix)
    for name in pravix.list_commands(context):
        command = pravix.get_command(context, name)
        assert command is not None
        first = (command.help or "").split("\n\n")[0]
        lines += [".TP", f".BR pravix\\-{name} (1)", escaped(" ".join(first.split()))]
    return "\n".join(lines) + "\n"


def pages() -> dict[str, str]:
    """Return all pages by file name."""
    context = click.Context(pravix)
    found = {"pravix.1": overview()}
    for name in pravix.list_commands(context):
        command = pravix.get_command(context, name)
        assert command is not None
        found[f"pravix-{name}.1"] = page(name, command)
    return found


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for name, text in pages().items():
        (FOLDER / name).write_text(text, encoding="utf-8")
