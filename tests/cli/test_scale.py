"""Sources that stay outside memory, as they are used: from the file to tables filled in a database."""

import pytest
from databases import sqlite_at
from large import csv_text, deliveries

from pravix.relation.relation import Relation
from pravix.sources.cells import plain


@pytest.fixture
def flat(tmp_path):
    """Write a flat file, and a table of the same rows in a database."""
    rows = deliveries(12_000)
    (tmp_path / "flat.csv").write_text(csv_text(rows), encoding="utf-8")
    with sqlite_at(tmp_path / "flat.db") as connection:
        columns = "delivery_no, day, keeper_no, keeper, village, district, honey, price, kg, remark"
        connection.execute(f"CREATE TABLE arrived ({columns})")
        connection.executemany(f"INSERT INTO arrived VALUES ({', '.join('?' * 10)})", rows)
    connection.close()
    return rows


def test_a_large_file_is_surveyed_searched_and_decomposed(pravix, flat, tmp_path):
    survey = pravix("survey", "flat.csv", "--memory", "1MB", "--json", TMPDIR=str(tmp_path)).document
    assert survey["source"]["rows"] == 12_000
    assert {one["name"]: one["distinct"] for one in survey["columns"]}["keeper_no"] == 300
    keys = pravix("keys", "flat.csv", "--memory", "1MB", "--json", TMPDIR=str(tmp_path)).document
    assert {"columns": ["delivery_no"], "blanks": False} in keys["candidate_keys"]
    assert keys["complete"] or keys["searched_to"] == 4
    made = pravix("decompose", "flat.csv", "--memory", "1MB", TMPDIR=str(tmp_path))
    assert made.status == 0
    assert "12,000 rows stay outside memory" in made.out.replace("\n", " ")
    assert "By rules that hold in all 12,000 rows" in made.out.replace("\n  ", " ")
    assert not list(tmp_path.glob("pravix-*")), "what was landed is gone"


def test_the_tables_of_a_large_table_are_filled_where_it_is(pravix, flat, tmp_path):
    url = f"sqlite:///{tmp_path}/flat.db"
    made = pravix("decompose", url, "--table", "arrived", "--memory", "1MB", "--out", "tables")
    assert made.status == 0
    assert "pravix load tables URL --from TABLE" in made.out
    assert "holds no rows" in pravix("load", "tables", "sqlite:///new.db").err
    loaded = pravix("load", "tables", url, "--from", "arrived", "--json").document
    assert loaded["views"] == {"flat": 12_000}
    assert loaded["tables"]["keeper"] == 300
    with sqlite_at(tmp_path / "flat.db") as connection:
        back = connection.execute(
            "SELECT delivery_no, district, price FROM flat ORDER BY delivery_no"
        ).fetchall()
        assert connection.execute("SELECT COUNT(*) FROM arrived").fetchone() == (12_000,)
    connection.close()
    assert [(one, other) for one, other, _ in back] == [(row[0], row[5]) for row in flat]
    again = pravix("load", "tables", url, "--from", "arrived")
    assert again.status == 2
    assert "has" in again.err
    assert "already" in again.err
    assert pravix("load", "tables", url, "--from", "arrived", "--replace").status == 0
    proved = pravix("prove", "tables", "--in", url, "--from", "arrived")
    assert proved.status == 0
    assert "gives exactly the 12,000 rows of the flat table" in proved.out
    with sqlite_at(tmp_path / "flat.db") as connection:
        connection.execute(
            "UPDATE keeper SET keeper = 'Bea' WHERE keeper_no = (SELECT MIN(keeper_no) FROM keeper)"
        )
    connection.close()
    proved = pravix("prove", "tables", "--in", url, "--from", "arrived", "--json")
    assert proved.status == 1
    assert [one["holds"] for one in proved.document["claims"]].count(False) == 1
    assert "go together" in pravix("prove", "tables", "--in", url).err


def test_what_does_not_go_together_is_told(pravix, flat, tmp_path):
    url = f"sqlite:///{tmp_path}/flat.db"
    pravix("decompose", url, "--table", "arrived", "--memory", "1MB", "--out", "tables")
    script = pravix("sql", "tables", "--for", "postgresql", "--from", "shop.arrived")
    assert "FROM shop.arrived" in script.out or 'FROM "shop"."arrived"' in script.out
    assert (
        "--rows and --from exclude each other" in pravix("sql", "tables", "--rows", "--from", "arrived").err
    )
    assert "is no size like 500MB or 2GB" in pravix("keys", "flat.csv", "--memory", "lots").err
    assert (
        "there blanks are equal" in pravix("keys", "flat.csv", "--memory", "1MB", "--blanks", "distinct").err
    )
    told = pravix("connect", "flat.csv", url, "--memory", "1MB")
    assert told.status == 2


def test_a_space_at_the_end_of_the_last_value_is_removed():
    relation = Relation.from_rows(["a"], [["x"], ["y "]])
    made, notes = plain(relation, "t")
    assert made.rows() == [("x",), ("y",)]
    assert notes
