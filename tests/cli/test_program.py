"""The program as a whole: help, errors, exit statuses, and nothing loaded that is not needed."""

import os
import random
import signal
import subprocess
import sys

import pytest

from pravix import __version__
from pravix.cli.main import _COMMANDS

COMMANDS = ["survey", "keys", "dependencies", "decompose"]


def test_version_and_help(pravix):
    told = pravix("--version").out.splitlines()
    assert told[0] == f"pravix {__version__}"
    assert told[1].startswith("Python 3.")
    assert any(line.startswith("inner loops: ") for line in told)
    assert any(line.startswith("numpy ") for line in told)
    told = pravix("--help").out
    assert all(f"  {name} " in told for name in _COMMANDS)


@pytest.mark.parametrize("argument", ["--help", "--version"])
def test_help_and_version_load_nothing_heavy(argument):
    code = (
        "import sys; sys.argv = ['pravix', sys.argv[1]]\n"
        "from pravix.cli.main import main\n"
        "try: main()\n"
        "except SystemExit as end: assert not end.code\n"
        "heavy = {'numpy', 'pandas', 'matplotlib', 'pyarrow', 'rich', 'sqlalchemy'} & set(sys.modules)\n"
        "assert not heavy, heavy\n"
    )
    subprocess.run([sys.executable, "-c", code, argument], check=True, capture_output=True)


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM], ids=lambda number: number.name)
def test_a_stop_that_comes_while_something_is_cleared_away_is_heard(number):
    """Python ignores what is raised there."""
    code = (
        "import signal, sys, time\n"
        "from pravix.cli.main import _prepared\n"
        "class Clearing:\n"
        "    def __del__(self):\n"
        "        signal.raise_signal(int(sys.argv[1]))\n"
        "_prepared()\n"
        "try:\n"
        "    Clearing()\n"
        "    time.sleep(60)\n"
        "except BaseException as stop:\n"
        "    print(type(stop).__name__)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(int(number))], capture_output=True, text=True, check=True, timeout=40
    )
    assert done.stdout.strip() == {"SIGINT": "KeyboardInterrupt", "SIGTERM": "_Terminated"}[number.name]
    assert done.stderr == ""


@pytest.mark.parametrize(
    ("arguments", "status", "heavy"),
    [
        (("check", "made", "SHEET"), 1, "sqlalchemy duckdb sqlglot matplotlib pandas"),
        (("load", "made", "sqlite:///made.db"), 0, "duckdb sqlglot matplotlib pandas"),
    ],
    ids=lambda given: given[0] if isinstance(given, tuple) else None,
)
def test_what_is_done_with_a_small_folder_loads_only_what_it_takes(
    pravix, sheet, tmp_path, arguments, status, heavy
):
    """All rows of the sheet are there already when it is checked, which is told by the status."""
    assert pravix("decompose", sheet, "--out", "made").status == 0
    code = (
        "import sys; status, heavy, *sys.argv[1:] = sys.argv[1:]\n"
        "from pravix.cli.main import main\n"
        "try: main()\n"
        "except SystemExit as end: assert (end.code or 0) == int(status)\n"
        "loaded = set(heavy.split()) & set(sys.modules)\n"
        "assert not loaded, loaded\n"
    )
    given = [str(sheet) if one == "SHEET" else one for one in arguments]
    command = [sys.executable, "-c", code, str(status), heavy, *given]
    subprocess.run(command, check=True, capture_output=True, cwd=tmp_path)


def test_plurals_are_made_without_functions_that_check_types():
    """To write such functions anew, as the library asks for when it is loaded, takes seconds."""
    code = (
        "from pravix.wording import plural\n"
        "assert plural('apiary') == 'apiaries'\n"
        "import inflect, typeguard\n"
        "assert not hasattr(inflect.engine.plural_noun, '__wrapped__')\n"
        "assert 'typeguard' not in inflect.engine.plural_noun.__code__.co_names\n"
        "assert typeguard.typechecked.__module__.startswith('typeguard')\n"
    )
    subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)


def test_it_runs_as_a_module(tmp_path):
    done = subprocess.run(
        [sys.executable, "-m", "pravix", "--version"], capture_output=True, text=True, check=True
    )
    assert done.stdout.startswith(f"pravix {__version__}\n")


def test_every_listed_command_is_there_with_its_help(pravix):
    for name in _COMMANDS:
        assert pravix(name, "--help").out.startswith(f"Usage: pravix {name} ")


@pytest.mark.parametrize("command", COMMANDS)
@pytest.mark.parametrize("mode", [[], ["--json"]])
def test_input_that_cannot_be_used_gives_one_line_and_status_2(pravix, tmp_path, command, mode):
    (tmp_path / "ragged.csv").write_text("a,b\n1,2\n1,2,3\n")
    run = pravix(command, "ragged.csv", *mode)
    assert (run.status, run.out) == (2, "")
    first, *hint = run.err.splitlines()
    assert first == "pravix: error: ragged.csv: row 3 has 3 fields where the header has 2"
    assert len(hint) == 1
    assert hint[0].startswith("  ")


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        (["nonsense"], "pravix: error: No such command 'nonsense'"),
        (["keys"], "pravix: error: Missing argument 'SOURCE'"),
        (["keys", "none.csv"], "pravix: error: there is no file none.csv"),
        (["keys", "drums.csv", "--largest", "x"], "pravix: error: Invalid value for '--largest'"),
        (["keys", "drums.csv", "--bogus"], "pravix: error: No such option '--bogus'"),
        (["explain", "drums.csv", "keper"], "pravix: error: drums.csv has no column keper"),
        (["decompose", "drums.csv", "--out", "drums.csv"], "is a file, not a folder"),
    ],
)
def test_wrong_calls_give_one_line_and_status_2(pravix, sheet, arguments, message):
    run = pravix(*arguments)
    assert run.status == 2
    assert message in run.err.splitlines()[0]
    assert len(run.err.splitlines()) <= 2


def test_a_mistake_in_the_ledger_is_an_error_of_the_input(pravix, sheet, tmp_path):
    (tmp_path / "drums.ledger.toml").write_text(
        "[[decision]]\nrule = 'drum -> keeper'\nstanding = 'accepted'\n"
    )
    run = pravix("decompose", sheet)
    assert run.status == 2
    assert run.err.startswith("pravix: error: drums.ledger.toml, line 2: drums.csv has no column drum\n")


def test_an_interrupt_ends_with_130_and_leaves_nothing(tmp_path):
    drawn = random.Random(5)  # Rows that obey no rule are searched for minutes: the signal comes in time.
    rows = [",".join(str(drawn.randrange(6)) for _ in range(40)) for _ in range(6000)]
    (tmp_path / "wide.csv").write_text("\n".join([",".join(f"c{place}" for place in range(40)), *rows]))

    def heard():
        """Hear Ctrl-C also where the tests run in the background of a shell, which has it ignored."""
        signal.signal(signal.SIGINT, signal.SIG_DFL)

    started = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "pravix",
            "decompose",
            "wide.csv",
            "--largest",
            "8",
            "--out",
            "made",
            "--verbose",
        ],
        cwd=tmp_path,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        preexec_fn=heard,
    )
    while "staying" not in started.stderr.readline():  # What comes after it is the search.
        assert started.poll() is None
    started.send_signal(signal.SIGINT)
    _, err = started.communicate(timeout=30)
    assert started.returncode == 130
    assert err.strip() == "pravix: interrupted"
    assert [path.name for path in tmp_path.iterdir()] == ["wide.csv"]


def test_killed_while_it_writes_it_leaves_nothing_under_the_final_name(tmp_path):
    """Kill the program as soon as it writes: the folder is not there, and the next run makes it whole."""
    drums = (f"{n},{n % 300},{'RAP CLO LIM'.split()[n % 300 % 3]}" for n in range(30_000))
    (tmp_path / "big.csv").write_text("\n".join(["line_no,drum_no,honey", *drums]))
    call = [sys.executable, "-m", "pravix", "decompose", "big.csv", "--out", "out"]
    for _ in range(3):
        started = subprocess.Popen(call, cwd=tmp_path, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        while not any(name.startswith(".out.unfinished-") for name in os.listdir(tmp_path)):
            assert started.poll() is None, "it ended before it was seen to write"
        started.kill()
        started.wait()
        assert not (tmp_path / "out").exists()
    subprocess.run(call, cwd=tmp_path, stdout=subprocess.DEVNULL, check=True)
    assert sorted(os.listdir(tmp_path)) == ["big.csv", "out"]
    files = [
        *("README.md", "csv-metadata.json", "datapackage.json", "design.json"),
        *("drum.csv", "line.csv", "schema.sql"),
    ]
    assert sorted(os.listdir(tmp_path / "out")) == files
    assert (tmp_path / "out" / "line.csv").read_text().count("\n") == 30_001


def test_a_closed_pipe_is_no_error(tmp_path, sheet):
    done = subprocess.run(
        f"{sys.executable} -m pravix dependencies {sheet} --all --json | head -c 10",
        shell=True,
        cwd=tmp_path,
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stderr == ""


def test_the_folder_itself_is_no_source(pravix):
    run = pravix("keys", ".")
    assert run.status == 2
    assert run.err.startswith("pravix: error: ")
    assert "fault" not in run.err
