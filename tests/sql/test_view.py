"""The flat view: every kind of repaired column comes back, in SQLite by doing it, elsewhere by its expression."""

from datetime import date, timedelta

import pytest
from databases import sqlite_at
from folders import folder_of
from hypothesis import given, settings
from proofs import of_rows
from samples import tables

from pravix.databases.known import DATABASES, database
from pravix.databases.number import Number
from pravix.document.joining import flat_join
from pravix.document.row_hashes import by_value
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.families import RebuiltMember
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.flags import RebuiltFlag
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.lists import RebuiltList
from pravix.first_normal_form.repairing import repaired
from pravix.loading.sessions import load_rows
from pravix.relation.relation import Relation
from pravix.sql.schema import schema_statements
from pravix.sql.view import flat_query, view_name


def flat_rows(folder):
    """The rows of the flat view after the folder was loaded into SQLite."""
    kind = database("sqlite")
    fitted = folder.fitted(kind)
    connection = sqlite_at(":memory:")
    for statement in schema_statements(fitted.document, kind):
        connection.execute(statement)
    for table in fitted.tables:
        load_rows(connection.cursor(), fitted, table, kind)
    return connection.execute(f"SELECT * FROM {view_name(fitted.document)}").fetchall()


def mended(relation, wanted):
    """The answers that repair what was found on some topics."""
    found = [one for one in findings(relation) if one.topic.name in wanted and one.answers]
    assert {one.topic.name for one in found} == set(wanted), [one.id for one in findings(relation)]
    return [Answer(one.id, next(answer for answer in one.answers if answer != "keep")) for one in found]


PLANTS = ("clover", "lime", "heather", "fir", "sage", "willow")


def hives(count=60):
    rows = []
    for n in range(count):
        born = date(1980, 1, 10) + timedelta(days=n * 97)
        seen = date(2026, 3, 1) + timedelta(days=n % 50)
        years = seen.year - born.year - ((seen.month, seen.day) < (born.month, born.day))
        price, weight = 2.35 + n % 7, 3 + n % 11 + 0.5
        rows.append(
            [
                f"H{n:03d}", born.isoformat(), seen.isoformat(), str(years),
                f"{price:.2f}", f"{weight:.1f}", f"{round(price * weight * 100 + 1e-6) / 100:.2f}",
                "; ".join(plant for place, plant in enumerate(PLANTS) if (n * 7 + place * n) % 3 or place == n % 6),
            ]
        )  # fmt: skip
    return Relation.from_rows(
        ["hive_no", "keeper_born", "seen_on", "keeper_age", "price_kg", "weight_kg", "amount", "forage"], rows
    )


def test_computed_columns_and_lists_come_back(tmp_path):
    relation = hives()
    answers = mended(relation, ["computed", "list"])
    folder = folder_of(relation, tmp_path / "made", answers)
    kinds = {entry.column: type(entry) for entry in folder.design.rebuild}
    assert kinds["amount"] is Formula
    assert kinds["forage"] is RebuiltList
    rows = flat_rows(folder)
    flat = folder.document.flat
    assert of_rows(rows, by_value(flat.kinds)).mark == flat.mark
    place = relation.names.index("amount")
    assert sorted(float(row[place]) for row in rows) == sorted(map(float, relation.column("amount").texts()))


def test_families_and_flags_come_back(tmp_path):
    rows = [
        [f"D{n}", *(f"{14 + (n * place) % 5}.{n % 10}" if place <= n % 4 else "" for place in (1, 2, 3)),
         "yes" if n % 2 else "no", "no" if n % 2 else "yes"]
        for n in range(80)
    ]  # fmt: skip
    relation = Relation.from_rows(
        ["drum_no", "moisture_1", "moisture_2", "moisture_3", "raw", "filtered"], rows
    )
    folder = folder_of(relation, tmp_path / "made", mended(relation, ["family", "one fact"]))
    assert set(map(type, folder.document.rebuild)) == {RebuiltMember, RebuiltFlag}
    flat = folder.document.flat
    assert of_rows(flat_rows(folder), by_value(flat.kinds)).mark == flat.mark


def test_compound_columns_come_back(tmp_path):
    rows = [[f"S{n}", f"{12 + n % 9} kg", str(n % 5)] for n in range(60)]
    relation = Relation.from_rows(["sack_no", "content", "shelf"], rows)
    wanted = [one.topic.name for one in findings(relation) if one.answers]
    if "compound" not in wanted:
        pytest.fail("the compound column was not found")
    answers = mended(relation, ["compound"])
    assert repaired(relation, answers).in_place
    folder = folder_of(relation, tmp_path / "made", answers)
    flat = folder.document.flat
    assert of_rows(flat_rows(folder), by_value(flat.kinds)).mark == flat.mark


@given(tables())
@settings(max_examples=40, deadline=None)
def test_the_view_of_any_design_gives_the_rows(relation):
    import tempfile
    from pathlib import Path

    with tempfile.TemporaryDirectory() as name:
        folder = folder_of(relation, Path(name) / "made")
        flat = folder.document.flat
        assert of_rows(flat_rows(folder), by_value(flat.kinds)).mark == flat.mark


def test_a_table_called_flat_gives_the_view_another_name(tmp_path):
    rows = [[str(n), f"F{n % 4}", f"name {n % 4}"] for n in range(40)]
    folder = folder_of(Relation.from_rows(["line_no", "flat_no", "flat_name"], rows), tmp_path / "made")
    assert "flat" in [table.name for table in folder.tables]
    assert view_name(folder.document) == "flat_2"
    assert len(flat_rows(folder)) == 40


def test_every_table_is_joined_once_for_each_role(tmp_path):
    towns = {"D1": "Kelder", "D2": "Inver", "D3": "Moss"}
    pairs = [("D1", "D2"), ("D2", "D3"), ("D3", "D1"), ("D1", "D3")]
    rows = [
        [str(100 + n), one, towns[one], other, towns[other]]
        for n in range(40)
        for one, other in [pairs[n % 4]]
    ]
    names = ["trip_no", "from_depot", "from_town", "to_depot", "to_town"]
    folder = folder_of(
        Relation.from_rows(names, rows),
        tmp_path / "made",
        accepted=["from_depot -> from_town", "to_depot -> to_town"],
    )
    join = flat_join(folder.document)
    assert sorted((one.table.name, one.role) for one in join.tables) == [
        ("depot", "from"),
        ("depot", "to"),
        ("trip", ""),
    ]
    assert set(join.places) == set(names)
    assert flat_query(folder.document, database("sqlite")).count("LEFT JOIN") == 2


EXPRESSIONS = {
    "sqlite": ("STRFTIME('%Y', b)", "SUBSTR(CAST(x AS TEXT), 2, 3)", "a || b", "GROUP_CONCAT(item, ', ')"),
    "postgresql": (
        "AGE(b, a)",
        "SUBSTR(CAST(x AS TEXT), 2, 3)",
        "a || b",
        "STRING_AGG(CAST(f AS TEXT), ', ' ORDER BY o)",
    ),
    "mysql": ("TIMESTAMPDIFF(YEAR, a, b)", "SUBSTR(CAST(x AS CHAR), 2, 3)", "CONCAT(a, b)", "SEPARATOR ', '"),
    "mariadb": (
        "TIMESTAMPDIFF(YEAR, a, b)",
        "SUBSTR(CAST(x AS CHAR), 2, 3)",
        "CONCAT(a, b)",
        "SEPARATOR ', '",
    ),
    "sqlserver": (
        "DATEDIFF(YEAR, a, b)",
        "SUBSTRING(CAST(x AS NVARCHAR(4000)), 2, 3)",
        "a + b",
        "WITHIN GROUP (ORDER BY o)",
    ),
    "spark": (
        "YEAR(b) - YEAR(a)",
        "SUBSTR(CAST(x AS STRING), 2, 3)",
        "a || b",
        "ARRAY_JOIN(TRANSFORM(SORT_ARRAY(COLLECT_LIST(STRUCT(o AS place, CAST(f AS STRING) AS item)))",
    ),
    "duckdb": (
        "AGE(b, a)",
        "SUBSTR(CAST(x AS VARCHAR), 2, 3)",
        "a || b",
        "STRING_AGG(CAST(f AS VARCHAR), ', ' ORDER BY o)",
    ),
}


@pytest.mark.parametrize("name", DATABASES)
def test_each_database_says_it_in_its_own_way(name):
    kind = database(name)
    years, part, both, listed = EXPRESSIONS[name]
    assert years in kind.years("a", "b")
    assert kind.part_of("x", 1, 4) == part
    assert kind.put_together(["a", "b"]) == both
    assert listed in kind.list_of("f", "o", ", ", "t", "w")
    product = kind.computed("*", [Number("a", 1), Number("b", 1)], 1, "ROUND_HALF_UP")
    assert (product == "ROUND(a * b, 1)") == (name not in ("sqlite", "duckdb", "spark"))
    assert "CASE" in kind.computed("+", [Number("a", 2), Number("b", 2)], 1, "ROUND_HALF_EVEN")
    assert "NULLIF" in kind.computed("%", [Number("a", 0), Number("b", 0)], 1, "ROUND_HALF_UP")


@pytest.mark.parametrize(
    ("earlier", "later", "years"),
    [("2000-03-01", "2026-02-28", 25), ("2000-03-01", "2026-03-01", 26), ("2000-02-29", "2025-02-28", 24),
     ("2026-01-01", "2025-01-01", None), (None, "2025-01-01", None)],
)  # fmt: skip
def test_whole_years_in_sqlite(earlier, later, years):
    sql = database("sqlite").years("a", "b")
    (found,) = (
        sqlite_at(":memory:")
        .execute(f"SELECT {sql} FROM (SELECT ? AS a, ? AS b)", [earlier, later])
        .fetchone()
    )
    assert found == years


@pytest.mark.parametrize("text", ["it's", "a\\b", "", "50 %", "é", "'; DROP TABLE x; --"])
def test_texts_are_literals_and_nothing_else(text):
    (found,) = sqlite_at(":memory:").execute(f"SELECT {database('sqlite').text(text)}").fetchone()
    assert found == text
    assert database("sqlserver").text(text).startswith("N'")
    assert database("mysql").text("a\\'").endswith("a\\\\'''")
