"""Runs the installed program, as a user does."""

import json
import os
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


@pytest.fixture
def in_turn(tmp_path, warm):
    """Call several commands one after the other; return their statuses and all that they wrote."""

    def call(commands):
        env = {**os.environ, "PYTHONUTF8": "1"}
        done = [warm.call(list(map(str, command)), tmp_path, env) for command in commands]
        return [status for status, _, _ in done], "".join(out + err for _, out, err in done)

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
