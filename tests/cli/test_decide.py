"""Deciding: on the command line, by questions, and with a ledger that other rows were decided on."""

import os
import subprocess
import tomllib

import pytest
from program import PROGRAM


@pytest.fixture
def visits(tmp_path):
    sites = [("A1", "North", "Ida"), ("A2", "North", "Ida"), ("A3", "South", "Ole"), ("A4", "South", "Ole"),
             ("A5", "North", "Ida"), ("A6", "East", "Pia")]  # fmt: skip
    lines = ["visit_no,site_no,district,inspector,minutes"]
    lines += [",".join([str(900 + place), *sites[place % 6], str(place * 7 % 31)]) for place in range(60)]
    (tmp_path / "visits.csv").write_text("\n".join(lines) + "\n")
    return "visits.csv"


def ledger(tmp_path):
    return tomllib.loads((tmp_path / "visits.ledger.toml").read_text())


def told(tmp_path, answers, sheet="visits.csv"):
    done = subprocess.run(
        [str(PROGRAM), "decide", sheet, "--by", "Ada"],
        cwd=tmp_path, input=answers, capture_output=True, text=True, encoding="utf-8",
        env=os.environ | {"PYTHONUTF8": "1", "COLUMNS": "100"}, check=False, timeout=120,
    )  # fmt: skip
    assert "Traceback" not in done.stderr
    return done


def test_the_questions_follow_the_contract(pravix, visits):
    document = pravix("decide", visits, "--json").document
    assert (document["format"], document["version"]) == ("pravix.questions", 1)
    question = next(one for one in document["questions"] if one["determinant"] == ["district"])
    assert question["dependents"] == ["inspector"]
    assert question["if_accepted"] == "inspector is stored once for each district (3 rows)"
    first, second = question["possible_if_rejected"]
    assert first["district"] == second["district"]
    assert first["inspector"] != second["inspector"]


def test_answers_on_the_command_line_are_recorded_and_change_the_tables(pravix, visits, tmp_path):
    run = pravix("decide", visits, "--accept", "district -> inspector", "--why", "one each", "--by", "Ada")
    assert run.status == 0
    assert "accepted: district -> inspector" in run.out
    (decision,) = ledger(tmp_path)["decision"]
    assert (decision["standing"], decision["why"], decision["by"], decision["rows"]) == (
        "accepted", "one each", "Ada", 60
    )  # fmt: skip
    tables = {tuple(t["primary_key"]) for t in pravix("decompose", visits, "--json").document["tables"]}
    assert ("district",) in tables
    pravix("decide", visits, "--reject", "district -> inspector")
    assert [one["standing"] for one in ledger(tmp_path)["decision"]] == ["rejected"]
    tables = {tuple(t["primary_key"]) for t in pravix("decompose", visits, "--json").document["tables"]}
    assert ("district",) not in tables


def test_a_contradiction_is_shown_with_its_chain_and_records_nothing(pravix, visits, tmp_path):
    pravix("decide", visits, "--accept", "site_no -> district", "--accept", "district -> inspector")
    before = (tmp_path / "visits.ledger.toml").read_text()
    run = pravix("decide", visits, "--reject", "site_no -> inspector")
    assert run.status == 2
    assert "site_no -> inspector is rejected, but follows from what is accepted" in run.err
    assert "site_no -> district (visits.ledger.toml, line 3), district -> inspector" in run.err
    assert (tmp_path / "visits.ledger.toml").read_text() == before


@pytest.mark.parametrize("text", ["district inspector", "district -> nobody"])
def test_a_rule_that_cannot_be_read_is_refused(pravix, visits, tmp_path, text):
    run = pravix("decide", visits, "--accept", text)
    assert run.status == 2
    assert run.err.startswith("pravix: error: ")
    assert not (tmp_path / "visits.ledger.toml").exists()


def test_questions_are_asked_in_plain_words_and_can_be_left_or_taken_back(visits, tmp_path):
    done = told(tmp_path, "show\ncoincidence\nback\nstop\n")
    assert done.returncode == 0
    assert "Two rows that would be possible if it is a coincidence:" in done.stdout
    assert not (tmp_path / "visits.ledger.toml").exists()
    done = told(tmp_path, "unsure\n")
    assert done.returncode == 0
    assert not (tmp_path / "visits.ledger.toml").exists()
    done = told(tmp_path, "rule\n")
    assert "1 answer recorded in visits.ledger.toml" in done.stdout
    assert {one["standing"] for one in ledger(tmp_path)["decision"]} == {"accepted"}


def test_a_changed_file_brings_up_what_to_look_at_again(pravix, visits, tmp_path):
    pravix("decide", visits, "--accept", "district -> inspector", "--reject", "inspector -> district")
    assert pravix("decide", visits, "--json").document["look_again"] == []
    with (tmp_path / visits).open("a") as file:
        file.write("999,A1,North,Rolf,3\n")
    document = pravix("decide", visits, "--json").document
    assert document["look_again"] == [
        {"rule": "district -> inspector", "standing": "accepted", "decided_on_rows": 60, "rows": [62]},
        {"rule": "inspector -> district", "standing": "rejected", "decided_on_rows": 60, "rows": []},
    ]
    done = told(tmp_path, "stop\n")
    assert "Look again: district -> inspector was accepted on " in done.stdout
    assert "1 row of today break" in done.stdout


def test_a_misspelling_is_found_asked_about_and_patched(pravix, visits, tmp_path):
    text = (tmp_path / visits).read_text().replace("North", "Northmoor").replace("Ida", "Ida Brandt")
    text = text.replace("930,A1,Northmoor,Ida Brandt", "930,A1,Northmoor,Ida Brant")
    (tmp_path / visits).write_text(text.replace("922,A5,Northmoor", "922,A5,Nortmoor"))
    document = pravix("dependencies", visits, "--json").document
    near = {one["dependent"]: one for one in document["near_dependencies"]}
    assert {name: one["rows"] for name, one in near.items()} == {"district": [24], "inspector": [32]}
    cell = {"row": 32, "now": "Ida Brant", "instead": "Ida Brandt", "looks": "looks like a misspelling"}
    assert near["inspector"]["cells"] == [cell]
    asked = pravix("decide", visits, "--json").document["questions"]
    assert {row for one in asked for row in one.get("exceptions", [])} == {24, 32}
    assert pravix("repair", visits, "--write-patch", "fix.csv").status == 0
    patch = (tmp_path / "fix.csv").read_text()
    assert "24,district,Nortmoor,Northmoor" in patch
    assert "32,inspector,Ida Brant,Ida Brandt" in patch
    assert patch.count("\n") == 3
    pravix("repair", visits, "--patch", "fix.csv")
    assert pravix("dependencies", visits, "--json").document["near_dependencies"] == []


def test_a_rule_is_explained_with_bits_and_rows(pravix, visits):
    run = pravix("explain", visits, "district -> inspector")
    assert run.status == 0
    assert "district -> inspector is doubtful" in run.out or "district -> inspector is believed" in run.out
    assert "district came again 3 times among 6 different site_no" in run.out.replace("\n", " ").replace(
        "  ", " "
    )
    document = pravix("explain", visits, "minutes -> site_no", "--json").document
    assert document["rules"][0]["broken_by_rows"]
    assert document["rules"][0]["verdict"].startswith("minutes -> site_no is broken by")
    run = pravix("explain", visits, "site_no, minutes -> district")
    assert "holds because site_no -> district does with fewer columns" in run.out
