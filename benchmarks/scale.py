"""Larger than memory: files against DuckDB reading them once and grouping by one column, and two servers.

python benchmarks/scale.py [--rows 1000000 --rows 3000000] [--memory 2GB] [--postgres URL] [--spark URL]
"""

from __future__ import annotations

import json
import random
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.request import urlopen

import click
from costs import Cost, cost_of

PROGRAM = str(Path(sys.executable).with_name("pravix"))

_COLUMNS = """
    'D-' || lpad(i::VARCHAR, 9, '0') AS delivery_no,
    (DATE '2023-01-01' + (hash(i * 5 + 3) % 730)::INT)::VARCHAR AS delivered_on,
    'K-' || lpad(k::VARCHAR, 6, '0') AS keeper_no,
    'Ada Moss ' || (hash(k * 11) % {names})::VARCHAR AS keeper,
    'Village ' || (hash(k * 13) % 700)::VARCHAR AS village,
    'District ' || ((hash(k * 13) % 700) % 23)::VARCHAR AS district,
    'P' || lpad((hash(k * 17) % 90000 + 10000)::VARCHAR, 5, '0') AS phone,
    'H' || lpad(honey::VARCHAR, 2, '0') AS honey_code,
    'Honey ' || honey::VARCHAR AS honey,
    (12 + honey % 9)::VARCHAR || '.' || lpad((honey * 7 % 100)::VARCHAR, 2, '0') AS price,
    'depot ' || depot::VARCHAR AS depot,
    'Town ' || (depot % 31)::VARCHAR AS town,
    (hash(i * 19) % 400 + 20)::VARCHAR || '.' || (hash(i * 23) % 10)::VARCHAR AS weight_kg,
    (14 + hash(i * 29) % 60 / 10.0)::DECIMAL(4, 1)::VARCHAR AS moisture,
    CASE WHEN hash(i * 31) % 50 = 0 THEN 'late' WHEN hash(i * 31) % 50 = 1 THEN '' ELSE 'ok' END AS remark
"""


def write_flat(path: Path, rows: int) -> None:
    """Write a flat file of deliveries, always the same for a number of rows."""
    import duckdb

    keepers = max(200, rows // 400)
    base = (
        f"SELECT i, hash(i) % {keepers} AS k, hash(i + 99991) % 60 AS depot, hash(i * 3 + 5) % 60 AS honey "
        f"FROM range({rows}) t(i)"
    )
    form = "FORMAT parquet" if path.suffix == ".parquet" else "HEADER"
    columns = _COLUMNS.format(names=max(150, rows // 500))
    with duckdb.connect() as connection:
        connection.execute("SET enable_progress_bar = false")
        connection.execute(f"COPY (SELECT {columns} FROM ({base}) ORDER BY i) TO '{path}' ({form})")


def _grouped(path: Path) -> float:
    """Return the seconds in which DuckDB reads the file once and groups it by one column."""
    reader = "read_parquet" if path.suffix == ".parquet" else "read_csv"
    more = "" if path.suffix == ".parquet" else ", all_varchar = true"
    query = f"SELECT COUNT(*) FROM (SELECT village FROM {reader}('{path}'{more}) GROUP BY village)"
    begun = time.perf_counter()
    quiet = "duckdb.execute('SET enable_progress_bar = false')"
    code = f"import duckdb; {quiet}; duckdb.execute({query!r}).fetchall()"
    subprocess.run([sys.executable, "-c", code], check=True)
    return time.perf_counter() - begun


def _pravix(*arguments: str) -> Cost:
    return cost_of([[PROGRAM, *arguments]])


_TURNS = 3
"""So many times the other side reads a file before ours, and as many after: once takes seconds only."""


def _files(rows: Sequence[int], memory: str, forms: Sequence[str]) -> None:
    for ending in forms:
        for count in rows:
            with tempfile.TemporaryDirectory() as name:
                path = Path(name) / f"flat.{ending}"
                write_flat(path, count)
                before = [_grouped(path) for _ in range(_TURNS)]
                cost = _pravix("decompose", str(path), "--memory", memory)
                once = statistics.median([*before, *(_grouped(path) for _ in range(_TURNS))])
            print(
                f"{ending:8} {count:>12,} rows: {cost}; {cost.seconds / once:5.1f} times reading it once",
                flush=True,
            )


def _designed(*source: str) -> dict[str, Any]:
    """Return what the design of a source says: tables with their keys, references and rows, and rules."""
    command = [PROGRAM, "decompose", *source, "--json"]
    told = json.loads(subprocess.run(command, check=True, capture_output=True, text=True).stdout)
    tables = {
        one["name"]: (one["primary_key"], one["candidate_keys"], one["rows"], len(one["foreign_keys"]))
        for one in told["tables"]
    }
    return {"tables": tables, "rules": sorted(map(str, told["dependencies"]))}


@contextmanager
def _flat_table(url: str, path: Path) -> Iterator[str]:
    """Give the URL of a new database on a server of PostgreSQL with the rows of a file in ``flat_rows``."""
    import psycopg

    with psycopg.connect(url, autocommit=True) as server:
        server.execute("DROP DATABASE IF EXISTS pravix_scale WITH (FORCE)")
        server.execute("CREATE DATABASE pravix_scale")
    there = url.rpartition("/")[0] + "/pravix_scale"
    try:
        with psycopg.connect(there) as connection, path.open("rb") as file:
            names = file.readline().decode().strip().split(",")
            connection.execute(f"CREATE TABLE flat_rows ({', '.join(f'{name} TEXT' for name in names)})")
            with connection.cursor().copy("COPY flat_rows FROM STDIN WITH (FORMAT csv)") as copy:
                while part := file.read(1 << 20):
                    copy.write(part)
        with psycopg.connect(there, autocommit=True) as connection:
            connection.execute("VACUUM ANALYZE flat_rows")
        yield there
    finally:
        with psycopg.connect(url, autocommit=True) as server:
            server.execute("DROP DATABASE pravix_scale WITH (FORCE)")


def _in_postgres(url: str, count: int, kills: int) -> None:
    with tempfile.TemporaryDirectory() as name:
        path, out = Path(name) / "flat.csv", str(Path(name) / "out")
        write_flat(path, count)
        with _flat_table(url, path) as there:
            path.unlink()
            source = (there, "--table", "flat_rows", "--memory", "200MB")
            for command in (("survey", *source), ("keys", *source), ("decompose", *source, "--out", out)):
                print(f"postgresql {count:>10,} rows: {command[0]:9} {_pravix(*command)}", flush=True)
            load = ("load", out, there, "--from", "flat_rows")
            print(f"postgresql {count:>10,} rows: killed: {_killed(there, load, kills)}", flush=True)
            for command in (load, ("prove", out, "--in", there, "--from", "flat_rows")):
                print(f"postgresql {count:>10,} rows: {command[0]:9} {_pravix(*command)}", flush=True)


def _killed(url: str, command: Sequence[str], times: int) -> str:
    """Kill a load at random moments; say what was left, and how long the server went on at most."""
    import psycopg

    chance, left, longest = random.Random(1), set[str](), 0.0
    for _ in range(times):
        process = subprocess.Popen([PROGRAM, *command], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(chance.uniform(1, 30))
        process.kill()
        process.wait()
        begun = time.perf_counter()
        with psycopg.connect(url, autocommit=True) as connection:
            asked = (
                "SELECT COUNT(*) FROM pg_stat_activity WHERE datname = current_database() "
                "AND pid <> pg_backend_pid() AND backend_type = 'client backend'"
            )
            while connection.execute(asked).fetchone() != (0,):
                time.sleep(0.05)
            longest = max(longest, time.perf_counter() - begun)
            names = connection.execute(
                "SELECT table_name FROM information_schema.tables WHERE table_schema = 'public'"
            ).fetchall()
            left |= {name for (name,) in names} - {"flat_rows"}
    return f"{times} times, left behind: {len(left)}, the server ended its statement within {longest:.1f} s"


def _in_spark(url: str, count: int) -> None:
    """Compare a folder of Parquet on a server of Spark with the same rows in memory."""
    from pravix.analysis import Analysis
    from pravix.sources.reading import Reading

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "flat"
        folder.mkdir()
        write_flat(folder / "flat.parquet", count)
        Path(name).chmod(0o755)
        table = f"parquet.{folder}"
        begun = time.perf_counter()
        made = Analysis(url, Reading(table=table, memory=1))
        tables = len(made.design.tables)
        place = made.source.flat.place
        print(
            f"spark      {count:>10,} rows: {tables} tables in {time.perf_counter() - begun:.1f} s, "
            f"{place.statements} statements, {place.moved:,} rows moved",
            flush=True,
        )
        place.close()
        here = _designed(url, "--table", table, "--memory", "1MB")
        there = _designed(str(folder / "flat.parquet"), "--memory", "20GB")
        print(f"spark      {count:>10,} rows: {_jobs(url)}the design in memory is the same: {here == there}")


def _jobs(url: str) -> str:
    """Return how many jobs Spark made for all that was asked, where its page of figures is on."""
    host = url.removeprefix("sc://").partition(":")[0]
    try:
        with urlopen(f"http://{host}:4040/api/v1/applications", timeout=5) as page:
            (application, *_) = json.load(page)
        with urlopen(f"http://{host}:4040/api/v1/applications/{application['id']}/jobs", timeout=30) as page:
            return f"{len(json.load(page)):,} jobs so far; "
    except OSError:
        return ""


@click.command(help=__doc__.split("\n")[0])
@click.option("--rows", multiple=True, type=int, default=(1_000_000, 3_000_000), show_default=True)
@click.option("--memory", default="2GB", show_default=True)
@click.option("--form", type=click.Choice(["csv", "parquet"]), multiple=True, default=("csv", "parquet"))
@click.option("--postgres", metavar="URL", help="A server of PostgreSQL where a database may be created.")
@click.option("--server-rows", default=5_000_000, show_default=True, help="Rows for PostgreSQL.")
@click.option("--kills", default=10, show_default=True, help="How often a load into PostgreSQL is killed.")
@click.option("--spark", metavar="URL", help="A server of Spark on this machine, sc://host:port.")
@click.option("--spark-rows", default=1_000_000, show_default=True)
def main(
    rows: tuple[int, ...],
    memory: str,
    form: tuple[str, ...],
    postgres: str | None,
    server_rows: int,
    kills: int,
    spark: str | None,
    spark_rows: int,
) -> None:
    """Print what each size and place took, with the ratio to reading a file once."""
    _files(rows, memory, form)
    if postgres is not None:
        _in_postgres(postgres, server_rows, kills)
    if spark is not None:
        _in_spark(spark, spark_rows)


if __name__ == "__main__":
    main()
