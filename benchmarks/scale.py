"""Files larger than memory: decompose against DuckDB reading the file once and grouping it by one column.

python benchmarks/scale.py [--rows 1000000 --rows 3000000] [--memory 2GB]
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import click
from loading import measured

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
        connection.execute(f"COPY (SELECT {columns} FROM ({base}) ORDER BY i) TO '{path}' ({form})")


def _grouped(path: Path) -> float:
    """Return the seconds in which DuckDB reads the file once and groups it by one column."""
    reader = "read_parquet" if path.suffix == ".parquet" else "read_csv"
    more = "" if path.suffix == ".parquet" else ", all_varchar = true"
    query = f"SELECT COUNT(*) FROM (SELECT village FROM {reader}('{path}'{more}) GROUP BY village)"
    begun = time.perf_counter()
    subprocess.run([sys.executable, "-c", f"import duckdb; duckdb.execute({query!r}).fetchall()"], check=True)
    return time.perf_counter() - begun


@click.command(help=__doc__.split("\n")[0])
@click.option("--rows", multiple=True, type=int, default=(1_000_000, 3_000_000), show_default=True)
@click.option("--memory", default="2GB", show_default=True)
@click.option("--form", type=click.Choice(["csv", "parquet"]), multiple=True, default=("csv", "parquet"))
def main(rows: tuple[int, ...], memory: str, form: tuple[str, ...]) -> None:
    """Print for each size the seconds of both, their ratio, and the largest memory of decompose."""
    program = str(Path(sys.executable).with_name("pravix"))
    for ending in form:
        for count in rows:
            with tempfile.TemporaryDirectory() as name:
                path = Path(name) / f"flat.{ending}"
                write_flat(path, count)
                once = _grouped(path)
                seconds, megabytes = measured(program, "decompose", str(path), "--memory", memory)
            print(
                f"{ending:8} {count:>12,} rows: read once {once:6.1f} s, decompose {seconds:6.1f} s, "
                f"{seconds / once:5.1f} times, {megabytes:6,.0f} MB"
            )


if __name__ == "__main__":
    main()
