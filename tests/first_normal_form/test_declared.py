"""What the analyst declares: made where it fits every row, refused with the row where it does not."""

import pytest
from sheets import computed

from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.first_normal_form.declaration import declaration
from pravix.first_normal_form.repairing import repaired
from pravix.judgement.judge import judge
from pravix.relation.relation import Relation

ROWS = [
    ["J1", "oil+rope", "2", "", "yes", "no"],
    ["J2", "lamp", "3", "4", "no", "yes"],
    ["J3", "rope+oil+lamp", "", "", "no", "no"],
]
SHEET = Relation.from_rows(["job", "tools", "cups", "spoons", "raw", "filtered"], ROWS)


def mended(*texts, relation=SHEET):
    return repaired(relation, (), "the ledger", [declaration(text) for text in texts])


def test_lists_families_and_facts():
    made = mended("list: tools = +", "family: cups, spoons = pieces", "one fact: raw, filtered = treatment")
    assert made.relation.names == ("job", "tools", "pieces", "treatment")
    assert made.relation.column("treatment").texts() == ["raw", "filtered", ""]
    assert made.bundles[0].parts("rope+oil+lamp") == [(1, ("rope",)), (2, ("oil",)), (3, ("lamp",))]
    assert made.differing_rows() == ()


def test_a_family_of_several_facts_is_told_position_by_position():
    names = ["job", "part a", "cost a", "part b", "cost b"]
    relation = Relation.from_rows(names, [["J1", "seal", "1", "hose", "2"], ["J2", "clamp", "3", "", ""]])
    made = mended("family: part a, cost a | part b, cost b = part", relation=relation)
    assert made.bundles[0].facts == ("part a", "cost a")
    assert made.bundles[0].of.members == (("part a", "cost a"), ("part b", "cost b"))
    assert made.differing_rows() == ()


def test_a_declared_formula_leaves_its_column_out():
    sheet = computed()
    made = mended("computed: mean = mean of low, high", "computed: due = begun + days days", relation=sheet)
    assert {"mean", "due"} & set(made.relation.names) == set()
    assert made.differing_rows() == ()


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("computed: dry = 99 - wet", "dry is 100 in row 2, where 99 - wet gives 99"),
        ("computed: dry = 100 - colour", "100 - colour is no formula"),
        ("list: nothing = ;", "there is no column nothing"),
        ("one fact: low, high", "low does not say yes and no"),
        ("family: low, high = job", "there is a column job already"),
    ],
)
def test_what_does_not_fit_is_refused(text, told):
    with pytest.raises(InputError, match=told):
        mended(text, relation=computed())


def test_a_list_with_another_separator_names_the_row():
    rows = [["J1", "oil, rope"], ["J2", "oil,rope"], ["J3", "oil, lamp"]]
    with pytest.raises(InputError, match="tools is oil,rope in row 3, where oil, rope is meant"):
        mended("list: tools = ,", relation=Relation.from_rows(["job", "tools"], rows))


def test_two_declarations_about_one_column_are_refused():
    with pytest.raises(InputError, match="which another answer takes away"):
        mended("family: raw, filtered = how", "one fact: raw, filtered")


@pytest.mark.parametrize(
    "text",
    [
        "colour: x",
        "list: tools",
        "list = ;",
        "computed: x",
        "period: a, b",
        "family: a",
        "family: a, b | c",
        "list: = ;",
    ],
)
def test_a_text_that_declares_nothing_is_refused_with_an_example(text):
    with pytest.raises(InputError) as refused:
        declaration(text)
    assert "list: tools = ;" in refused.value.hint


@pytest.mark.parametrize(
    "text",
    [
        "list: tools = ;",
        "family: a, b = c",
        "family: a, b | c, d = e",
        "computed: x = a - b",
        "period: season",
    ],
)
def test_a_declaration_is_written_as_it_is_read(text):
    assert declaration(text).text == text


def test_a_declared_identifier_may_determine_and_a_period_may_not():
    lots = [[f"R{n:03d}", str(n % 23 + 3), str((n % 23) * 37 % 11), str(n % 19)] for n in range(200)]
    relation = Relation.from_rows(["row", "size", "shade", "weight"], lots)
    found = discover(relation, largest=2)

    def trusted(says):
        return {str(rule) for rule in judge(relation, found, declared={"size": says}).trusted}

    assert "size -> shade" in trusted("identifier")
    assert "size -> shade" not in trusted("period")
