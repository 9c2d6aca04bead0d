"""What README, docs and docstrings say is so: command lines, links, and examples."""

import doctest
import importlib
import pkgutil
import re
import shlex
from importlib.resources import files
from pathlib import Path

import click
import pytest

import pravix
from pravix.cli.helped import EXAMPLES
from pravix.cli.main import pravix as commands

ROOT = Path(__file__).parents[2]
PAGES = [
    ROOT / "README.md",
    ROOT / "CONTRIBUTING.md",
    ROOT / "SECURITY.md",
    *sorted((ROOT / "docs").glob("*.md")),
]
IN_A_LINE = re.compile(r"`(pravix [^`]+)`")
ON_A_LINE = re.compile(r"^    (?:\$ )?(pravix .+)$", re.MULTILINE)


def command_lines(page):
    """Return every command line of a page, put together where it goes on, without the words beside it."""
    text = page.read_text(encoding="utf-8").replace("\\\n", " ")
    found = [re.split(r"\s{3,}", line)[0] for line in (*IN_A_LINE.findall(text), *ON_A_LINE.findall(text))]
    return [" ".join(line.split()) for line in found]


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_every_command_line_is_one_that_the_program_takes(page):
    for line in command_lines(page):
        words = [word for word in shlex.split(line.split(" | ")[0])[1:] if word not in ("...", "&&", "\\")]
        if not words or words[0].startswith("-"):
            continue
        command = commands.get_command(None, words[0])
        assert command is not None, line
        complaint = complained(command, words)
        assert complaint is None or only_named(complaint, words), f"{line}: {complaint.format_message()}"


def test_the_examples_of_the_help_are_taken_and_every_command_has_some():
    assert set(EXAMPLES) == set(commands.list_commands(None))
    for name, told in EXAMPLES.items():
        for line, said in told:
            words = shlex.split(line.split(" > ")[0])[1:]
            assert words[0] == name
            assert said
            assert complained(commands.get_command(None, name), words) is None, line


def complained(command, words):
    """Return what the command says against its arguments; None where it takes them."""
    try:
        command.make_context(words[0], words[1:])
    except click.UsageError as error:
        return error
    return None


def only_named(complaint, words):
    """Whether a command or an option is only named, without what it works on or its value."""
    if isinstance(complaint, click.MissingParameter):
        return len(words) == 1 or any(word.startswith("-") for word in words[1:])
    return isinstance(complaint, click.BadOptionUsage) and complaint.option_name == words[-1]


def test_the_pages_have_command_lines():
    assert sum(len(command_lines(page)) for page in PAGES) > 60


def examples():
    """Yield each command of the README's tour with the lines that it is said to write."""
    lines = (ROOT / "README.md").read_text(encoding="utf-8").replace("\\\n", " ").splitlines()
    for place, line in enumerate(lines):
        if line.startswith("    $ pravix "):
            said = []
            for after in lines[place + 1 :]:
                if not after.startswith("    ") or after.startswith("    $"):
                    break
                said.append(after.strip())
            arguments = shlex.split(line.strip()[2:])[1:]
            asking = ["--json"] if arguments[0] == "decide" and len(arguments) == 2 else []
            told = [re.sub(r"^(rule|coincidence): ", "", one.strip(" .")) for one in said]
            yield [*arguments, *asking], told


def test_the_tour_of_the_readme_writes_what_it_shows(in_turn, tmp_path):
    told = list(examples())
    assert len(told) > 12
    status, out = in_turn([["demo", "honey-demo"], *(arguments for arguments, _ in told)])
    assert set(status) <= {0}
    words = " ".join(out.split())
    for arguments, said in told:
        for line in (line for line in said if line.strip("─")):
            assert " ".join(line.split()) in words, (arguments, line)


def test_links_lead_somewhere():
    for page in PAGES:
        for target in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", page.read_text(encoding="utf-8")):
            if "://" not in target:
                assert (page.parent / target).exists(), f"{page.name}: {target}"


def modules():
    return [
        name for _, name, _ in pkgutil.walk_packages(pravix.__path__, "pravix.") if "__main__" not in name
    ]


def test_the_examples_in_docstrings_give_what_they_say():
    results = [doctest.testmod(importlib.import_module(name)) for name in modules()]
    assert sum(one.failed for one in results) == 0
    assert sum(one.attempted for one in results) > 15


def test_the_reference_names_modules_that_are_there():
    named = re.findall(r"^::: (\S+)$", (ROOT / "docs" / "api.md").read_text(encoding="utf-8"), re.MULTILINE)
    assert len(named) > 15
    assert set(named) <= set(modules())


def test_the_demo_data_is_in_the_package():
    assert {entry.name for entry in files("pravix.demo").iterdir()} >= {"deliveries.csv", "whiteboard.txt"}
