"""Beyond third normal form, keys that are chosen, and columns that are renamed."""

from random import Random

import numpy as np
import pytest

from pravix.design.build import designed
from pravix.design.further import split_to_bcnf
from pravix.design.telling import proof_lines
from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.first_normal_form.repair import Repaired
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.judgement.judge import judge
from pravix.ledger.said import Said
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.loading.load import load_folder
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation
from pravix.theory.dependency import parse_dependencies
from pravix.theory.normal_forms import Form
from pravix.theory.rule_set import RuleSet


def rounds():
    """Each place is visited once a day by one of its own keepers."""
    draw, rows = Random(1), []
    for day in range(60):
        for place in range(4):
            keeper = f"K{place + 4 * draw.randrange(3):02d}"
            rows.append(
                [
                    f"P{place}",
                    f"2026-{day // 28 + 1:02d}-{day % 28 + 1:02d}",
                    keeper,
                    str(draw.randint(1, 99)),
                ]
            )
    return Relation.from_rows(["place_no", "day", "keeper_no", "kg"], rows)


RULES = parse_dependencies("place_no, day -> keeper_no, kg") + parse_dependencies("keeper_no -> place_no")


def made(until, *wishes):
    relation = rounds()
    said = Said(key=frozenset({"place_no", "day"}))
    judgement = judge(relation, discover(relation, largest=2), RULES, said=said)
    return designed(Repaired(relation, relation), judgement, Wishes(until=until, arrangements=wishes))


def test_boyce_codd_normal_form_is_reached_and_its_price_is_told(tmp_path):
    third, further = made("3nf"), made("bcnf")
    assert [table.form for table in third.tables] == [Form.THIRD]
    assert {table.form for table in further.tables} == {Form.BOYCE_CODD}
    assert further.proof.lost_dependencies
    assert further.proof.holds
    told = [text for _, text in proof_lines(further)]
    assert any("the price of what you wish" in text for text in told)
    (step,) = further.steps
    assert (step.determinant, step.moved) == (("keeper_no",), ("place_no",))
    write_design(further, str(tmp_path / "made"))
    assert all(holds for holds, _ in prove_folder(tmp_path / "made"))


def test_a_split_that_would_lose_rows_is_left_out():
    rules = RuleSet(parse_dependencies("a, b -> c") + parse_dependencies("c -> b"))
    schemes = [frozenset("abc"), frozenset("abd")]
    assert set(split_to_bcnf(schemes, rules)) == set(schemes)


def test_what_is_in_boyce_codd_normal_form_stays():
    rules = RuleSet(parse_dependencies("a -> b, c"))
    assert split_to_bcnf([frozenset("abc")], rules) == [frozenset("abc")]


def keepers():
    draw = Random(2)
    known = [[f"K{n:02d}", f"{n * 37 % 90 + 10}", f"V{n % 5}"] for n in range(15)]
    rows = [[f"D{n:03d}", *draw.choice(known), str(draw.randint(1, 60))] for n in range(250)]
    return Relation.from_rows(["delivery", "keeper_no", "badge_no", "village", "kg"], rows)


def arranged(*wishes):
    relation = keepers()
    judgement = judge(relation, discover(relation, largest=2), parse_dependencies("badge_no -> keeper_no"))
    return designed(Repaired(relation, relation), judgement, Wishes(arrangements=wishes))


def test_the_key_of_a_table_can_be_chosen():
    assert arranged().table("badge").primary_key == ("badge_no",)
    design = arranged(Arrangement("key", ("keeper_no",)))
    assert design.table("badge").keys == (("keeper_no",), ("badge_no",))
    (link,) = design.table(design.main).foreign_keys
    assert link.references == ("badge_no",)
    assert design.proof.holds


def test_what_is_no_key_cannot_be_chosen():
    with pytest.raises(InputError, match="village is a key of no table") as refused:
        arranged(Arrangement("key", ("village",)))
    assert "pravix decide" in refused.value.hint


def test_a_column_gets_another_name_wherever_it_stands():
    design = arranged(Arrangement("rename", ("badge_no",), name="badge id"))
    assert "badge id" in design.table("badge").column_names
    assert "badge id" in design.table(design.main).column_names
    assert {c.name: c.source for c in design.table("badge").columns}["badge id"] == "badge_no"
    assert design.proof.holds


def test_a_name_that_another_column_has_is_refused():
    with pytest.raises(InputError, match="another column is called badge_no already"):
        arranged(Arrangement("rename", ("keeper_no",), name="badge_no"))


def lists():
    """For each keeper every plant of the heath beside every tool: two lists that have nothing to do with each other."""
    draw, rows = Random(6), []
    for number in range(30):
        plants = draw.sample("lime heather sage fir clover".split(), draw.randint(1, 4))
        tools = draw.sample("smoker ladder lamp rope brush".split(), draw.randint(1, 4))
        rows += [[f"K{number:02d}", f"V{number % 4}", plant, tool] for plant in plants for tool in tools]
    draw.shuffle(rows)
    return Relation.from_rows(["keeper_no", "village", "plant", "tool"], rows)


def fourth(relation, **wishes):
    judgement = judge(relation, discover(relation, largest=3), parse_dependencies("keeper_no -> village"))
    return designed(Repaired(relation, relation), judgement, Wishes(until="4nf", **wishes))


@pytest.mark.parametrize("wishes", [{}, {"surrogates": "always"}, {"style": "camel", "number": "plural"}])
def test_independent_lists_get_a_table_each_in_fourth_normal_form(wishes, tmp_path):
    design = fourth(lists(), **wishes)
    assert len(design.tables) == 3
    assert design.proof.holds
    assert design.proof.rejoined_rows == lists().row_count
    (price,) = [one.text for one in design.remarks if one.about == "fourth normal form"]
    assert "can no longer be said" in price
    write_design(design, str(tmp_path / "made"))
    assert all(holds for holds, _ in prove_folder(tmp_path / "made"))
    loaded = load_folder(open_folder(tmp_path / "made"), f"sqlite:///{tmp_path}/made.db")
    assert loaded.views == {"flat": lists().row_count}


def test_lists_of_which_one_combination_lacks_stay_together():
    relation = lists()
    design = fourth(relation.take(np.arange(1, relation.row_count)))
    whole = fourth(relation)
    assert len(whole.tables) == 3
    assert not any(table.independent_of for table in design.tables)


def test_a_changed_list_is_noticed_by_the_proof(tmp_path):
    write_design(fourth(lists()), str(tmp_path / "made"))
    file = tmp_path / "made" / "keeper_tool.csv"
    file.write_text("\n".join(file.read_text().splitlines()[:-1]) + "\n")
    assert not all(holds for holds, _ in prove_folder(tmp_path / "made"))
