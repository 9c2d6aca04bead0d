"""Runs the installed program, as a user does."""

import json
import os
import subprocess
import sys
from dataclasses import dataclass

import pytest
from program import PROGRAM


@dataclass(frozen=True)
class Run:
    status: int
    out: str
    err: str

    @property
    def document(self):
        return json.loads(self.out)


@pytest.fixture
def pravix(tmp_path):
    """Call the installed ``pravix`` in a temporary folder."""

    def call(*arguments, **environment):
        done = subprocess.run(
            [str(PROGRAM), *arguments],
            cwd=tmp_path,
            env={name: value for name, value in os.environ.items() if name != "COLUMNS"}
            | {"PYTHONUTF8": "1"}
            | environment,
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            encoding="utf-8",
            timeout=120,
            check=False,
        )
        assert "Traceback" not in done.stderr
        return Run(done.returncode, done.stdout, done.stderr)

    return call


IN_TURN = """
import json, sys
from pravix.cli.main import main
statuses = []
for arguments in json.loads(sys.argv[1]):
    sys.argv[1:] = arguments
    try:
        main()
        statuses.append(0)
    except SystemExit as done:
        statuses.append(done.code or 0)
print("\\n" + json.dumps(statuses))
"""


@pytest.fixture
def in_turn(tmp_path):
    """Call several commands in one process, which starts once; return their statuses and what they wrote."""

    def call(commands):
        done = subprocess.run(
            [sys.executable, "-c", IN_TURN, json.dumps(commands)],
            cwd=tmp_path,
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            encoding="utf-8",
            timeout=120,
            check=True,
        )
        *out, statuses = done.stdout.splitlines()
        return json.loads(statuses), "\n".join(out) + done.stderr

    return call


@pytest.fixture
def sheet(tmp_path):
    """Write a small sheet of drums with their keepers; return its path as the program is told it."""
    lines = ["line_no,drum_no,keeper_no,keeper,phone,note"]
    names = ["Ada", "Milo", "Nora", "Petra"]
    phones = ["0421 333", "0422 444", "", "0424 666"]
    for place in range(48):
        keeper = place * 7 % 4
        drum = 200 + place % 16
        lines.append(f"{place + 1},{drum},K-{keeper + 10},{names[keeper]},{phones[keeper]},")
    (tmp_path / "drums.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    return "drums.csv"
