"""Proving a folder: what holds for every design, and each kind of damage told."""

import tempfile
from decimal import Decimal
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from proofs import in_parts, of_rows
from samples import holds, random_rules, tables

import pravix.demo
from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.document.row_hashes import of_relation
from pravix.errors import InputError
from pravix.first_normal_form.repair import Repaired
from pravix.folder.writer import write_design
from pravix.judgement.evidence import fits_a_key
from pravix.judgement.judge import judge
from pravix.ledger.wishes import POLICIES, Arrangement, Wishes
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation
from pravix.sources.read import read_source
from pravix.theory.dependency import Dependency


def written(relation, folder, accepted=()):
    judgement = judge(relation, discover(relation, largest=3), accepted)
    write_design(designed(Repaired(relation, relation), judgement), str(folder))
    return folder


@pytest.fixture(params=["at once", "in parts"])
def demo(request, tmp_path, monkeypatch):
    """The folder of the demo, proved in one part and in many."""
    if request.param == "in parts":
        in_parts(monkeypatch)
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    return written(relation, tmp_path / "made")


def change(path, old, new):
    text = path.read_text(encoding="utf-8")
    assert old in text
    path.write_text(text.replace(old, new, 1), encoding="utf-8")


def failing(folder):
    return [text for held, text in prove_folder(folder) if not held]


def test_the_demo_is_proved_from_its_folder(demo):
    claims = prove_folder(demo)
    assert all(held for held, _ in claims)
    assert (True, "The tables join back to exactly the 420 rows as read, cell by cell.") in claims


@given(tables(), random_rules("ABCDE"), st.data())
@settings(max_examples=60, deadline=None)
def test_any_design_loads_with_its_constraints_and_gives_the_rows_back(relation, rules, data):
    names = set(relation.names)
    fit = [
        one
        for one in rules
        if one.columns <= names
        and one.determinant
        and not one.trivial
        and holds(relation, one)
        and fits_a_key(relation, one)
    ]
    with tempfile.TemporaryDirectory() as folder:
        assert failing(written(relation, Path(folder) / "made", fit)) == []


def test_a_table_known_by_the_number_of_another_is_joined_by_it(tmp_path):
    """What a honey costs in a grade: nothing refers to that table, and its key holds the number of the honey."""
    names = ["delivery", "drum", "honey", "grade", "price"]
    lines = [
        [str(n), f"D{n % 6}", f"H{n % 3}", "AB"[n // 6 % 2], f"{(n % 3 * 2 + n // 6 % 2) % 4}.50"]
        for n in range(24)
    ]
    relation = Relation.from_rows(names, lines)
    fit = [Dependency(frozenset({"drum"}), "honey"), Dependency(frozenset({"honey", "grade"}), "price")]
    wishes = Wishes(surrogates="always", arrangements=(Arrangement("table", ("honey",)),))
    design = designed(Repaired(relation, relation), judge(relation, discover(relation), fit), wishes)
    write_design(design, str(tmp_path / "made"))
    assert failing(tmp_path / "made") == []


POLICIES_DRAWN = st.fixed_dictionaries({key: st.sampled_from(POLICIES[key]) for key in POLICIES})


@given(tables(), random_rules("ABCDE"), POLICIES_DRAWN, st.data())
@settings(max_examples=80, deadline=None)
def test_a_design_as_wished_gives_the_rows_back_as_well(relation, rules, policies, data):
    fit = [
        one for one in rules
        if one.columns <= set(relation.names) and one.determinant and not one.trivial
        and holds(relation, one) and fits_a_key(relation, one)
    ]  # fmt: skip
    made = designed(Repaired(relation, relation), judge(relation, discover(relation, largest=3), fit))
    wished = [Arrangement("table", (data.draw(st.sampled_from(relation.names)),))]
    free = [
        table.described for table in made.tables
        if table.described and len(table.keys) == 1
    ]  # fmt: skip
    if free:
        columns = data.draw(st.sets(st.sampled_from(data.draw(st.sampled_from(free))), min_size=1))
        wished.append(Arrangement("apart", tuple(sorted(columns))))
    checks = [Arrangement("check", (name,), check="range") for name in relation.names]
    wishes = Wishes(**policies, arrangements=(*wished, *checks))
    judgement = judge(relation, discover(relation, largest=3), fit)
    try:
        design = designed(made.repaired, judgement, wishes)
    except InputError as refused:
        if not str(refused).startswith("apart: "):
            raise
        return
    if design.proof.lost_dependencies:
        assert free, "only what is set apart from its determinant, which was kept, may be lost"
    with tempfile.TemporaryDirectory() as folder:
        write_design(design, str(Path(folder) / "made"))
        assert failing(Path(folder) / "made") == []


@pytest.mark.parametrize(
    ("file", "old", "new", "told"),
    [
        ("depot.csv", "Garrick", "Garick", "the first that differs is line 2 of delivery_drum.csv"),
        ("honey.csv", "7.60", "7.61", "but not to those of the file: the first that differs is line 5 of"),
        ("drum.csv", "\n2193,CHE,filtered,18.0", "\n2193,CHE,filtered,18.5", "line 2 of delivery_drum.csv"),
        ("honey.csv", "\nRAP,", "\nCLO,", "honey.csv, line "),
        ("keeper.csv", "K-170", "K-999", "apiary.csv, line "),
        (
            "delivery_drum.csv",
            "\n5001,",
            "\n5001,extra,",
            "delivery_drum.csv, line 2: 6 cells where the table has 5 columns",
        ),
        (
            "delivery.csv",
            "\n5001,",
            "\n5991,",
            "delivery_drum.csv, line 2: 5001 is no delivery_no of delivery",
        ),
    ],
)
def test_damage_is_found_and_told(demo, file, old, new, told):
    change(demo / file, old, new)
    assert any(told in text for text in failing(demo)), failing(demo)


def test_a_row_too_few_and_a_rule_that_no_table_checks_are_told(demo):
    lines = (demo / "delivery_drum.csv").read_text().splitlines(keepends=True)
    (demo / "delivery_drum.csv").write_text("".join(lines[:-1]))
    change(
        demo / "design.json", '"determinant": [\n    "village"\n   ]', '"determinant": [\n    "driver"\n   ]'
    )
    told = failing(demo)
    assert (
        "The tables join to 419 rows, but the file had 420: the first that differs is the end of delivery_drum.csv."
        in told
    )
    assert any(text.startswith("No single table can check driver -> district") for text in told)


@pytest.mark.parametrize("file", ["design.json", "schema.sql", "keeper.csv"])
def test_a_missing_file_is_an_error_of_the_input(demo, file):
    (demo / file).unlink()
    with pytest.raises(InputError, match=rf"{file}.*(no design.json|cannot be read)|no design.json"):
        prove_folder(demo)


def test_a_design_of_another_making_is_refused(demo):
    (demo / "design.json").write_text("{}")
    with pytest.raises(InputError, match="is no design"):
        prove_folder(demo)


def test_the_mark_of_rows_knows_no_order_but_counts_every_row():
    rows = [["1", "7.50", "x"], ["2", "", "y"], ["2", "", "y"]]
    kinds = ["integer", "decimal(3,2)", "text(1)"]
    mark = of_relation(Relation.from_rows("abc", rows), kinds).mark
    assert mark == of_rows([[2, None, "y"], [1, 7.5, "x"], [2, None, "y"]], kinds).mark
    assert mark == of_rows([(2.0, None, "y"), (1, Decimal("7.500"), "x"), (2, None, "y")], kinds).mark
    assert mark != of_rows(rows[:2], kinds).mark
    assert mark != of_rows([["1", "7.50", "y"], ["2", "", "x"], ["2", "", "y"]], kinds).mark
    assert mark != of_rows([["1", "7.50", "x"], ["2", "y", ""], ["2", "", "y"]], kinds).mark


def test_blocks_tell_which_row_differs():
    rows = [[str(n), "x"] for n in range(25_000)]
    before = of_rows(rows, ["integer", "text(1)"])
    assert before.block_size() == 3
    rows[10_000][1] = "y"
    after = of_rows(rows, ["integer", "text(1)"])
    pairs = zip(before.blocks(3), after.blocks(3), strict=True)
    assert [place for place, (one, other) in enumerate(pairs) if one != other] == [10_000 // 3]
    assert of_rows([], ["integer"]).blocks(1) == []
