"""Names in the end: style, number, reserved words, the analyst's own, and never two alike."""

import subprocess
import sys

import pytest
from folders import folder_of
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import tables

from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.relation.relation import Relation
from pravix.sql.reserved import reserved_words
from pravix.theory.dependency import parse_dependencies


def design_of(names, wishes=None, reserved=(), accepted=()):
    kinds = [f"{names[1]} {n}" for n in range(6)]
    rows = [[str(900 + n), f"K{n % 6}", kinds[n % 6], str(n * 7 % 31)] for n in range(60)]
    relation = Relation.from_rows(names, rows)
    rules = parse_dependencies(f'"{names[1]}" -> "{names[2]}"')
    judgement = judge(relation, discover(relation), (*rules, *accepted))
    return designed(Repaired(relation, relation), judgement, wishes or Wishes(), reserved)


@pytest.mark.parametrize(
    ("column", "number", "table"),
    [
        ("keeper_no", "plural", "keepers"),
        ("apiary_no", "plural", "apiaries"),
        ("box_no", "plural", "boxes"),
        ("wo_no", "plural", "wos"),
        ("gas_no", "singular", "gas"),
        ("keepers_no", "singular", "keeper"),
        ("series_no", "singular", "series"),
        ("Person No", "plural", "People"),
        ("HIVE_NO", "plural", "HIVES"),
        ("hive2_no", "plural", "hive2"),
        ("keeper_no", "found", "keeper"),
    ],
)
def test_tables_in_one_number(column, number, table):
    design = design_of(["visit_no", column, f"{column}_name", "crates"], Wishes(number=number))
    assert table in [one.name for one in design.tables]


@pytest.mark.parametrize(
    ("style", "names"),
    [
        ("snake", ["honey_code", "honey_name"]),
        ("camel", ["honeyCode", "honeyName"]),
        ("file", ["Honey Code", "HoneyName"]),
    ],
)
def test_columns_in_one_style_still_stand_for_those_of_the_file(style, names):
    design = design_of(["VisitNo", "Honey Code", "HoneyName", "crates"], Wishes(style=style))
    table = design.home("HoneyName")
    assert list(table.column_names) == names
    assert [column.source for column in table.columns] == ["Honey Code", "HoneyName"]
    assert [column.stands_for for column in table.columns] == ["Honey Code", "HoneyName"]
    assert design.proof.holds


def test_a_reserved_name_gets_a_word_more_and_a_column_only_with_a_style():
    names = ["visit_no", "order_no", "order_by", "select"]
    plain = design_of(names, reserved=reserved_words())
    assert "orders" in [table.name for table in plain.tables]
    assert "select" in plain.table(plain.main).column_names
    styled = design_of(names, Wishes(style="snake"), reserved_words())
    assert "select_value" in styled.table(styled.main).column_names
    camel = design_of(names, Wishes(style="camel"), reserved_words())
    assert "orders" in [table.name for table in camel.tables]


def test_reserved_words_are_those_of_the_databases():
    words = reserved_words()
    asked = "from sqlalchemy.dialects import mssql, mysql, postgresql, sqlite\n"
    asked += "for one in (mssql, mysql, postgresql, sqlite): print(*one.dialect().identifier_preparer.reserved_words)"
    told = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True)
    known = set(told.stdout.split())
    assert len(known & words) > 0.95 * len(known | words), "a new release may add a few"
    assert {"select", "order", "table", "group"} <= words
    assert "keeper" not in words
    assert all(word == word.lower() for word in words)


def test_the_analyst_names_a_table_and_no_style_changes_it():
    wishes = Wishes(
        style="snake",
        number="plural",
        arrangements=(Arrangement("name", ("honey_code",), name="Honey Kinds"),),
    )
    design = design_of(["visit_no", "honey_code", "honey_name", "crates"], wishes)
    assert "Honey Kinds" in [table.name for table in design.tables]
    assert design.table("visits").foreign_keys[0].table == "Honey Kinds"


@given(tables(), st.sampled_from(["snake", "camel"]), st.sampled_from(["singular", "plural"]), st.data())
@settings(max_examples=40, deadline=None)
def test_no_two_names_are_alike(relation, style, number, data):
    odd = ["a b", "a_b", "A B", "aB", "Ab"]
    columns = [
        column.__class__(name, column.codes, column.values)
        for column, name in zip(relation.columns, odd, strict=False)
    ]
    renamed = Relation(tuple(columns), relation.row_numbers)
    judgement = judge(renamed, discover(renamed, largest=2))
    design = designed(Repaired(renamed, renamed), judgement, Wishes(style=style, number=number))
    names = [table.name.lower() for table in design.tables]
    assert len(set(names)) == len(names)
    for table in design.tables:
        own = [name.lower() for name in table.column_names]
        assert len(set(own)) == len(own)
        assert set(table.flat_names) <= set(renamed.names) | {"row_no"}
    assert design.proof.holds


def test_a_folder_with_a_style_is_proved_and_loaded(tmp_path):
    from pravix.loading.load import load_folder
    from pravix.proof.proving import prove_folder

    rows = [[str(900 + n), f"K{n % 6}", f"Ada {n % 6}", str(n * 7 % 31)] for n in range(60)]
    relation = Relation.from_rows(["Visit No", "Keeper No", "Keeper Name", "Crates"], rows)
    wishes = Wishes(style="camel", number="plural", surrogates="always")
    folder = folder_of(relation, tmp_path / "made", accepted=['"Keeper No" -> "Keeper Name"'], wishes=wishes)
    assert all(holds for holds, _ in prove_folder(folder.path))
    assert load_folder(folder, f"sqlite:///{tmp_path}/made.db").views["flat"] == 60
