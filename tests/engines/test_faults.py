"""Faults while rows are asked where they are: lost connections, few rights, a full disk, rows that change."""

import subprocess
import sys
from contextlib import contextmanager
from pathlib import Path

import pytest
from databases import MARIADB, POSTGRES, new_database
from flat_tables import database_of, executed, put
from large import NAMES, csv_text, deliveries

from pravix.analysis import Analysis
from pravix.engines.place import Place
from pravix.engines.staying import Staying
from pravix.errors import InputError
from pravix.sources.reading import Reading

SERVERS = {"postgresql": POSTGRES, "mariadb": MARIADB}
NUMBER = {"postgresql": "SELECT pg_backend_pid()", "mariadb": "SELECT CONNECTION_ID()"}
END = {"postgresql": "SELECT pg_terminate_backend({})", "mariadb": "KILL {}"}


@pytest.fixture(scope="module")
def rows():
    return [[cell or None for cell in row] for row in deliveries(3_000)]


@contextmanager
def at_statement(monkeypatch, wanted, happens):
    """Let something happen in front of one of the statements; give the list of those so far."""
    real, seen = Place._asked, []

    def asked(self, statement, most):
        seen.append(statement)
        if len(seen) == wanted:
            happens(self)
        return real(self, statement, most)

    with monkeypatch.context() as patch:
        patch.setattr(Place, "_asked", asked)
        yield seen


def every_statement(monkeypatch):
    """Give the list of all statements so far."""
    return at_statement(monkeypatch, None, None)


def designed(url):
    """Decompose a table where it is; return the tables with their counts."""
    made = Analysis(url, Reading(table="flat rows", memory=1))
    assert isinstance(made.source, Staying)
    try:
        return {table.name: table.rows.total for table in made.design.tables}
    finally:
        made.source.flat.place.close()


@pytest.mark.parametrize("engine", SERVERS)
def test_a_lost_connection_is_told_and_the_next_try_goes_through(engine, rows, monkeypatch):
    with new_database(SERVERS[engine]) as url:
        put(url, NAMES, rows)

        def lose(place):
            ((number,),) = place._connection.run(NUMBER[engine])
            executed(url, (END[engine].format(number),))

        with every_statement(monkeypatch) as every:
            whole = designed(url)
        for wanted in (4, len(every) // 2, len(every)):
            with (
                at_statement(monkeypatch, wanted, lose) as seen,
                pytest.raises(InputError, match=r"refused: .+"),
            ):
                designed(url)
            assert len(seen) == wanted
        assert designed(url) == whole


@pytest.mark.parametrize("engine", SERVERS)
def test_rows_that_change_meanwhile_are_looked_at_in_one_state(engine, rows, monkeypatch):
    with new_database(SERVERS[engine]) as url:
        put(url, NAMES, rows)
        with every_statement(monkeypatch) as every:
            whole = designed(url)
        some = ", ".join(f"'{row[0]}'" for row in rows[::10])
        mark = "`" if engine == "mariadb" else '"'
        name = f"{mark}flat rows{mark}"
        for wanted in (5, len(every) // 2, len(every) - 1):
            put(url, NAMES, rows)
            changes = (
                (f"DELETE FROM {name} WHERE {NAMES[0]} IN ({some})",),
                (f"UPDATE {name} SET {NAMES[3]} = 'x'",),
            )
            with at_statement(
                monkeypatch, wanted, lambda place, changes=changes: executed(url, *changes)
            ) as seen:
                assert designed(url) == whole
            assert len(seen) > wanted
        assert designed(url) != whole


def test_a_full_disk_is_told_and_nothing_is_left(tmp_path):
    """Files of more than some kilobytes cannot be written."""
    (tmp_path / "flat.csv").write_text(csv_text(deliveries(30_000)), encoding="utf-8")
    (tmp_path / "kept").mkdir()
    script = (
        "import resource, sys; resource.setrlimit(resource.RLIMIT_FSIZE, (200_000, 200_000)); "
        "from pravix.cli.main import main; sys.argv = ['pravix', *sys.argv[1:]]; main()"
    )
    arguments = ["decompose", "flat.csv", "--memory", "1MB"]
    done = subprocess.run(
        [sys.executable, "-c", script, *arguments],
        cwd=tmp_path,
        env={"TMPDIR": str(tmp_path / "kept"), "PATH": str(Path(sys.executable).parent)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 2, done.stderr
    assert done.stderr.splitlines()[0] == (
        "pravix: error: flat.csv cannot be put into a database for a while: the disk takes no more"
    )
    assert len(done.stderr.splitlines()) <= 2
    assert not list((tmp_path / "kept").iterdir())


def test_a_view_that_fails_for_a_row_is_told(tmp_path):
    with database_of("postgresql", tmp_path) as url:
        put(url, ["a", "b"], [(str(n), str(n % 3)) for n in range(50)] + [("x", "1")])
        executed(url, ('CREATE VIEW broken AS SELECT a, CAST(a AS INTEGER) AS n, b FROM "flat rows"',))
        with pytest.raises(InputError, match="refused: invalid input syntax"):
            Analysis(url, Reading(table="broken", memory=1)).design  # noqa: B018
