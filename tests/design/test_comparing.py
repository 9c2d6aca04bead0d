"""Designs side by side, designs against rows, and designs against sentences."""

import pytest

from pravix.design.agreeing import agreements
from pravix.design.by_hand import parsed_design
from pravix.design.comparing import compared
from pravix.design.sentences import coverage
from pravix.relation.relation import Relation

FLAT = "Drum(_drum_no_, honey_code, honey, keeper_no, phone)\n honey_code -> honey\n keeper_no -> phone"
SPLIT = """
Drum(_drum_no_, honey_code, keeper_no)
    honey_code refers to Honey(honey_code)
    keeper_no refers to Keeper(keeper_no)
Honey(_honey_code_, honey)
Keeper(_keeper_no_)
Phone(_keeper_no_, _phone_)
    keeper_no refers to Keeper(keeper_no)
"""


def designs(*texts):
    return {f"design {number}": parsed_design(text, "x") for number, text in enumerate(texts, 1)}


def test_two_designs_side_by_side():
    flat, split = compared(designs(FLAT, SPLIT))
    assert (flat.tables, flat.columns, flat.joins) == (1, 5, 0)
    assert (split.tables, split.columns, split.joins) == (4, 8, 3)
    assert flat.repeated == ("Drum: honey_code -> honey", "Drum: keeper_no -> phone")
    assert split.repeated == ()
    assert "keeper_no 1 with both phone 1 and phone 2 (keeper_no -> phone; design 2 can)" in flat.cannot_store
    assert split.cannot_store == ()


def test_a_column_in_two_tables_is_a_repetition():
    (one, _) = compared(designs("A(_a_, town)\nB(_b_, town)", "A(_a_, town)"))
    assert one.repeated == ("town in A and B",)


def test_three_designs_and_what_only_one_cannot_hold():
    three = designs("A(_a_, b)", "A(_a_, _b_)", "A(a, _b_)")
    first, second, third = compared(three)
    assert first.cannot_store == (
        "a 1 with both b 1 and b 2 (a -> b; design 2 can)",
        "a 1 with both b 1 and b 2 (a -> b; design 3 can)",
    )
    assert second.cannot_store == ()
    assert [text.split(" (")[0] for text in third.cannot_store] == ["b 1 with both a 1 and a 2"] * 2


def test_rows_agree_or_say_where_not():
    rows = [[str(n), f"K{n % 3}", "0421 1" if n != 7 else "0421 9"] for n in range(12)]
    relation = Relation.from_rows(["drum_no", "keeper_no", "phone"], rows)
    found, lacking = agreements(parsed_design(FLAT, "x"), relation)
    told = {str(one.rule): one for one in found}
    assert told["drum_no -> keeper_no"].text == "drum_no -> keeper_no holds in all 12 rows"
    assert told["keeper_no -> phone"].broken == (9,)
    assert told["keeper_no -> phone"].text == "keeper_no -> phone is broken by 1 row: 9"
    assert lacking == ["Drum.honey_code", "Drum.honey"]


SENTENCES = """Beekeepers bring drums of honey.
# a comment about invoices
Every drum has a moisture test.
"""


def test_words_of_sentences_are_covered_or_not():
    found = coverage(SENTENCES, parsed_design(SPLIT, "x"), {"Beekeepers": "keeper"})
    assert found.covered["beekeeper"] == ("Drum.keeper_no", "Keeper", "Keeper.keeper_no", "Phone.keeper_no")
    assert found.covered["drum"] == ("Drum", "Drum.drum_no")
    assert found.missing == {"bring": (1,), "moisture": (3,), "test": (3,)}
    assert found.needless == ()


@pytest.mark.parametrize(
    ("text", "needless"),
    [("", ("Drum", "Honey", "Keeper", "Phone")), ("phones", ("Drum", "Honey", "Keeper"))],
)
def test_tables_that_no_sentence_needs(text, needless):
    assert coverage(text, parsed_design(SPLIT, "x"), {}).needless == needless
