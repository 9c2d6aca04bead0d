"""Arranging a design and asking why, with the installed program on the small sheet of drums."""

import tomllib

import pytest


def tables(document):
    return {table["name"]: [column["name"] for column in table["columns"]] for table in document["tables"]}


def test_choices_are_listed_with_the_option_that_makes_them(pravix, sheet):
    shown = pravix("arrange", sheet)
    assert shown.status == 0
    assert "--together drum_no" in shown.out
    assert "--link 'keeper_no: on_delete cascade'" in shown.out
    document = pravix("arrange", sheet, "--json").document
    assert document["format"] == "pravix.choices"
    assert all(set(choice) == {"topic", "told", "option"} for choice in document["choices"])


def test_wishes_are_recorded_and_the_design_follows(pravix, sheet, tmp_path):
    done = pravix(
        "arrange", sheet, "--apart", "phone=contact", "--name", "drum_no=barrel",
        "--link", "keeper_no: on_update cascade", "--number", "plural", "--why", "as the office has it",
    )  # fmt: skip
    assert done.status == 0
    assert "Recorded in" in done.out
    ledger = tomllib.loads((tmp_path / "drums.ledger.toml").read_text())
    assert ledger["design"] == {"number": "plural"}
    assert {entry["why"] for entry in ledger["arrange"]} == {"as the office has it"}
    document = pravix("decompose", sheet, "--json").document
    assert tables(document)["contacts" if "contacts" in tables(document) else "contact"] == [
        "keeper_no",
        "phone",
    ]
    assert {"barrel", "keepers"} <= set(tables(document))
    barrel = next(table for table in document["tables"] if table["name"] == "barrel")
    assert barrel["foreign_keys"][0]["on_update"] == "cascade"
    once = pravix("decompose", sheet, "--number", "singular", "--surrogates", "always", "--json").document
    assert {"barrel", "keeper"} <= set(tables(once))
    assert "barrel_id" in tables(once)["barrel"]
    numbered = next(column for column in once["tables"][0]["columns"] if column["name"].endswith("_id"))
    assert (numbered["source"], numbered["stands_for"]) == (None, None)


def test_a_column_is_set_apart_from_what_decides_it_in_second_normal_form(pravix, sheet):
    assert pravix("arrange", sheet, "--apart", "phone=contact", "--until", "2nf").status == 0
    shown = pravix("decompose", sheet, "--out", "made")
    assert shown.status == 0
    said = " ".join(shown.out.split())
    assert "No single table can check keeper_no -> phone, as you wish; third normal form but for" in said
    assert "Boyce-Codd" not in said
    proved = pravix("prove", "made")
    assert proved.status == 0
    assert "keeper_no -> phone, the price of what was wished" in proved.out


def test_what_is_kept_together_is_never_copied(pravix, sheet):
    offered = [one["option"].split() for one in pravix("arrange", sheet, "--json").document["choices"]]
    together = [option for option in offered if option[0] == "--together"]
    assert together
    for option in together:
        assert pravix("arrange", sheet, *option).status == 0
        made = pravix("decompose", sheet, "--json").document["tables"]
        described = [
            column["name"]
            for table in made
            for column in table["columns"]
            if column["name"] not in table["primary_key"]
            and all(column["name"] not in link["columns"] for link in table["foreign_keys"])
        ]
        assert len(described) == len(set(described))


def test_second_normal_form_on_request(pravix, sheet, tmp_path):
    shown = pravix("decompose", sheet, "--until", "2nf", "--out", "made")
    assert shown.status == 0
    assert "Left as it was" in shown.out
    assert "third normal form but for" in shown.out
    full = pravix("decompose", sheet, "--until", "2nf", "--full").out
    assert "kept lower as you wish" in full
    assert pravix("prove", "made").status == 0
    document = pravix("decompose", sheet, "--until", "2nf", "--json").document
    assert document["proof"]["third_normal_form"] is False
    assert document["proof"]["wished_below"]


@pytest.mark.parametrize(
    ("options", "told"),
    [
        (["--together", "note"], "no step moves facts about note"),
        (["--apart", "phone, drum_no"], "no table has phone and drum_no outside"),
        (["--apart", "telephone"], "has no column telephone"),
        (["--name", "drum_no"], "no name"),
        (["--link", "keeper_no: explode"], "no rule"),
        (["--check", "phone: weight"], "check must be values"),
        (["--together", "a -> b"], "an arrow in a list of columns"),
    ],
)
def test_a_wish_that_cannot_be_granted_is_one_line_and_nothing_is_recorded(
    pravix, sheet, tmp_path, options, told
):
    done = pravix("arrange", sheet, *options)
    assert done.status == 2
    assert told in done.err
    assert len(done.err.splitlines()) <= 2
    assert not (tmp_path / "drums.ledger.toml").exists()


@pytest.mark.parametrize(
    ("what", "told"),
    [
        ("keeper", "keeper is described by"),
        ("table keeper", "keeper exists because"),
        ("drum", "drum exists because"),
        ("key drum", "The primary key is drum_no"),
        ("link drum keeper", "drum refers to keeper by keeper_no"),
        ("phone in drum", "only by way of keeper_no"),
        ("drum_no -> keeper", "(transitivity)"),
    ],
)
def test_everything_can_be_asked_why(pravix, sheet, what, told):
    if what == "keeper":
        told = "keeper lives in table keeper"
    shown = pravix("explain", sheet, what)
    assert shown.status == 0
    assert told in " ".join(shown.out.split())
    assert pravix("explain", sheet, what, "--json").document["format"] == "pravix.explanation"


@pytest.mark.parametrize(
    "what", ["nonsense", "table nonsense", "key nonsense", "phone in nonsense", "link drum nonsense"]
)
def test_what_is_not_there_cannot_be_explained(pravix, sheet, what):
    done = pravix("explain", sheet, what)
    assert done.status == 2
    assert "nonsense" in done.err
