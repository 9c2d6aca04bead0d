"""Faults injected at every statement of a load: after each the database holds the old state or the new, no other."""

import contextlib

import pytest
from databases import MARIADB, POSTGRES, SPARK, new_database
from flat_tables import executed, put
from folders import folder_of
from sqlalchemy import create_engine, inspect, text
from sqlalchemy.engine import make_url

from pravix.errors import InputError
from pravix.loading import sessions, sqlite_session, staging
from pravix.loading.in_place import load_in_place
from pravix.loading.load import load_folder
from pravix.relation.relation import Relation
from pravix.sources.reading import Reading
from pravix.sql.view import views

NAMES = ["drum_no", "honey_code", "honey", "keeper_no", "keeper", "kg"]


def rows(kg):
    return [
        [f"D{n}", f"H{n % 4}", f"honey {n % 4}", f"K{n % 5}", f"keeper {n % 5}", f"{kg + n}"]
        for n in range(40)
    ]


@pytest.fixture(scope="module")
def folders(tmp_path_factory):
    """The same tables twice: with other weights."""
    made = tmp_path_factory.mktemp("faults")
    rules = ["honey_code -> honey", "keeper_no -> keeper"]
    return [
        folder_of(Relation.from_rows(NAMES, rows(kg)), made / str(kg), accepted=rules) for kg in (100, 500)
    ]


@contextlib.contextmanager
def somewhere(kind, tmp_path):
    if kind == "sqlite":
        yield f"sqlite:///{tmp_path}/made.db"
        return
    with new_database({"postgresql": POSTGRES, "mariadb": MARIADB}[kind]) as url:
        yield url


def state(url):
    """The names that are there, and the sum of the weights that the flat view gives; None for no database."""
    address = make_url(url)
    drivers = {"postgresql": "postgresql+psycopg", "mariadb": "mariadb+pymysql"}
    engine = create_engine(address.set(drivername=drivers.get(address.drivername, address.drivername)))
    with engine.connect() as connection:
        found = inspect(connection)
        names = {*found.get_table_names(), *found.get_view_names()}
        total = connection.execute(text("SELECT SUM(kg) FROM flat")).scalar() if "flat" in names else None
    engine.dispose()
    return names, total and int(total)


class FaultError(Exception):
    """The fault that was put in."""


SESSIONS = {
    "sqlite": sqlite_session._SQLiteSession,
    "postgresql": sessions.ServerSession,
    "mariadb": staging.MySQLSession,
    "spark": staging.SparkSession,
}


def faulty(monkeypatch, kind, at, raised):
    """Let the ``at``-th call that speaks with the database raise; return the list of calls so far."""
    calls = []
    for name in ("names", "execute", "fill", "count", "number", "verified", "shown"):
        real = getattr(SESSIONS[kind], name)

        def called(self, *arguments, real=real, name=name):
            calls.append(name)
            if len(calls) == at:
                raise raised
            return real(self, *arguments)

        monkeypatch.setattr(SESSIONS[kind], name, called)
    return calls


@pytest.mark.parametrize("kind", ["sqlite", "postgresql", "mariadb"])
@pytest.mark.parametrize(
    "raised", [sessions.RefusedError("no"), KeyboardInterrupt()], ids=["refused", "interrupted"]
)
def test_a_replacing_load_leaves_the_old_state_or_the_new(kind, raised, folders, tmp_path, monkeypatch):
    old, new = folders
    with somewhere(kind, tmp_path) as url:
        load_folder(old, url)
        before = state(url)
        after = before[0], sum(500 + n for n in range(40))
        assert before[1] == sum(100 + n for n in range(40))
        for at in range(1, 200):
            with monkeypatch.context() as patch:
                calls = faulty(patch, kind, at, raised)
                try:
                    load_folder(new, url, instead=True)
                    told = True
                except InputError as error:
                    told = error.hint
                except KeyboardInterrupt:
                    told = "interrupted"
            names, total = state(url)
            clean = {name for name in names if not name.startswith("pravix replaced ")}
            if told is True and len(calls) < at:
                assert (names, total) == after
                break
            if told == "Nothing was changed.":
                assert (names, total) == before, f"{calls[-1]} at {at}"
            else:  # Stopped or failing while it cleared away: the new state is complete, or nothing happened.
                assert (clean, total) in ([after] if told is True else [before, after]), (
                    f"{calls[-1]} at {at}"
                )
            if total == after[1]:
                load_folder(old, url, instead=True)
                assert state(url) == before
        assert at > 15


@pytest.mark.parametrize("kind", ["sqlite", "postgresql", "mariadb"])
def test_a_first_load_that_fails_leaves_nothing(kind, folders, tmp_path, monkeypatch):
    with somewhere(kind, tmp_path) as url:
        for at in range(1, 200):
            with monkeypatch.context() as patch:
                calls = faulty(patch, kind, at, sessions.RefusedError("no"))
                try:
                    load_folder(folders[0], url)
                    break  # The fault came after the last statement that counts, or not at all.
                except InputError:
                    pass
            there = state(url)[0] if kind != "sqlite" or (tmp_path / "made.db").exists() else set()
            assert there == set(), f"{calls[-1]} at {at}"
        assert at > 10
        assert state(url)[1] == sum(100 + n for n in range(40))


@pytest.mark.parametrize("kind", ["sqlite", "postgresql", "mariadb"])
@pytest.mark.parametrize(
    "raised", [sessions.RefusedError("no"), KeyboardInterrupt()], ids=["refused", "interrupted"]
)
def test_a_load_in_place_that_fails_leaves_all_as_it_was(kind, raised, folders, tmp_path, monkeypatch):
    old, new = folders
    with somewhere(kind, tmp_path) as url:
        put(url, NAMES, rows(100), "arrived")
        put(url, NAMES, rows(500), "arrived since")
        load_in_place(old, url, Reading(table="arrived"))
        before = state(url)
        after = before[0], sum(500 + n for n in range(40))
        for at in range(1, 200):
            with monkeypatch.context() as patch:
                calls = faulty(patch, kind, at, raised)
                with contextlib.suppress(InputError, KeyboardInterrupt):
                    load_in_place(new, url, Reading(table="arrived since"), instead=True)
            names, total = state(url)
            clean = {name for name in names if not name.startswith("pravix replaced ")}
            assert (clean, total) in [before, after], f"{calls[-1]} at {at}"
            if len(calls) < at:
                break
            if total == after[1]:
                load_in_place(old, url, Reading(table="arrived"), instead=True)
        assert (names, total) == after
        assert at > 15


def test_a_load_into_spark_that_fails_leaves_all_as_it_was(folders, monkeypatch):
    """Spark can undo nothing: what was made goes, what was there comes back."""
    with new_database(SPARK) as url:
        for name, kg in (("arrived", 100), ("arrived_since", 500)):
            put(url, NAMES, rows(kg), name)
        load_in_place(folders[0], url, Reading(table="arrived"))
        before = executed(url, ("SHOW TABLES",))
        for at in (16, 30):
            with monkeypatch.context() as patch:
                calls = faulty(patch, "spark", at, sessions.RefusedError("no"))
                with contextlib.suppress(InputError):
                    load_in_place(folders[1], url, Reading(table="arrived_since"), instead=True)
            assert executed(url, ("SHOW TABLES",)) == before, f"{calls[-1]} at {at}"
            assert executed(url, ("SELECT CAST(SUM(kg) AS INT) FROM flat",)) == [(100 * 40 + 780,)]
            assert len(calls) >= at
        load_in_place(folders[1], url, Reading(table="arrived_since"), instead=True)
        assert executed(url, ("SELECT CAST(SUM(kg) AS INT) FROM flat",)) == [(500 * 40 + 780,)]
        assert sorted(executed(url, ("SHOW TABLES",))) == sorted(before)


@pytest.mark.parametrize("at", range(2, 52, 2))
def test_a_lost_connection_leaves_the_old_tables_and_the_next_load_goes_through(at, folders, monkeypatch):
    """MariaDB ends a transaction at each CREATE; here the server ends the connection in front of each statement."""
    with new_database(MARIADB) as url:
        load_folder(folders[0], url)
        before, count = state(url), 0
        real = staging.MySQLSession._asked

        def lost(self, statement):
            nonlocal count
            count += 1
            if count == at:
                address = make_url(url).set(drivername="mariadb+pymysql")
                engine = create_engine(address, isolation_level="AUTOCOMMIT")
                with engine.connect() as other:
                    other.execute(text(f"KILL {self._number}"))
                engine.dispose()
            return real(self, statement)

        with monkeypatch.context() as patch:
            patch.setattr(staging.MySQLSession, "_asked", lost)
            try:
                load_folder(folders[1], url, instead=True)
            except InputError:
                assert state(url) == before
            else:
                assert state(url)[1] == sum(500 + n for n in range(40))
        load_folder(folders[1], url, instead=True)
        assert state(url) == (before[0], sum(500 + n for n in range(40)))


def test_tables_that_others_refer_to_are_not_pulled_away(folders):
    with new_database(MARIADB) as url:
        load_folder(folders[0], url)
        before = state(url)
        engine = create_engine(make_url(url).set(drivername="mariadb+pymysql"))
        with engine.begin() as connection:
            keeper = next(table for table in folders[0].tables if table.name == "keeper")
            column = keeper.columns[0]
            connection.execute(
                text(
                    f"CREATE TABLE visit (k VARCHAR({column.length}) COLLATE utf8mb4_nopad_bin, "
                    f"FOREIGN KEY (k) REFERENCES keeper ({column.name}))"
                )
            )
        engine.dispose()
        with pytest.raises(InputError, match="visit refers to keeper"):
            load_folder(folders[1], url, instead=True)
        assert state(url) == (before[0] | {"visit"}, before[1])


@pytest.mark.parametrize("kind", ["sqlite", "postgresql", "mariadb"])
def test_other_tables_are_let_alone(kind, folders, tmp_path):
    with somewhere(kind, tmp_path) as url:
        address = make_url(url)
        drivers = {"postgresql": "postgresql+psycopg", "mariadb": "mariadb+pymysql"}
        engine = create_engine(address.set(drivername=drivers.get(address.drivername, address.drivername)))
        with engine.begin() as connection:
            connection.execute(text("CREATE TABLE a (n INTEGER PRIMARY KEY)"))
            connection.execute(text("CREATE TABLE b (n INTEGER REFERENCES a (n))"))
            if kind == "sqlite":
                connection.execute(
                    text("INSERT INTO b VALUES (7)")
                )  # A reference broken before is none of ours.
        engine.dispose()
        load_folder(folders[0], url)
        load_folder(folders[1], url, instead=True)
        expected = {"a", "b", *(table.name for table in folders[1].tables), *views(folders[1].document)}
        assert state(url) == (expected, sum(500 + n for n in range(40)))
