"""How searching looks from outside: what was searched is said, long lists are streamed, plans are told."""

import random

import pytest


@pytest.fixture
def many(tmp_path):
    """A sheet of a few values in many columns: very many rules hold by luck."""
    draw = random.Random(4)
    lines = [",".join(f"c{place}" for place in range(15))]
    lines += [",".join(draw.choice("abcd") for _ in range(15)) for _ in range(150)]
    (tmp_path / "many.csv").write_text("\n".join(lines) + "\n")
    return "many.csv"


@pytest.fixture
def deliveries(tmp_path):
    """A sheet of 9,000 deliveries with drums, keepers and a note: too many rows for the small plan."""
    draw = random.Random(5)
    keeper = [draw.randrange(200) for _ in range(3_000)]
    lines = ["delivery_no,drum_no,keeper_no,village,gross_kg,driver,depot"]
    for number in range(9_000):
        drum = draw.randrange(3_000)
        facts = (keeper[drum], keeper[drum] % 17, draw.randrange(9_000), number // 7 % 11, number // 9 % 5)
        lines.append(",".join(map(str, (number, drum, *facts))))
    (tmp_path / "deliveries.csv").write_text("\n".join(lines) + "\n")
    return "deliveries.csv"


def test_thousands_of_rules_are_printed_one_by_one_and_counted(pravix, many):
    run = pravix("dependencies", many, "--json", "--verbose")
    assert "150 rows, 15 columns: all pairs of rows compared" in run.err
    document = run.document
    assert document["complete"]
    rules = {(tuple(rule["determinant"]), rule["dependent"]) for rule in document["dependencies"]}
    assert len(rules) == len(document["dependencies"]) > 10_000
    assert run.out.count("\n") < 1.2 * len(rules)
    told = pravix("dependencies", many).out
    assert f"{len(rules):,} minimal rules in the rows" in told
    listed = pravix("dependencies", many, "--all").out
    assert listed.count("doubtful") >= len({left for left, _ in rules})


def test_what_was_searched_is_said_in_the_document_and_in_the_story(pravix, sheet, many):
    document = pravix("decompose", many, "--json").document
    assert (document["complete"], document["searched_to"]) == (False, 4)
    assert "Rules were searched completely up to determinants of 4 columns." in pravix("decompose", many).out
    whole = pravix("decompose", sheet, "--json").document
    assert whole["complete"]
    assert "searched_to" not in whole


def test_a_limit_given_by_hand_is_kept(pravix, many):
    document = pravix("keys", many, "--json", "--largest", "4").document
    assert not document["complete"]
    assert document["searched_to"] == 4
    assert all(len(key["columns"]) <= 4 for key in document["candidate_keys"])


def test_many_rows_are_searched_in_compiled_code_and_the_rules_are_there(pravix, deliveries):
    run = pravix("dependencies", deliveries, "--json", "--verbose")
    assert "in compiled code" in run.err
    rules = {(tuple(rule["determinant"]), rule["dependent"]) for rule in run.document["dependencies"]}
    assert {(("drum_no",), "keeper_no"), (("keeper_no",), "village")} <= rules
    keys = pravix("keys", deliveries, "--json").document
    assert ["delivery_no"] in [key["columns"] for key in keys["candidate_keys"]]


def test_without_a_place_for_machine_code_the_search_works_all_the_same(pravix, deliveries, tmp_path):
    (tmp_path / "closed").write_text("no folder")
    run = pravix("keys", deliveries, "--json", NUMBA_CACHE_DIR=str(tmp_path / "closed"))
    assert run.status == 0
    assert run.document == pravix("keys", deliveries, "--json").document
