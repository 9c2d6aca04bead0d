"""From the rough sheet to the design of the clean one, by answers on the command line and by questions."""

import csv
import json
import os
import subprocess
from pathlib import Path

import pytest
from databases import sqlite_at
from program import PROGRAM

from pravix import demo

ANSWERS = ["--split", "forage", "--split", "moisture_1", "--merge", "raw", "--as", "treatment",
           "--leave-out", "net_kg", "--leave-out", "amount"]  # fmt: skip


@pytest.fixture
def honey(pravix, tmp_path):
    """A folder with the demo's sheets, as `pravix demo` writes them."""
    (tmp_path / "honey").mkdir()
    for sheet in Path(demo.__file__).parent.glob("deliveries*"):
        (tmp_path / "honey" / sheet.name).write_bytes(sheet.read_bytes())
    return tmp_path / "honey"


def columns_by_key(document):
    return {
        tuple(table["primary_key"]): {column["name"] for column in table["columns"]}
        for table in document["tables"]
    }


@pytest.mark.parametrize("name", ["deliveries_rough.csv", "deliveries_office.xlsx"])
def test_the_rough_sheet_ends_in_the_design_of_the_clean_one(pravix, honey, name):
    sheet = f"honey/{name}"
    before = (honey / name).read_bytes()
    run = pravix("repair", sheet, *ANSWERS, "--write-patch", "honey/corrections.csv")
    assert "12 proposed corrections written" in run.err
    assert pravix("repair", sheet, "--patch", "honey/corrections.csv").status == 0
    run = pravix("decompose", sheet, "--out", "made", "--json")
    assert run.status == 0
    assert run.document["proof"]["lossless"]
    rough = columns_by_key(run.document)
    clean = columns_by_key(pravix("decompose", "honey/deliveries.csv", "--json").document)
    clean["delivery_no", "drum_no"] -= {"net_kg", "amount"}
    assert rough.pop(("apiary_no", "forage")) == {"apiary_no", "forage", "position"}
    assert rough.pop(("drum_no", "position")) == {"drum_no", "moisture", "position"}
    if name == "deliveries_office.xlsx":
        rough["keeper_no",] -= {"mentor", "born"}
        rough.pop(("fitting_no",))
        rough["drum_no",] -= {
            f"fitting{place}_{fact}" for place in (1, 2) for fact in ("no", "name", "price")
        }
    assert rough == clean
    children = {t["name"]: t["repairs"]["columns"] for t in run.document["tables"] if "repairs" in t}
    assert children == {
        "apiary_forage": ["forage"],
        "drum_moisture": ["moisture_1", "moisture_2", "moisture_3"],
    }
    assert (honey / name).read_bytes() == before
    told = pravix("decompose", sheet).out
    assert "net_kg is gross_kg - tare_kg in every row" in told
    assert "repaired cells included" in told


def test_questions_are_asked_one_by_one_and_can_be_left_at_any_time(pravix, honey, tmp_path):
    def ask(typed):
        return subprocess.run(
            [str(PROGRAM), "repair", "honey/deliveries_rough.csv"],
            cwd=tmp_path, input=typed, capture_output=True, text=True, encoding="utf-8", check=True, timeout=60,
            env=os.environ | {"PYTHONUTF8": "1"},
        ).stdout  # fmt: skip

    first = ask("split\nkeep\nmerge\ntreatment\nstop\n")
    assert "5 questions." in first
    assert "Give each item of forage a row of its own" in first
    second = ask("leave out\n")
    assert "2 questions." in second
    ledger = (honey / "deliveries_rough.ledger.toml").read_text()
    assert ledger.count("[[repair]]") == 4
    assert 'name = "treatment"' in ledger
    assert "Nothing is left to decide." in ask("keep\n") + ask("")


def test_findings_as_a_document(pravix, honey):
    document = pravix("repair", "honey/deliveries_rough.csv", "--json").document
    first = document["findings"][0]
    assert (document["format"], first["id"], first["answers"]) == (
        "pravix.findings",
        "list: forage",
        ["split", "keep"],
    )
    assert (
        json.loads(pravix("survey", "honey/deliveries_rough.csv", "--json").out)["findings"]
        == document["findings"]
    )


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        (["--split", "phone"], "nothing is to be decided about phone"),
        (["--merge", "forage"], "list: forage cannot be answered with merge"),
        (["--merge", "raw", "--as", "driver"], "there is a column driver already"),
        (["--write-patch", "honey/deliveries.csv"], "is there already"),
    ],
)
def test_answers_that_do_not_fit_change_nothing(pravix, honey, arguments, message):
    run = pravix("repair", "honey/deliveries_rough.csv", *arguments)
    assert run.status == 2
    assert message in run.err.splitlines()[0]
    assert not (honey / "deliveries_rough.ledger.toml").exists()


def test_a_patch_for_another_file_is_refused(pravix, honey, tmp_path):
    (tmp_path / "p.csv").write_text("row,column,now,instead,why\n4,honey,Lime,Clover,\n")
    run = pravix("survey", "honey/deliveries_rough.csv", "--patch", "p.csv")
    assert run.status == 2
    assert "p.csv, row 2: row 4, column honey of deliveries_rough.csv holds white clover, not Lime" in run.err


def test_survey_by_topic_and_figure(pravix, honey, tmp_path):
    told = pravix("survey", "honey/deliveries_rough.csv", "--topic", "one-fact").out
    assert "Put the fact into one column, raw_or_filtered" in told
    types = pravix("survey", "honey/deliveries_rough.csv", "--topic", "types").out
    assert "whole numbers without leading zeros" in types
    for name in ("bars.png", "bars.svg"):
        assert pravix("survey", "honey/deliveries.csv", "--figure", name).status == 0
        assert (tmp_path / name).stat().st_size > 5000
    assert pravix("survey", "honey/deliveries.csv", "--figure", "bars.doc").status == 2


def test_figures_of_what_repeats_of_a_rule_and_of_next_month(pravix, honey, tmp_path):
    flat, rule = "honey/deliveries.csv", "honey_code -> honey, price_kg"
    assert pravix("decompose", flat, "--out", "made", "--figure", "repeats.svg").status == 0
    assert pravix("explain", flat, rule, "--figure", "rule.svg").status == 0
    assert pravix("check", "made", "honey/deliveries_september.csv", "--figure", "found.svg").status == 1
    assert pravix("check", "made", flat, "--figure", "there.pdf").status == 1
    told = {name: (tmp_path / f"{name}.svg").read_text() for name in ("repeats", "rule", "found")}
    assert "Cells that repeat a value" in told["repeats"]
    assert "district" in told["repeats"]
    assert "honey_code -&gt; price_kg" in told["rule"]
    assert "changed fact" in told["found"]
    refused = pravix("explain", flat, "honey", "--figure", "no.svg")
    assert (refused.status, refused.err.splitlines()[0]) == (2, "pravix: error: honey is no rule")
    loading = pravix("check", "made", flat, "--load", "sqlite:///none.db", "--figure", "no.doc")
    assert "no.doc is neither PNG" in loading.err
    outside = pravix("decompose", flat, "--memory", "1kB", "--figure", "no.svg")
    assert (outside.status, outside.out) == (2, "")
    broken = pravix("explain", flat, "honey -> drum_no", "--figure", "no.svg")
    assert "the rows break honey -> drum_no" in broken.err
    assert not (tmp_path / "no.svg").exists()


def test_standard_input_and_reading_options(pravix, honey, tmp_path):
    data = (honey / "deliveries.csv").read_text().replace(",", ";")
    done = subprocess.run(
        [str(PROGRAM), "keys", "-", "--json"],
        input=data,
        capture_output=True,
        text=True,
        check=True,
        cwd=tmp_path,
    )
    assert len(json.loads(done.stdout)["candidate_keys"]) == 134
    told = pravix("survey", "honey/deliveries_office.xlsx", "--header", "4", "--last-row", "20").out
    assert "16 rows, 36 columns" in told


def test_which_table_of_a_database_is_read_is_kept_with_the_answers(pravix, honey, tmp_path):
    with (honey / "deliveries_rough.csv").open(encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)
    with sqlite_at(tmp_path / "honey.db") as made:
        made.execute(f"CREATE TABLE rough ({', '.join(header)})")
        made.executemany(f"INSERT INTO rough VALUES ({', '.join('?' * len(header))})", rows)
        made.execute("CREATE TABLE other (a TEXT)")
    source, ledger = f"sqlite:///{tmp_path}/honey.db", ["--ledger", "honey/drums.toml"]
    run = pravix("repair", source, "--table", "rough", "--split", "forage", *ledger)
    assert run.status == 0, run.err
    assert 'table = "rough"' in (honey / "drums.toml").read_text(encoding="utf-8")
    run = pravix("decompose", source, *ledger, "--json")
    assert run.status == 0, run.err
    assert any("repairs" in table for table in run.document["tables"])
