"""Designs as wished: names, surrogates, value lists, set apart, kept together, second normal form."""

from pathlib import Path

import pytest

import pravix.demo
from pravix.design.apart import optional_groups
from pravix.design.build import designed
from pravix.design.checks import check_told
from pravix.design.choices import choices_of
from pravix.design.costs import costs_of
from pravix.design.restyle import policies_told
from pravix.design.telling import proof_lines, untaken_told
from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.first_normal_form.repair import Repaired
from pravix.judgement.judge import judge
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.relation.relation import Relation
from pravix.sources.read import read_source
from pravix.theory.dependency import parse_dependencies


@pytest.fixture(scope="module")
def demo():
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    judgement = judge(relation, discover(relation, largest=3))

    def wished(*arrangements, reserved=(), **policies):
        wishes = Wishes(**policies, arrangements=arrangements)
        return designed(Repaired(relation, relation), judgement, wishes, reserved)

    return wished


def schemes(design):
    return {table.name: (table.primary_key, table.described) for table in design.tables}


def test_names_follow_one_style_and_number(demo):
    design = demo(style="camel", number="plural", reserved={"honeys"})
    assert list(schemes(design)) == [
        "depots", "honeysTable", "villages", "deliveries", "keepers", "apiaries", "drums", "deliveryDrums",
    ]  # fmt: skip
    assert schemes(design)["depots"] == (("depot",), ("town",))
    assert schemes(design)["drums"] == (("drumNo",), ("honeyCode", "treatment", "tareKg", "apiaryNo"))
    assert design.home("tare_kg").name == "drums"
    assert design.home("to_town").name == "depots"
    assert {step.from_table for step in design.steps} <= set(schemes(design))
    assert policies_told(design.wishes) == "names in camel style and table names in the plural"
    assert demo(number="singular").main == "delivery_drum"


def test_the_ledger_names_a_table(demo):
    design = demo(
        Arrangement("name", ("honey_code",), name="Honey kind"),
        Arrangement("name", ("from_depot",), name="Place"),
    )
    assert {"Honey kind", "Place"} <= set(schemes(design))
    drum = design.table("drum")
    assert "Honey kind" in [link.table for link in drum.foreign_keys]


def test_surrogates_always(demo):
    design = demo(surrogates="always", numbering="shared")
    assert all(table.primary_key == (table.surrogate,) for table in design.tables)
    assert schemes(design)["keeper"] == (("keeper_id",), ("keeper_no", "keeper", "phone", "village_id"))
    assert ("keeper_no",) in design.table("keeper").keys
    assert design.table("keeper").natural_key == ("keeper_no",)
    delivery = design.table("delivery")
    assert {"from_depot_id", "to_depot_id"} <= set(delivery.column_names)
    line = design.table("delivery_drum")
    assert line.keys[1] == ("delivery_id", "drum_id")
    numbers = [int(text) for table in design.tables for text in table.rows.column(table.surrogate).texts()]
    assert numbers == list(range(1, len(numbers) + 1))
    assert design.proof.holds
    assert "weak key" not in [remark.about for remark in design.remarks]
    assert "weak key" in [remark.about for remark in demo().remarks]
    assert (True, "Every added number leads to the row that was referred to.") in proof_lines(design)


def test_surrogates_only_where_a_composite_key_is_referred_to():
    rows = [
        (str(place), *block, f"{place * 7 % 50}", "late early".split()[place % 2])
        for place in range(60)
        for block in [[("K1", "a"), ("K1", "b"), ("K2", "a"), ("K2", "b")][place % 4]]
    ]
    soils = {("K1", "a"): "clay", ("K1", "b"): "sand", ("K2", "a"): "loam", ("K2", "b"): "clay"}
    table = [[row[0], row[1], row[2], soils[row[1], row[2]], *row[3:]] for row in rows]
    relation = Relation.from_rows(["reading_no", "field", "block", "soil", "value", "shift"], table)
    judgement = judge(relation, discover(relation), parse_dependencies("field, block -> soil"))
    design = designed(Repaired(relation, relation), judgement, Wishes(surrogates="referred"))
    block = next(table for table in design.tables if "soil" in table.column_names)
    assert block.primary_key == (block.surrogate,)
    assert block.keys[1] == ("field", "block")
    assert {"field", "block"}.isdisjoint(design.table(design.main).column_names)
    assert block.surrogate in design.table(design.main).column_names
    assert design.table(design.main).surrogate == ""
    plain = designed(Repaired(relation, relation), judgement)
    assert "composite key" in [remark.about for remark in plain.remarks]
    assert design.proof.holds


def test_facts_are_kept_together_with_what_that_costs(demo):
    design = demo(Arrangement("together", ("village",)))
    assert "village" not in schemes(design)
    assert "district" in design.table("keeper").column_names
    assert design.proof.holds
    assert design.proof.wished_below == ("keeper",)
    (step,) = design.untaken
    told = untaken_told(step)
    assert told.startswith(
        "district is kept in keeper, though fixed by village: 410 cells of the file repeat"
    )
    assert "82 rows must be changed alike" in told
    assert costs_of(design).joins == costs_of(demo()).joins - 1


def test_second_normal_form_leaves_every_transitive_dependency(demo):
    design = demo(until="2nf")
    assert set(schemes(design)) == {"delivery", "drum", "delivery_drum"}
    assert {step.breach.value for step in design.steps} == {"partial"}
    assert len(design.untaken) == 6
    assert design.proof.holds
    assert costs_of(design).cells_after > costs_of(demo()).cells_after


def test_columns_are_set_apart_for_the_rows_that_have_them():
    rows = [
        [f"K-{n}", f"keeper {n % 30}", f"0421 {n}" if n % 3 else "", f"DE{n}" if n % 3 else "", str(n % 7)]
        for n in range(60)
    ]
    relation = Relation.from_rows(["keeper_no", "keeper", "phone", "account", "crates"], rows)
    judgement = judge(relation, discover(relation))
    plain = designed(Repaired(relation, relation), judgement)
    (group,) = optional_groups(plain.tables)
    assert (group.columns, group.filled, group.rows) == (("phone", "account"), 40, 60)
    assert any("filled in 40 of 60 rows" in remark.text for remark in plain.remarks)
    wish = Arrangement("apart", ("phone", "account"), name="contact")
    design = designed(Repaired(relation, relation), judgement, Wishes(arrangements=(wish,)))
    apart = design.table("contact")
    assert apart.rows.row_count == 40
    assert apart.apart_from == design.main
    (link,) = apart.foreign_keys
    assert (link.cardinality.value, link.on_delete) == ("one to one", "cascade")
    assert not any(column.nullable for column in apart.columns)
    assert design.proof.holds


def test_a_list_of_values_becomes_a_table_and_facts_become_a_list(demo):
    plain = demo()
    (check,) = [check for check in plain.table("drum").checks if check.made]
    assert check_told(check) == "treatment is filtered or raw (230 rows)"
    design = demo(Arrangement("table", ("treatment",)), Arrangement("list", ("honey_code",)))
    assert schemes(design)["treatment"] == (("treatment",), ())
    assert "honey" not in schemes(design)
    listed = [check for check in design.table("drum").checks if check.made]
    assert [check.column for check in listed] == ["honey_code"]
    assert design.proof.holds


def test_checks_are_made_where_they_are_wished_for(demo):
    kinds = {check.column: check.kind for check in demo().table("keeper").checks if not check.made}
    assert kinds == {"keeper_no": "pattern", "phone": "pattern", "keeper": "unique"}
    design = demo(Arrangement("check", ("tare_kg",), check="range"))
    (made,) = [check for check in design.table("drum").checks if check.column == "tare_kg"]
    assert (made.made, made.values) == (True, ("17.5", "22.5"))


def test_the_rules_of_a_reference_are_changed(demo):
    design = demo(Arrangement("link", ("from_depot",), on_update="cascade"))
    rules = {link.role: (link.on_delete, link.on_update) for link in design.table("delivery").foreign_keys}
    assert rules == {"from": ("restrict", "cascade"), "to": ("restrict", "restrict")}


@pytest.mark.parametrize(
    ("wish", "told"),
    [
        (Arrangement("together", ("phone",)), "no step moves facts about phone"),
        (Arrangement("apart", ("phone", "tare_kg")), "no table has phone and tare_kg outside"),
        (Arrangement("apart", ("drum_no",)), "no table has drum_no outside its primary key"),
        (Arrangement("link", ("phone",), on_delete="cascade"), "no table refers to another by phone"),
        (Arrangement("link", ("keeper_no",), on_delete="set null"), "keeper_no is always filled"),
    ],
)
def test_a_wish_that_cannot_be_granted_is_refused(demo, wish, told):
    with pytest.raises(InputError, match=told):
        demo(wish)


def test_every_choice_that_is_offered_can_be_made(demo):
    choices = choices_of(demo())
    assert {choice.topic for choice in choices} == {
        "Tables",
        "Lists of values",
        "Checks not made",
        "References",
        "Same kind of thing",
    }
    together = [choice.option.split()[1] for choice in choices if choice.option.startswith("--together")]
    assert together == [
        "delivery_no",
        "drum_no",
        "from_depot",
        "to_depot",
        "honey_code",
        "apiary_no",
        "keeper_no",
        "village",
    ]
    for column in together:
        assert demo(Arrangement("together", (column,))).proof.holds


def test_what_no_key_leads_to_gets_a_table_that_does():
    """The join of the tables loses nothing, but E of a row is in none that its columns are a key of."""
    rows = [
        ["a", "a", "a", "a", "b"],
        ["a", "b", "b", "b", "b"],
        ["a", "b", "b", "b", "b"],
        ["b", "a", "a", "a", "b"],
    ]
    relation = Relation.from_rows("ABCDE", rows)
    accepted = [
        rule for text in ("A, D, E -> B", "B -> E", "C, E, A -> D") for rule in parse_dependencies(text)
    ]
    design = designed(Repaired(relation, relation), judge(relation, discover(relation, largest=3), accepted))
    assert design.proof.holds
    assert ("B", "E") in [table.column_names for table in design.tables]


def test_a_table_of_the_values_of_another_key_is_referred_to_and_refers_to_nothing():
    """The slip identifies a delivery too: the table of slips says nothing that the other does not."""
    rows = [[f"D{n}", f"S{n}", f"{n % 3}0"] for n in range(12)]
    relation = Relation.from_rows(["delivery", "slip", "kg"], rows)
    accepted = [
        rule for text in ("delivery -> slip, kg", "slip -> delivery, kg") for rule in parse_dependencies(text)
    ]
    judgement = judge(relation, discover(relation, largest=3), accepted)
    wishes = Wishes(arrangements=(Arrangement("table", ("slip",)),))
    slip, delivery = designed(Repaired(relation, relation), judgement, wishes).tables
    assert (slip.column_names, slip.foreign_keys) == (("slip",), ())
    assert [link.table for link in delivery.foreign_keys] == [slip.name]
    assert {("delivery",), ("slip",)} == set(delivery.keys)
