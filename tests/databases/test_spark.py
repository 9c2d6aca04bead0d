"""Spark as a database: its URLs, its dialect, its types, and how it is stopped."""

from datetime import date
from decimal import ROUND_HALF_EVEN, ROUND_HALF_UP, Decimal
from random import Random
from threading import Timer
from time import monotonic

import pytest
from databases import SPARK, new_database, spark_cursor
from folders import folder_of
from sqlalchemy import MetaData, Table, Unicode, column, literal, not_, select

from pravix.databases import spark_driver
from pravix.databases.known import database
from pravix.databases.number import Number
from pravix.databases.spark_dialect import SparkDialect
from pravix.errors import InputError
from pravix.relation.relation import Relation
from pravix.sources.connecting import connected, is_url, shown_url
from pravix.sources.read import read_source
from pravix.sources.reading import Reading
from pravix.sql.schema import insert_statements, schema_statements


@pytest.mark.parametrize(
    ("url", "shown", "remote"),
    [
        ("sc://hive:5", "sc://hive:5", ["sc://hive:5/", ""]),
        ("sc://hive/honey", "sc://hive/honey", ["sc://hive:15002/", "honey"]),
        (
            "sc://hive:5/;token=a secret;use_ssl=true",
            "sc://hive:5",
            ["sc://hive:5/;token=a secret;use_ssl=true", ""],
        ),
        ("sc://ida:secret@hive:5", "sc://ida:***@hive:5", ["sc://hive:5/;user_id=ida;token=secret", ""]),
        ("local[2]", "local[2]", ["local[2]", ""]),
        ("local[*]", "local[*]", ["local[*]", ""]),
    ],
)
def test_urls_are_those_of_spark_and_keep_their_secrets(url, shown, remote):
    assert is_url(url)
    assert shown_url(url) == shown
    assert "secret" not in shown_url(url)
    target = connected(url)
    assert target.kind is database("spark")
    assert SparkDialect().create_connect_args(target.url)[0] == remote
    assert "token=a secret" not in url or target.reason(Exception("no a secret")) == "no ***"


def test_what_is_no_url_is_a_path():
    assert not any(map(is_url, ["local.csv", "local[2].csv", "sc.csv", "local[x]"]))


def test_a_server_that_is_not_there_is_told_at_once():
    begun = monotonic()
    with pytest.raises(InputError, match=r"sc://127\.0\.0\.1:1 cannot be read"):
        read_source("sc://127.0.0.1:1", Reading(table="drums"))
    assert monotonic() - begun < 10


def test_spark_on_this_machine_needs_all_of_it(monkeypatch):
    monkeypatch.setattr(spark_driver, "find_spec", lambda name: None)
    with pytest.raises(InputError, match="pip install 'pyspark"):
        read_source("local[2]", Reading(table="drums"))


def told(statement, **options):
    return str(statement.compile(dialect=SparkDialect(), **options))


def test_statements_are_written_as_spark_reads_them():
    cell = column("a `drum`")
    assert told(select(cell.regexp_match("x"))) == "SELECT `a ``drum``` RLIKE :p_a__96_drum_96__1 AS anon_1"
    assert "NOT RLIKE" in told(select(not_(cell.regexp_match("x"))))
    written = told(select(literal("it's \\ 5 %", Unicode())), compile_kwargs={"literal_binds": True})
    assert written.startswith("SELECT 'it\\'s \\\\ 5 %'")
    assert database("spark").literal("it's \\ 5 %") == "'it\\'s \\\\ 5 %'"


def test_tables_are_read_with_every_type():
    with new_database(SPARK) as url:
        with spark_cursor(url) as cursor:
            cursor.execute(
                "CREATE TABLE drums (n INT, big BIGINT, kg DECIMAL(6, 2), d DATE, ok BOOLEAN, f DOUBLE, "
                "t STRING, at TIMESTAMP_NTZ, some ARRAY<INT>) USING PARQUET"
            )
            cursor.execute(
                "INSERT INTO drums VALUES (1, 2, 1.50, DATE'2026-01-02', true, 1.5, 'größer', "
                "TIMESTAMP_NTZ'2026-01-02 10:00:00', ARRAY(1, 2)), "
                "(NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL)"
            )
            cursor.execute("CREATE VIEW seen AS SELECT n FROM drums")
            cursor.execute("SELECT kg, d FROM drums WHERE t = :one", {"one": "größer"})
            assert [name for name, *_ in cursor.description] == ["kg", "d"]
            assert cursor.fetchone() == (Decimal("1.50"), date(2026, 1, 2))
            assert cursor.fetchone() is None
        rows = read_source(url, Reading(table="drums")).relation
        assert list(rows.rows()) == [
            ("1", "2", "1.50", "2026-01-02", "yes", "1.5", "größer", "2026-01-02 10:00:00", "[1, 2]"),
            ("",) * 9,
        ]
        schema = url.rpartition("/")[2]
        assert read_source(url, Reading(table=f"{schema}.seen")).relation.row_count == 2
        assert read_source(url, Reading(query="SELECT n FROM drums WHERE n = 1")).relation.row_count == 1
        with pytest.raises(InputError, match=r"has no table nowhere"):
            read_source(url, Reading(table="nowhere"))
        engine = connected(url).engine
        with engine.connect() as connection:
            kept = Table("drums", MetaData(), autoload_with=connection)
            assert (kept.c.kg.type.precision, kept.c.kg.type.scale) == (6, 2)
        engine.dispose()


def test_a_statement_is_stopped_from_another_thread():
    if SPARK is None:
        pytest.skip("no server: set PRAVIX_TEST_SPARK to the URL of one")
    connection = spark_driver.connect(SPARK)
    Timer(1, connection.interrupt).start()
    cursor, begun = connection.cursor(), monotonic()
    cursor.execute("SELECT COUNT(*) FROM range(1000000000) a JOIN range(1000000) b ON a.id % 7 = b.id % 5")
    with pytest.raises(spark_driver.DatabaseError, match=r"(?i)cancel|interrupt"):
        cursor.fetchall()
    assert monotonic() - begun < 30
    connection.close()


@pytest.mark.parametrize("rounding", [ROUND_HALF_UP, ROUND_HALF_EVEN])
def test_numbers_are_computed_exactly(rounding):
    if SPARK is None:
        pytest.skip("no server: set PRAVIX_TEST_SPARK to the URL of one")
    draw, kind = Random(7), database("spark")
    pairs = [
        (
            Decimal(draw.randrange(-(10**9), 10**9)).scaleb(-2),
            Decimal(draw.choice((-1, 1)) * draw.randrange(1, 10**6)).scaleb(-1),
        )
        for _ in range(80)
    ] + [(Decimal("0.25"), Decimal("10.0")), (Decimal("-0.35"), Decimal("10.0"))]
    exact = {
        "+": lambda a, b: a + b,
        "-": lambda a, b: a - b,
        "*": lambda a, b: a * b,
        "/": lambda a, b: a / b,
        "%": lambda a, b: 100 * a / b,
    }
    numbers = [Number("a", 2), Number("b", 1)]
    listed = ", ".join(kind.computed(one, numbers, 2, rounding) for one in exact)
    values = ", ".join(f"(CAST('{a}' AS DECIMAL(20, 2)), CAST('{b}' AS DECIMAL(20, 1)))" for a, b in pairs)
    with spark_cursor(SPARK) as cursor:
        cursor.execute(f"SELECT a, b, {listed} FROM VALUES {values} AS t(a, b)")
        for a, b, *found in cursor.fetchall():
            wanted = [one(a, b).quantize(Decimal("0.01"), rounding) for one in exact.values()]
            assert found == wanted, (a, b)


def test_years_are_whole_at_the_end_of_february():
    if SPARK is None:
        pytest.skip("no server: set PRAVIX_TEST_SPARK to the URL of one")
    days = {("2024-02-29", "2025-02-28"): 0, ("2024-02-29", "2025-03-01"): 1, ("2020-06-30", "2021-06-30"): 1}
    with spark_cursor(SPARK) as cursor:
        for (earlier, later), years in days.items():
            cursor.execute(f"SELECT {database('spark').years(f'DATE {earlier!r}', f'DATE {later!r}')}")
            assert cursor.fetchone() == (years,)


def test_dates_of_a_script_are_dates(tmp_path):
    assert database("spark").date("2026-01-02") == "DATE '2026-01-02'"
    with new_database(SPARK) as url, spark_cursor(url) as cursor:
        folder = folder_of(
            Relation.from_rows(["drum", "day"], [["D1", "2026-01-02"], ["D2", ""]]), tmp_path / "made"
        )
        for statement in [
            *schema_statements(folder.document, database("spark")).tables,
            *insert_statements(folder, database("spark")),
        ]:
            cursor.execute(statement)
        (table,) = folder.tables
        cursor.execute(f"SELECT day FROM {table.name} ORDER BY drum")
        assert cursor.fetchall() == [(date(2026, 1, 2),), (None,)]
