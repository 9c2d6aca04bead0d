"""Days and times as real types in every database: loaded, filled in place, read again, and in the open formats."""

import json
from random import Random

import pytest
from databases import new_database
from flat_tables import ALL_ENGINES, ENGINES, database_of, executed, put

from pravix.analysis import Analysis
from pravix.databases.known import database
from pravix.folder.metadata import metadata
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.loading.in_place import load_in_place
from pravix.loading.load import load_folder
from pravix.sources.reading import Reading
from pravix.sql.models import models
from pravix.sql.schema import schema_statements

NAMES = ["delivery_no", "delivered_at", "keeper_no", "keeper", "calls_at", "left", "late"]


def deliveries():
    """Deliveries at a moment, some blank, of keepers who are called on at a time of the day."""
    draw = Random(3)
    keepers = [[f"K-{n:02}", f"Ada {n}", f"{n % 24:02}:{draw.randrange(60):02}:00"] for n in range(30)]
    rows = []
    for number in range(240):
        day, hour = draw.randrange(1, 29), draw.randrange(24)
        moment = f"2025-{draw.randrange(1, 13):02}-{day:02} {hour:02}:{draw.randrange(60):02}:07"
        left = f"{hour:02}:{draw.randrange(60):02}"
        rows.append(
            [
                str(5000 + number),
                moment if number % 9 else "",
                *draw.choice(keepers),
                left,
                "yes no".split()[number % 2],
            ]
        )
    return rows


@pytest.fixture(scope="module")
def design(tmp_path_factory):
    path = tmp_path_factory.mktemp("times") / "deliveries.csv"
    path.write_text("\n".join(map(",".join, [NAMES, *deliveries()])))
    return Analysis(str(path)).design


@pytest.fixture(scope="module", params=["csv", "parquet"])
def folder(request, design, tmp_path_factory):
    path = tmp_path_factory.mktemp("out") / request.param
    write_design(design, str(path), tables_as=request.param)
    return open_folder(path)


@pytest.mark.parametrize("engine", ENGINES)
def test_moments_and_times_go_in_and_come_back(engine, folder, tmp_path):
    with database_of(engine, tmp_path) as url:
        assert sum(load_folder(folder, url).views.values()) == 240
        kept = executed(url, ("SELECT calls_at FROM keeper WHERE keeper_no = 'K-09'",))[0][0]
        assert str(kept).startswith(("09:", "9:"))
        again = Analysis(url, Reading(table="flat"))
        assert sorted(again.source.relation.rows()) == sorted(map(tuple, deliveries()))


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_they_are_filled_where_the_rows_are(engine, folder, tmp_path):
    with database_of(engine, tmp_path) as url:
        rows = [[cell or None for cell in row] for row in deliveries()]
        table = put(url, NAMES, rows, "flat_rows")
        assert load_in_place(folder, url, Reading(table=table)).views == {"flat": 240}


def test_a_yes_of_a_typed_table_is_what_it_is_read_as(tmp_path):
    with new_database("duckdb") as url:
        executed(
            url,
            (
                "CREATE TABLE typed AS SELECT i AS delivery_no, i % 7 AS keeper_no, i % 7 < 3 AS local, "
                "TIMESTAMP '2025-01-01 08:00:00' + INTERVAL (i) MINUTE AS delivered_at FROM range(200) t(i)",
            ),
        )
        design = Analysis(url, Reading(table="typed")).design
        write_design(design, str(tmp_path / "out"))
        loaded = load_in_place(open_folder(tmp_path / "out"), url, Reading(table="typed"))
        assert loaded.views == {"flat": 200}
        assert {value for (value,) in executed(url, ("SELECT local FROM keeper",))} == {"yes", "no"}


@pytest.mark.parametrize(
    ("kind", "moment", "time"),
    [
        ("postgresql", "TIMESTAMP WITHOUT TIME ZONE", "TIME WITHOUT TIME ZONE"),
        ("mysql", "DATETIME", "TIME"),
        ("sqlserver", "DATETIME2(0)", "TIME(0)"),
        ("sqlite", "DATETIME", "TIME"),
        ("spark", "TIMESTAMP_NTZ", "STRING"),
    ],
)
def test_the_schema_has_the_types_of_the_database(kind, moment, time, folder):
    document = folder.fitted(database(kind)).document
    told = "".join(schema_statements(document, database(kind)).tables)
    lines = [line.strip() for line in told.splitlines()]
    assert any(f"delivered_at{mark} {moment}" in line for line in lines for mark in '"`]')
    assert any(f"calls_at{mark} {time}" in line for line in lines for mark in '"`]')
    assert not any("left" in line and " TIME" in line for line in lines)
    compile(models(document, database(kind)), "models.py", "exec")


def test_the_metadata_tell_moments_and_times(design, tmp_path):
    write_design(design, str(tmp_path / "out"))
    told = metadata(open_folder(tmp_path / "out").document)
    fields = {
        field["name"]: field
        for resource in json.loads(told["datapackage.json"])["resources"]
        for field in resource["schema"]["fields"]
    }
    assert fields["delivered_at"]["type"] == "datetime"
    assert fields["calls_at"]["type"] == "time"
    assert fields["left"]["type"] == "string"
    frictionless = pytest.importorskip("frictionless")
    assert frictionless.validate(str(tmp_path / "out" / "datapackage.json")).valid
