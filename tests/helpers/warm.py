"""The program with its modules loaded once: each call is a process of its own, made by a fork.

What a user waits for at every start, loading Python and the modules, is waited for once a session. The tests
of the start itself, of signals and of terminals run the installed script (see ``program.PROGRAM``).
"""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

SERVER = """
import importlib, json, os, sys

for name in ("main", "decompose", "survey", "report", "load", "check", "connect", "demo"):
    importlib.import_module(f"pravix.cli.{name}")
for name in (
    "adbc_driver_sqlite", "inflect", "jinja2", "matplotlib.backends.backend_svg", "matplotlib.figure",
    "networkx", "psycopg", "pyarrow.csv", "pyarrow.parquet", "pymysql", "python_calamine", "rapidfuzz.process",
    "sqlalchemy.dialects.mysql", "sqlalchemy.dialects.postgresql", "sqlalchemy.dialects.sqlite", "tomlkit", "xlsxwriter",
):
    try:
        importlib.import_module(name)
    except ImportError:  # A driver that is not there is missed by the test that needs it.
        pass
importlib.import_module("pravix.sql.schema")
importlib.import_module("pravix.judgement.judge")
from pravix.cli.main import main


def run(call):
    os.chdir(call["cwd"])
    os.environ.clear()
    os.environ.update(call["env"])
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    for number in (1, 2):
        os.dup2(os.open(call["written"][number - 1], os.O_WRONLY | os.O_CREAT | os.O_TRUNC), number)
    sys.stdin = open(0, encoding="utf-8")
    sys.stdout = open(1, "w", encoding="utf-8", closefd=False)
    sys.stderr = open(2, "w", encoding="utf-8", closefd=False, buffering=1)
    sys.argv[1:] = call["arguments"]
    try:
        main()
        status = 0
    except SystemExit as done:
        status = done.code if isinstance(done.code, int) else 0 if done.code is None else 1
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)


for line in sys.stdin:
    child = os.fork()
    if child == 0:
        try:
            run(json.loads(line))
        finally:
            import traceback

            traceback.print_exc()
            os._exit(99)
    print(os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]), flush=True)
"""


class Warm:
    """The server of one test session."""

    def __init__(self) -> None:
        self._server = subprocess.Popen(
            [sys.executable, "-c", SERVER],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            env={**os.environ, "PYTHONUTF8": "1"},
        )

    def call(self, arguments, cwd, env):
        """Return the exit status, and what was written on standard output and standard error."""
        with tempfile.TemporaryDirectory() as folder:
            written = [str(Path(folder) / name) for name in ("out", "err")]
            call = {"arguments": arguments, "cwd": str(cwd), "env": env, "written": written}
            self._server.stdin.write(json.dumps(call) + "\n")
            self._server.stdin.flush()
            status = int(self._server.stdout.readline())
            out, err = (Path(one).read_text(encoding="utf-8") for one in written)
        return status, out, err

    def close(self) -> None:
        """End the server."""
        self._server.communicate(timeout=10)
