"""Formulas: found in the rows, evaluated as defined, written in the SQL of every database, read from texts."""

from datetime import date, timedelta

import pytest
from databases import DUCKDB, MARIADB, POSTGRES, new_database
from folders import folder_of
from sheets import FORMULAS, computed

from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.computed import computed_columns
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.formula import Formula
from pravix.first_normal_form.formula_text import parsed_formulas
from pravix.loading.load import load_folder
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation


@pytest.fixture(scope="module")
def sheet():
    return computed()


def leaving_out(relation):
    found = findings(relation, topics=["computed"])
    return [Answer(one.id, "leave out") for one in found if one.columns[0] in FORMULAS]


def test_each_is_found_and_told(sheet):
    found = {one.formula.column: one for one in computed_columns(sheet)}
    assert set(found) >= FORMULAS
    assert {name: str(found[name].formula) for name in FORMULAS} == {
        "due": "begun + days days",
        "age": "whole years from born to 2026-07-04",
        "years": "the year of begun - the year of born",
        "oil": "oil_a + oil_b + oil_c, blanks left out",
        "mean": "the mean of low, high",
        "metres": "feet * 0.3048",
        "dry": "100 - wet",
    } | {"age": str(found["age"].formula)}
    assert found["age"].formula.constant.startswith("2026-")
    assert all(not one.disagreeing for one in found.values())


def test_what_may_have_been_measured_instead_is_told(sheet):
    (finding,) = [one for one in findings(sheet, topics=["computed"]) if one.columns == ("dry",)]
    assert "as well wet is 100 - dry" in finding.told
    assert finding.question.startswith("Which of them was measured stays")


@pytest.mark.parametrize(
    "server", [None, POSTGRES, MARIADB, DUCKDB], ids=["sqlite", "postgresql", "mariadb", "duckdb"]
)
def test_every_database_computes_them_again(sheet, server, tmp_path):
    folder = folder_of(sheet, tmp_path / "made", leaving_out(sheet))
    assert {entry.column for entry in folder.document.rebuild} == FORMULAS
    if server is None:
        assert all(holds for holds, _ in prove_folder(tmp_path / "made"))
        assert load_folder(folder, f"sqlite:///{tmp_path}/made.db").views == {"flat": 60}
        return
    with new_database(server) as url:
        assert load_folder(folder, url).views == {"flat": 60}


@pytest.mark.parametrize(
    ("operation", "more", "cells", "expected"),
    [
        ("mean", {"scale": 2}, ["1", "2", "4"], "2.33"),
        ("mean", {"scale": 1}, ["1", ""], ""),
        ("sum", {"blanks_count_nothing": True}, ["1", "", "4"], "5"),
        ("sum", {"blanks_count_nothing": True}, ["", ""], ""),
        ("-", {"constant": "100", "constant_first": True}, ["37"], "63"),
        ("*", {"constant": "0.3048", "scale": 1}, ["100"], "30.5"),
        ("days", {}, ["2024-02-28", "2024-03-01"], "2"),
        ("days", {}, ["2024-03-01", "2024-02-28"], "-2"),
        ("after", {}, ["2023-12-31", "1"], "2024-01-01"),
        ("after", {}, ["2023-12-31", "99999999"], ""),
        ("year", {}, ["2024-05-01", "1999"], "25"),
        ("years", {"constant": "2026-03-01"}, ["2024-03-02"], "1"),
        ("years", {"constant": "2026-03-01"}, ["no date"], ""),
    ],
)  # fmt: skip
def test_each_operation_is_what_it_says(operation, more, cells, expected):
    columns = tuple(f"c{place}" for place in range(len(cells)))
    formula = Formula(column="x", operation=operation, columns=columns, **more)
    assert formula.cell(cells) == expected
    assert formula.is_sound


@pytest.mark.parametrize(
    ("operation", "columns", "constant"),
    [("mean", ("a",), ""), ("-", ("a",), ""), ("-", ("a", "b"), "1"), ("-", ("a",), "2024-01-01")],
)
def test_a_formula_that_cannot_be_is_unsound(operation, columns, constant):
    assert not Formula(column="x", operation=operation, columns=columns, constant=constant).is_sound


def test_a_date_some_fixed_days_after_another_is_computed():
    filled = [date(2026, 1, 1) + timedelta(n * n % 40) for n in range(30)]
    rows = [[day.isoformat(), (day + timedelta(30)).isoformat(), str(n)] for n, day in enumerate(filled)]
    (found,) = computed_columns(Relation.from_rows(["filled_on", "due_on", "n"], rows))
    assert str(found.formula) == "filled_on + 30 days"
    rows[0][1], rows[1][1] = rows[1][1], "2026-09-09"
    assert computed_columns(Relation.from_rows(["filled_on", "due_on", "n"], rows)) == []


def test_a_factor_is_the_shortest_that_all_rows_allow():
    rows = [[str(n), f"{n * 1.852:.2f}"] for n in range(10, 60)]
    (found,) = [
        one
        for one in computed_columns(Relation.from_rows(["miles", "km"], rows))
        if one.formula.column == "km"
    ]
    assert str(found.formula) == "miles * 1.852"


def test_numbers_that_only_grow_together_have_no_formula():
    rows = [[str(n), str(n * n % 97 + n * 2)] for n in range(10, 60)]
    assert computed_columns(Relation.from_rows(["one", "other"], rows)) == []


@pytest.mark.parametrize(
    ("text", "operation", "columns", "constant"),
    [
        ("low + high", "+", ("low", "high"), ""),
        ("oil_a + oil_b + oil_c", "sum", ("oil_a", "oil_b", "oil_c"), ""),
        ("100 - wet", "-", ("wet",), "100"),
        ('"feet" * 0.3048', "*", ("feet",), "0.3048"),
        ("100 * wet / dry", "%", ("wet", "dry"), ""),
        ("mean of low, high", "mean", ("low", "high"), ""),
        ("days from begun to due", "days", ("begun", "due"), ""),
        ("years from born to 2026-06-01", "years", ("born",), "2026-06-01"),
        ("begun + days days", "after", ("begun", "days"), ""),
        ("year of begun - year of born", "year", ("begun", "born"), ""),
    ],
)  # fmt: skip
def test_texts_are_read(sheet, text, operation, columns, constant):
    first = parsed_formulas(sheet, "oil", text, "here")[0]
    assert (first.operation, first.columns, first.constant) == (operation, columns, constant)


@pytest.mark.parametrize("text", ["nothing", "low ^ high", "low + absent", "3 - 4", ""])
def test_a_text_that_is_no_formula_is_refused_with_the_forms(sheet, text):
    with pytest.raises(InputError, match=r"^here: ") as refused:
        parsed_formulas(sheet, "oil", text, "here")
    assert "mean of a, b" in refused.value.hint
