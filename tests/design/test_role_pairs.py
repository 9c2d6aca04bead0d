"""Two tables in two roles: told by names, by values, or by the analyst."""

from random import Random

import pytest
from folders import folder_of

from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.loading.load import load_folder
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation
from pravix.sources.read import read_source
from pravix.sources.reading import Reading
from pravix.validation.checking import checked
from pravix.validation.new_rows import arrived_rows

NAMES = "Amber Brisk Coral Dawn Ember Fjord Gale Harbor Isle Jade Kelp Lark".split()
SHIPS = [(f"900{n:02d}", name, ("NO", "DK", "SE")[n % 3]) for n, name in enumerate(NAMES)]


def made(relation, *wishes):
    judgement = judge(relation, discover(relation, largest=3))
    return designed(Repaired(relation, relation), judgement, Wishes(arrangements=wishes))


def calls(columns, contradicting=False):
    """Calls of boats, each with a boat and another one that it met: with its name, and no flag."""
    rows, draw = [], Random(3)
    for n in range(200):
        here, there = draw.choice(SHIPS), draw.choice(SHIPS)
        name = there[1] if not contradicting else there[1][::-1]
        rows.append([f"C{n:03d}", *here, there[0], name, str(draw.randint(1, 30))])
    return Relation.from_rows(["call", *columns, "knots"], rows)


BARE = ("vessel_no", "vessel", "flag", "met_vessel_no", "met_vessel")


def test_a_bare_noun_and_a_prefixed_one_with_unequal_columns():
    design = made(calls(BARE))
    vessel = design.table("vessel")
    assert set(vessel.column_names) == {"vessel_no", "vessel", "flag"}
    assert {role.name: len(role.columns) for role in vessel.roles} == {"vessel": 3, "met": 2}
    assert vessel.rows.row_count == 12
    assert design.proof.holds


def test_what_only_one_role_tells_is_blank_for_the_things_of_the_other():
    relation = calls(BARE)
    rows = [row for row in relation.rows() if row[1] not in ("90003", "90007")]
    design = made(Relation.from_rows(relation.names, rows))
    vessel = design.table("vessel")
    flags = dict(vessel.rows.project(["vessel_no", "flag"]).rows())
    assert flags["90003"] == flags["90007"] == ""
    assert next(column for column in vessel.columns if column.name == "flag").nullable
    assert design.proof.holds


def test_two_things_that_contradict_each_other_stay_two():
    design = made(calls(BARE, contradicting=True))
    assert not any(table.roles for table in design.tables)


def test_names_without_a_word_in_common_are_asked_about_and_merged_on_request():
    columns = ("schiff_nr", "schiff", "flagge", "met_id", "met")
    relation = calls(columns)
    design = made(relation)
    assert not any(table.roles for table in design.tables)
    (doubt,) = [one for one in design.doubts if {*one.one, *one.other} == {"schiff_nr", "met_id"}]
    assert "12 values" in doubt.told
    merged = made(relation, Arrangement("same", ("schiff_nr", "met_id")))
    assert [len(table.roles) for table in merged.tables if table.roles] == [2]
    assert merged.proof.holds
    apart = made(relation, Arrangement("different", ("schiff_nr", "met_id")))
    assert not apart.doubts


def test_what_is_told_otherwise_of_the_same_thing_stays_a_column_of_its_role():
    design = made(calls(BARE, contradicting=True), Arrangement("same", ("vessel_no", "met_vessel_no")))
    vessel = design.table("vessel")
    assert set(vessel.column_names) == {"vessel_no", "vessel", "flag", "met_vessel"}
    assert design.proof.holds


def test_what_cannot_be_one_kind_of_thing_is_refused():
    columns = ("boat_no", "boat", "flag", "met_boat_no", "met_boat")
    relation = calls(columns)
    rows = [list(row) for row in relation.rows()]
    for row in rows:
        row[5] = "Gael" if row[5] == "Gale" else row[5]
    nearly = Relation.from_rows(relation.names, rows)
    assert not any(table.roles for table in made(nearly).tables)
    with pytest.raises(InputError, match="boat_no and met_boat_no cannot be one kind of thing"):
        made(nearly, Arrangement("same", ("boat_no", "met_boat_no")))


def test_a_later_file_completes_what_only_one_role_told(tmp_path):
    relation = calls(BARE)
    rows = [row for row in relation.rows() if row[1] not in ("90003", "90007")]
    folder = folder_of(Relation.from_rows(relation.names, rows), tmp_path / "made")
    assert all(holds for holds, _ in prove_folder(tmp_path / "made"))
    url = f"sqlite:///{tmp_path}/made.db"
    load_folder(folder, url)
    new = tmp_path / "new.csv"
    later = [",".join(row) for row in relation.rows() if row[1] == "90003"]
    new.write_text("\n".join([",".join(relation.names), *later]) + "\n")
    arrived = arrived_rows(folder.design, read_source(str(new), Reading()).relation, "new.csv")
    found = checked(folder, arrived, url)
    assert not found.bad
    assert found.added["call"] == len(later)
    again = checked(folder, arrived, url)
    assert again.there == len(later)
    assert not again.bad
