"""Long-running commands stopped (KILL, TERM, INT) at moments spread over their run: what is left behind?

After each, under the name of the result stands the whole result, the old one, or nothing; a run that could
clean up left nothing hidden; and the next run goes through.

    python benchmarks/faults.py [--moments 50] [--rows 60000] [--only prove]

with PRAVIX_TEST_POSTGRES and PRAVIX_TEST_MARIADB set to the URLs of servers; SQLite and files are always
tried.
"""

from __future__ import annotations

import argparse
import csv
import json
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, inspect, text
from sqlalchemy.engine import make_url
from sqlalchemy.pool import NullPool

SIGNALS = {signal.SIGKILL: -9, signal.SIGTERM: 143, signal.SIGINT: 130}
"""The signals, and the status with which a run ends that hears them."""

_DRIVERS = {"postgresql": "postgresql+psycopg", "mariadb": "mariadb+pymysql"}
_OLD, _NEW = 0, 1000


@dataclass(frozen=True)
class Case:
    """A command to be stopped: how it is called, what is made ready before it, and what is found after it.

    ``found`` returns "absent", "old" or "new", and anything else for what should never be.
    """

    name: str
    call: tuple[str, ...]
    ready: Callable[[], None]
    found: Callable[[], str]


def run(folder: Path, *call: str) -> subprocess.Popen[str]:
    """Start the program in a folder."""
    return subprocess.Popen(
        [sys.executable, "-m", "pravix", *call],
        cwd=folder,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )


def completed(folder: Path, *call: str) -> int:
    """Run the program to its end and return its status."""
    process = run(folder, *call)
    process.communicate()
    return process.returncode


def sheet(path: Path, rows: int, added: int) -> None:
    """Write a sheet of drums whose weights are higher by ``added``."""
    with path.open("w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(["line_no", "drum_no", "honey", "keeper_no", "keeper", "kg"])
        writer.writerows(
            [n, n % 9000, f"h{n % 9000 % 7}", f"K{n % 400}", f"keeper {n % 400}", n * 7919 % 500 + added]
            for n in range(rows)
        )


def prepared(folder: Path, rows: int) -> None:
    """Write the sheets and the folders of results that the cases work with."""
    sheet(folder / "old.csv", rows, _OLD)
    sheet(folder / "new.csv", rows, _NEW)
    for name in ("old", "new"):
        assert completed(folder, "decompose", f"{name}.csv", "--out", f"{name}_tables") == 0


def file_cases(folder: Path) -> Iterator[Case]:
    """Yield the cases that work with files alone."""
    out, database = folder / "out", folder / "made.db"

    def nothing() -> None:
        shutil.rmtree(out, ignore_errors=True)
        database.unlink(missing_ok=True)

    def old_folder() -> None:
        nothing()
        shutil.copytree(folder / "old_tables", out)

    def in_folder() -> str:
        if not out.exists():
            return "absent"
        document = json.loads((out / "design.json").read_text(encoding="utf-8"))
        complete = all((out / table["file"]).exists() for table in document["tables"])
        for name in ("old", "new"):
            wanted = json.loads((folder / f"{name}_tables" / "design.json").read_text(encoding="utf-8"))
            if complete and document["flat"] == wanted["flat"]:
                return name
        return "a folder that is not whole"

    def in_sqlite() -> str:
        if not database.exists():
            return "absent"
        with sqlite3.connect(database) as connection:
            return _told(connection.execute("SELECT SUM(kg), COUNT(*) FROM flat").fetchone())

    def old_database() -> None:
        nothing()
        assert completed(folder, "load", "old_tables", "sqlite:///made.db") == 0

    yield Case("decompose, a new folder", ("decompose", "new.csv", "--out", "out"), nothing, in_folder)
    yield Case(
        "decompose, over an old folder", ("decompose", "new.csv", "--out", "out"), old_folder, in_folder
    )
    yield Case("load, a new SQLite file", ("load", "new_tables", "sqlite:///made.db"), nothing, in_sqlite)
    replace = ("load", "new_tables", "sqlite:///made.db", "--replace")
    yield Case("load --replace, SQLite", replace, old_database, in_sqlite)
    yield Case("prove", ("prove", "new_tables"), nothing, lambda: "absent")


def _told(found: Any) -> str:
    total, count = found
    if not count:
        return "an empty view"
    return "new" if int(total) / count > _NEW else "old"


def server_case(folder: Path, url: str) -> Case:
    """Return the case that replaces tables in a database of a server."""
    kind = make_url(url).get_backend_name()
    engine = create_engine(make_url(url).set(drivername=_DRIVERS[kind]), poolclass=NullPool)

    def ready() -> None:
        assert completed(folder, "load", "old_tables", url, "--replace") == 0

    def found() -> str:
        deadline = time.monotonic() + 30
        while True:
            with engine.connect() as connection:
                names = {*inspect(connection).get_table_names(), *inspect(connection).get_view_names()}
                if "flat" in names or time.monotonic() > deadline:
                    break
            time.sleep(0.2)
        with engine.connect() as connection:
            if "flat" not in names:
                return f"no view: {', '.join(sorted(names))}"
            return _told(connection.execute(text("SELECT SUM(kg), COUNT(*) FROM flat")).one())

    return Case(f"load --replace, {kind}", ("load", "new_tables", url, "--replace"), ready, found)


@dataclass(frozen=True)
class Stopped:
    """What was found after the stops of a case: how often each, and what went wrong, in a line each."""

    found: dict[str, int]
    wrong: list[str]


def stopped(case: Case, folder: Path, signals: Sequence[signal.Signals], moments: int) -> Stopped:
    """Stop a case at moments spread over its run, by each of the signals in turn."""
    case.ready()
    begun = time.monotonic()
    assert completed(folder, *case.call) == 0
    whole = time.monotonic() - begun
    found: dict[str, int] = {}
    wrong = []
    for moment in range(moments):
        number = signals[moment % len(signals)]
        case.ready()
        process = run(folder, *case.call)
        time.sleep(0.2 + (whole - 0.2) * (moment + 0.5) / moments)
        process.send_signal(number)
        _, told = process.communicate()
        state = case.found()
        found[state] = found.get(state, 0) + 1
        place = f"{case.name}, {number.name} at {moment + 1} of {moments}"
        if state not in ("absent", "old", "new"):
            wrong.append(f"{place}: {state}")
        if process.returncode not in (0, SIGNALS[number], -number):
            wrong.append(f"{place}: status {process.returncode}")
        if "Traceback" in told or "fault of Pravix" in told:
            wrong.append(f"{place}: {told.strip().splitlines()[-1]}")
        hidden = [name for name in os.listdir(folder) if ".unfinished-" in name]
        if hidden and number != signal.SIGKILL:
            wrong.append(f"{place}: left {hidden}")
    if completed(folder, *case.call) not in (0, 2):
        wrong.append(f"{case.name}: the next run does not go through")
    hidden = [name for name in os.listdir(folder) if ".unfinished-" in name]
    if hidden:
        wrong.append(f"{case.name}: the next run left {hidden}")
    return Stopped(found, wrong)


def server_databases() -> list[str]:
    """Return the URL of a database of its own on each server that the environment names."""
    made = []
    for variable in ("PRAVIX_TEST_POSTGRES", "PRAVIX_TEST_MARIADB"):
        if not os.environ.get(variable):
            continue
        url = make_url(os.environ[variable])
        kind = _DRIVERS[url.get_backend_name()]
        engine = create_engine(url.set(drivername=kind), isolation_level="AUTOCOMMIT")
        with engine.connect() as connection:
            connection.execute(text("DROP DATABASE IF EXISTS pravix_faults"))
            connection.execute(text("CREATE DATABASE pravix_faults"))
        made.append(url.set(database="pravix_faults").render_as_string(hide_password=False))
    return made


def main() -> None:
    """Stop every case and print what was found."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--moments", type=int, default=50)
    parser.add_argument("--rows", type=int, default=60_000)
    parser.add_argument("--only", default="", help="only the cases whose names hold this")
    wishes = parser.parse_args()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        prepared(folder, wishes.rows)
        urls = server_databases()
        cases = [*file_cases(folder), *(server_case(folder, url) for url in urls)]
        for case in [one for one in cases if wishes.only in one.name]:
            result = stopped(case, folder, list(SIGNALS), wishes.moments)
            told = ", ".join(f"{state} {count}" for state, count in sorted(result.found.items()))
            wrong = f"{len(result.wrong)} wrong"
            print(f"{case.name}: stopped {wishes.moments} times: {told}; {wrong}", flush=True)
            for line in result.wrong:
                print(f"  {line}", flush=True)


if __name__ == "__main__":
    main()
