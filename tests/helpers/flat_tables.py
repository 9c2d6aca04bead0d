"""Flat tables of texts put into a database, for the tests of what works where the rows are."""

from contextlib import contextmanager

from databases import MARIADB, POSTGRES, new_database
from sqlalchemy import create_engine
from sqlalchemy.engine import make_url

ENGINES = ("sqlite", "duckdb", "postgresql", "mariadb")
_DRIVERS = {"postgresql": "postgresql+psycopg", "mariadb": "mariadb+pymysql"}


@contextmanager
def database_of(engine, folder):
    """Give the URL of an empty database of one of the engines; skip where its server is not there."""
    if engine in ("sqlite", "duckdb"):
        yield f"{engine}:///{folder}/flat.{engine}"
        return
    with new_database({"postgresql": POSTGRES, "mariadb": MARIADB}[engine]) as url:
        yield url


def executed(url, *statements):
    """Carry out statements by the driver; return the rows of the last one."""
    address = make_url(url)
    engine = create_engine(address.set(drivername=_DRIVERS.get(address.drivername, address.drivername)))
    try:
        with engine.begin() as connection:
            for statement, *rows in statements:
                if rows:
                    connection.connection.cursor().executemany(statement, rows[0])
                    done = None
                else:
                    done = connection.exec_driver_sql(statement)
            return done.fetchall() if done is not None and done.returns_rows else []
    finally:
        engine.dispose()


def put(url, names, rows, table="flat rows", kind="VARCHAR(250)"):
    """Put rows into a table of texts, in the place of one that is there."""
    mark = "`" if "mariadb" in url else '"'
    place = "%s" if "mariadb" in url or "postgresql" in url else "?"
    name = f"{mark}{table}{mark}"
    columns = ", ".join(f"{mark}{one.replace('%', '%%')}{mark} {kind}" for one in names)
    executed(
        url,
        (f"DROP TABLE IF EXISTS {name}",),
        (f"CREATE TABLE {name} ({columns})",),
        (f"INSERT INTO {name} VALUES ({', '.join([place] * len(names))})", [tuple(row) for row in rows]),
    )
    return table
