"""The database servers that tests may use, as the environment names them."""

import os
import sqlite3
import uuid
from contextlib import contextmanager
from tempfile import TemporaryDirectory

import pytest
from sqlalchemy import create_engine, text
from sqlalchemy.engine import make_url

POSTGRES = os.environ.get("PRAVIX_TEST_POSTGRES")
MARIADB = os.environ.get("PRAVIX_TEST_MARIADB")
SPARK = os.environ.get("PRAVIX_TEST_SPARK")
DUCKDB = "duckdb"
"""DuckDB needs no server."""


class _Closing(sqlite3.Connection):
    """A connection that closes when nothing refers to it any more: Python 3.13 warns of one that is left open.

    What is part of a cycle is collected in whatever thread runs then, so it may be closed in any.
    """

    def __del__(self):
        self.close()


def sqlite_at(path):
    """Return a connection to a database of SQLite; the end of a block with it commits."""
    return sqlite3.connect(path, factory=_Closing, check_same_thread=False)


@contextmanager
def new_database(server):
    """Make a database of its own on a server, and drop it at the end; skip where there is no server."""
    if server == DUCKDB:
        with TemporaryDirectory() as folder:
            yield f"duckdb:///{folder}/made.duckdb"
        return
    if server is None:
        pytest.skip(
            "no server: set PRAVIX_TEST_POSTGRES, PRAVIX_TEST_MARIADB and PRAVIX_TEST_SPARK to the URLs of some"
        )
    url = make_url(server)
    if url.drivername == "sc":
        name = f"pravix_{uuid.uuid4().hex[:12]}"
        with spark_cursor(server) as cursor:
            cursor.execute(f"CREATE SCHEMA {name}")
        try:
            yield f"{server}/{name}"
        finally:
            with spark_cursor(server) as cursor:
                cursor.execute(f"DROP SCHEMA {name} CASCADE")
        return
    driver = {"postgresql": "postgresql+psycopg", "mariadb": "mariadb+pymysql"}[url.get_backend_name()]
    engine = create_engine(url.set(drivername=driver), isolation_level="AUTOCOMMIT")
    name = f"pravix_{uuid.uuid4().hex[:12]}"
    force = " WITH (FORCE)" if url.get_backend_name() == "postgresql" else ""
    try:
        with engine.connect() as connection:
            connection.execute(text(f"CREATE DATABASE {name}"))
            try:
                yield url.set(database=name).render_as_string(hide_password=False)
            finally:
                connection.execute(text(f"DROP DATABASE {name}{force}"))
    finally:
        engine.dispose()


@contextmanager
def spark_cursor(url):
    """Give a cursor in a session of Spark at a URL with or without a schema."""
    from pravix.databases import spark_driver

    address = make_url(url)
    connection = spark_driver.connect(f"sc://{address.host}:{address.port}", address.database or "")
    try:
        yield connection.cursor()
    finally:
        connection.close()
