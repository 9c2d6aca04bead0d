"""Runs the installed program, as a user does."""

import json
import os
import subprocess
import sys
from dataclasses import dataclass

import pytest
from warm import Warm


@dataclass(frozen=True)
class Run:
    status: int
    out: str
    err: str

    @property
    def document(self):
        return json.loads(self.out)


@pytest.fixture(scope="session")
def warm():
    """Have the program at hand with its modules loaded."""
    server = Warm()
    yield server
    server.close()


@pytest.fixture
def pravix(tmp_path, warm):
    """Call ``pravix`` in a temporary folder, in a process of its own."""

    def call(*arguments, **environment):
        env = {name: value for name, value in os.environ.items() if name != "COLUMNS"}
        env |= {"PYTHONUTF8": "1", **environment}
        status, out, err = warm.call(list(map(str, arguments)), tmp_path, env)
        assert "Traceback" not in err
        return Run(status, out, err)

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
