"""Random designs with nasty names and values through real databases, compared row for row by other code.

Each design: a made-up CSV file, its tables, their folder. The file is read anew with Python's csv module; the
tables are joined anew by the columns that they have in common; the view ``flat`` is read with each database's
own driver. All must give the same rows: texts letter by letter, numbers by their exact value.

    python benchmarks/roundtrips.py [--designs 2000] [--first 0]

with PRAVIX_TEST_POSTGRES and PRAVIX_TEST_MARIADB set to the URLs of servers; SQLite is always tried.
"""

from __future__ import annotations

import argparse
import csv
import os
import random
import sqlite3
import tempfile
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager
from decimal import Decimal, InvalidOperation
from pathlib import Path
from typing import Any

from pravix.analysis import Analysis
from pravix.document.model import DesignDocument
from pravix.errors import InputError
from pravix.folder.reader import Folder, open_folder
from pravix.ledger.ledger import Ledger
from pravix.ledger.wishes import POLICIES
from pravix.loading.load import load_folder
from pravix.sources.reading import Reading

Row = tuple[str, ...]

_NAMES = [
    "drum", "Drum", "drum no", 'drum "no"', "select", "order", "x; DROP TABLE y;--", "../up", "=1+1",
    "<b>", "né, 50%", "%s", "%(a)s", "née 50%", "a" * 70, "a" * 69 + "b", "ö" * 40, "日本語", "🐝 hives",
    "sqlite_x", "CON", "row_no", "flat", "pravix names", "`tick`", "[square]", "tab\tname", "new\nline",
    "ends in a point.", "café", "cafe", "Straße", "STRASSE", "ß", "1", "_", "id", "ID", "Id ", ":a",
    "a.b", "a->b", "'quoted'", "\\", "user", "ix_drum", "ı",
]  # fmt: skip
_TEXTS = [
    "Lime", "lime", "LIME", "Limé", "a\r\nb", "a\nb", "a\rb", "it's", '"q"', "\\", "\\'", "%s", "100%",
    "NULL", "null", "None", "true", "=cmd()", "@a", "-", "--", ";", "/*", "ß", "ss", "é", "é", "日本語",
    "🐝", "007", "1e5", "0x1F", "1.10", "1.1", "-0", "+5", "a,b", "2026-02-30", "24:00", "x" * 300,
    "\u200b", "\ufeffx", "a  b", "\x1b[31m", "NaN", "Infinity", "{}", "?", ":a", "$1", "?a", "a\u2028b",
    "ﬁ", "I", "ı", "İ", "Ǆ",
]  # fmt: skip


def made_up(chance: random.Random) -> tuple[list[str], list[list[str]]]:
    """Return the header and the rows of a file: some columns lead, others follow, some cells are blank."""
    width = chance.randint(2, 7)
    names: list[str] = []
    while len(names) < width:
        name = chance.choice(_NAMES)
        if name.strip() and " ".join(name.split()) not in [" ".join(one.split()) for one in names]:
            names.append(name)
    count, columns = chance.randint(1, 60), list[list[str]]()
    for place in range(width):
        if place and chance.random() < 0.6:
            leading = columns[chance.randrange(place)]
            values = {cell: _cell(chance) for cell in leading}
            columns.append([values[cell] for cell in leading])
            continue
        kind, many = chance.choice(_KINDS), chance.randint(1, count)
        pool = [kind(chance) for _ in range(many)]
        columns.append([chance.choice(pool) for _ in range(count)])
    if chance.random() < 0.7:
        columns[0] = [str(number) for number in range(count)]
    rows = [list(row) for row in dict.fromkeys(zip(*columns, strict=True)) if any(row)]
    return names, rows


def _text(chance: random.Random) -> str:
    return chance.choice(_TEXTS)


def _whole(chance: random.Random) -> str:
    return str(chance.randint(-(10 ** chance.randint(1, 17)), 10 ** chance.randint(1, 17)))


def _decimal(chance: random.Random) -> str:
    whole, places = chance.randint(0, 10 ** chance.choice([1, 3, 9, 17])), chance.choice([1, 2, 12])
    sign = "-" if chance.random() < 0.2 and whole else ""
    return f"{sign}{whole}.{chance.randint(0, 10**places - 1):0{places}d}"


def _date(chance: random.Random) -> str:
    return f"{chance.randint(1, 9999):04d}-{chance.randint(1, 12):02d}-{chance.randint(1, 28):02d}"


def _moment(chance: random.Random) -> str:
    return f"{_date(chance)} {chance.choice(['00:00', '23:59', '07:30:01'])}"


def _cell(chance: random.Random) -> str:
    return "" if chance.random() < 0.15 else chance.choice(_KINDS)(chance)


_KINDS = (_text, _text, _whole, _decimal, _date, _moment)


def plain(cell: object) -> str:
    """Return a cell for comparison: a number by its exact value, all else by its text."""
    if cell is None:
        return ""
    text = repr(cell) if isinstance(cell, float) else f"{cell:f}" if isinstance(cell, Decimal) else str(cell)
    if not text or not (text[-1].isdigit() and text.lstrip("-")[0].isdigit() and text.isascii()):
        return text
    if text.lstrip("-")[:1] == "0" and text.lstrip("-")[1:2].isdigit():
        return text
    try:
        number = Decimal(text)
    except InvalidOperation:
        return text
    return (
        format(number.normalize() + 0, "f")
        if set(text) <= set("-.0123456789") or isinstance(cell, float)
        else text
    )


def compared(rows: Sequence[Sequence[object]]) -> Counter[Row]:
    """Return rows as a multiset of comparable cells."""
    return Counter(tuple(map(plain, row)) for row in rows)


def joined_by_hand(folder: Path, document: DesignDocument) -> list[Row]:
    """Return the flat rows by joining the CSV files on the columns that they have in common."""
    tables = []
    for table in sorted(document.tables, key=lambda one: one.name != document.main):
        with (folder / table.file).open(encoding="utf-8", newline="") as file:
            _, *rows = csv.reader(file)
        names = [column.flat for column in table.columns]
        tables.append([dict(zip(names, row, strict=True)) for row in rows])
    joined, *waiting = tables
    while waiting:
        known = set(joined[0])
        place = next((n for n, rows in enumerate(waiting) if known & set(rows[0])), 0)
        other = waiting.pop(place)
        common = sorted(known & set(other[0]))
        index = {tuple(row[name] for name in common): row for row in other}
        blank = dict.fromkeys(other[0], "")
        joined = [row | (index.get(tuple(row[name] for name in common)) or blank | row) for row in joined]
    return [tuple(row[name] for name in document.source.columns) for row in joined]


@contextmanager
def sqlite_place() -> Iterator[Any]:
    """Give a way to load a folder into SQLite and fetch its flat rows."""
    with tempfile.TemporaryDirectory() as place:

        def rows(folder: Folder, number: int) -> list[Any]:
            path = f"{place}/{number}.db"
            view = next(iter(load_folder(folder, f"sqlite:///{path}").views))
            connection = sqlite3.connect(path)
            try:
                return connection.execute(f'SELECT * FROM "{view}"').fetchall()
            finally:
                connection.close()

        yield rows


@contextmanager
def postgres_place(url: str, name: str) -> Iterator[Any]:
    """Give the same for a PostgreSQL server."""
    import psycopg

    with psycopg.connect(url, autocommit=True) as server:
        server.execute(f"DROP DATABASE IF EXISTS {name}".encode())
        server.execute(f"CREATE DATABASE {name}".encode())
    target = f"{url.rpartition('/')[0]}/{name}"
    with psycopg.connect(target, autocommit=True) as connection:

        def rows(folder: Folder, number: int) -> list[Any]:
            connection.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
            view = next(iter(load_folder(folder, target).views))
            return connection.execute(f'SELECT * FROM "{view}"'.encode()).fetchall()

        yield rows


@contextmanager
def mariadb_place(url: str, name: str) -> Iterator[Any]:
    """Give the same for a MariaDB server."""
    import pymysql
    from sqlalchemy.engine import make_url

    address = make_url(url)
    connection = pymysql.connect(
        host=address.host, port=address.port or 3306, user=address.username, password=address.password or "",
        charset="utf8mb4", autocommit=True,
    )  # fmt: skip
    target = address.set(database=name).render_as_string(hide_password=False)

    def rows(folder: Folder, number: int) -> list[Any]:
        with connection.cursor() as cursor:
            cursor.execute(f"DROP DATABASE IF EXISTS {name}")
            cursor.execute(f"CREATE DATABASE {name}")
            view = next(iter(load_folder(folder, target).views))
            cursor.execute(f"USE {name}")
            cursor.execute(f"SELECT * FROM `{view}`")
            return list(cursor.fetchall())

    try:
        yield rows
    finally:
        connection.close()


def places(stack: ExitStack, mark: str = "") -> dict[str, Any]:
    """Return the databases that are there, by name; ``mark`` keeps those of several runs apart."""
    found = {"sqlite": stack.enter_context(sqlite_place())}
    for name, variable, place in (
        ("postgresql", "PRAVIX_TEST_POSTGRES", postgres_place),
        ("mariadb", "PRAVIX_TEST_MARIADB", mariadb_place),
    ):
        if os.environ.get(variable):
            found[name] = stack.enter_context(place(os.environ[variable], f"pravix_roundtrips{mark}"))
    return found


def tried(seed: int, databases: Mapping[str, Any]) -> list[str]:
    """Make a design from a seed and send it through the databases; return what went wrong, in a line each."""
    chance = random.Random(seed)
    names, rows = made_up(chance)
    if not rows:
        return []
    with tempfile.TemporaryDirectory() as place:
        path, out = Path(place) / "made.csv", Path(place) / "tables"
        with path.open("w", encoding="utf-8", newline="") as file:
            csv.writer(file, quoting=csv.QUOTE_ALL).writerows([names, *rows])
        policies = {
            key: chance.choice(values)
            for key, values in POLICIES.items()
            if key in ("surrogates", "numbering")
        }
        bench = Analysis(str(path), Reading(header=(1, 1), keep_spaces=True, skip=()), policies=policies)
        bench = bench.with_ledger(Ledger())
        try:
            from pravix.folder.writer import write_design

            write_design(bench.design, str(out), basis=bench.basis)
        except InputError as error:
            return [f"{seed}: {error}"]
        with path.open(encoding="utf-8", newline="") as file:
            _, *expected = csv.reader(file)
        folder, wrong = open_folder(out), []
        plainly = not any(t.surrogate or t.roles or t.apart_from for t in folder.tables)
        if plainly and Counter(joined_by_hand(out, folder.design)) != Counter(map(tuple, expected)):
            wrong.append(f"{seed}: the files joined by hand differ")
        for name, rows_of in databases.items():
            try:
                found = rows_of(folder, seed)
            except InputError as error:
                wrong.append(f"{seed}: {name}: {error}")
                continue
            if compared(found) != compared(expected):
                wrong.append(f"{seed}: {name}: the view differs")
    return wrong


def main() -> None:
    """Try the designs and print what went wrong, and how many went well."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--designs", type=int, default=2000)
    parser.add_argument("--first", type=int, default=0)
    wishes = parser.parse_args()
    wrong = 0
    with ExitStack() as stack:
        databases = places(stack)
        for seed in range(wishes.first, wishes.first + wishes.designs):
            for line in tried(seed, databases):
                wrong += 1
                print(line, flush=True)
    print(f"{wishes.designs:,} designs through {', '.join(databases)}: {wrong} differ")


if __name__ == "__main__":
    main()
