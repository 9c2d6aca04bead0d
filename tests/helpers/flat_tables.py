"""Flat tables of texts put into a database, for the tests of what works where the rows are."""

from contextlib import contextmanager

from databases import MARIADB, POSTGRES, SPARK, new_database, spark_cursor
from sqlalchemy import create_engine
from sqlalchemy.engine import make_url

ENGINES = ("sqlite", "duckdb", "postgresql", "mariadb")
ALL_ENGINES = (*ENGINES, "spark")
_DRIVERS = {"postgresql": "postgresql+psycopg", "mariadb": "mariadb+pymysql"}


@contextmanager
def database_of(engine, folder):
    """Give the URL of an empty database of one of the engines; skip where its server is not there."""
    if engine in ("sqlite", "duckdb"):
        yield f"{engine}:///{folder}/flat.{engine}"
        return
    with new_database({"postgresql": POSTGRES, "mariadb": MARIADB, "spark": SPARK}[engine]) as url:
        yield url


def executed(url, *statements):
    """Carry out statements by the driver; return the rows of the last one."""
    if url.startswith("sc:"):
        with spark_cursor(url) as cursor:
            for statement, *_ in statements:
                cursor.execute(statement)
            return cursor.fetchall()
    address = make_url(url)
    engine = create_engine(address.set(drivername=_DRIVERS.get(address.drivername, address.drivername)))
    try:
        with engine.begin() as connection:
            for statement, *rows in statements:
                if rows:
                    done = None
                    _inserted(connection, statement, rows[0])
                else:
                    done = connection.exec_driver_sql(statement)
            return done.fetchall() if done is not None and done.returns_rows else []
    finally:
        engine.dispose()


def _inserted(connection, statement, rows):
    """Carry out an INSERT for all rows: for DuckDB, which takes long for each statement, for hundreds at once."""
    cursor = connection.connection.cursor()
    if connection.engine.name != "duckdb":
        cursor.executemany(statement, rows)
        return
    head, places = statement.split(" VALUES ")
    for first in range(0, len(rows), 500):
        some = rows[first : first + 500]
        cursor.execute(
            f"{head} VALUES {', '.join([places] * len(some))}", [cell for row in some for cell in row]
        )


def put(url, names, rows, table="flat rows", kind="VARCHAR(250)"):
    """Put rows into a table of texts, in the place of one that is there; return its name."""
    (name,) = put_all(url, {table: (names, rows)}, kind)
    return name


def put_all(url, tables, kind="VARCHAR(250)"):
    """Put the names of columns and rows into tables of texts at once; return their names."""
    if url.startswith("sc:"):
        called = [table.replace(" ", "_") for table in tables]
        for name, (names, rows) in zip(called, tables.values(), strict=True):
            executed(url, (f"DROP TABLE IF EXISTS {name}",))
            executed(url, *((one,) for one in spark_statements(names, rows, name)))
        return called
    mark = "`" if "mariadb" in url else '"'
    place = "%s" if "mariadb" in url or "postgresql" in url else "?"
    statements = []
    for table, (names, rows) in tables.items():
        name = f"{mark}{table}{mark}"
        columns = ", ".join(f"{mark}{one.replace('%', '%%')}{mark} {kind}" for one in names)
        statements += [
            (f"DROP TABLE IF EXISTS {name}",),
            (f"CREATE TABLE {name} ({columns})",),
            (f"INSERT INTO {name} VALUES ({', '.join([place] * len(names))})", [tuple(row) for row in rows]),
        ]
    executed(url, *statements)
    return list(tables)


def spark_statements(names, rows, table):
    """Return the statements that make a table of texts in Spark."""
    listed = ", ".join(f"`{name}` STRING" for name in names)
    cells = [", ".join("NULL" if one is None else _literal(str(one)) for one in row) for row in rows]
    values = ", ".join(f"({one})" for one in cells)
    return f"CREATE TABLE {table} ({listed}) USING PARQUET", f"INSERT INTO {table} VALUES {values}"


def _literal(text):
    escaped = text.replace("\\", "\\\\").replace("'", "\\'")
    return f"'{escaped}'"
