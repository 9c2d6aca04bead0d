"""Deciding about keys: asked when the rows leave it open, answered by an option or by a number."""

import os
import random
import subprocess
import tomllib

import pytest
from program import PROGRAM


@pytest.fixture
def stands(tmp_path):
    """Weighings of hives: the day and the stand tell the rows apart as well as the hive and the day do."""
    draw = random.Random(4)
    lines = ["hive,stand,day,kg"]
    for day in range(1, 25):
        hives, stands = draw.sample("ABCDEFGH", 6), draw.sample("ABCDEFGH", 6)
        for hive, stand in zip(hives, stands, strict=True):
            lines.append(f"hive {hive},the {stand} stand,2026-05-{day:02d},{draw.randrange(180, 420) / 10}")
    (tmp_path / "stands.csv").write_text("\n".join(lines) + "\n")
    return "stands.csv"


def ledger(tmp_path):
    return tomllib.loads((tmp_path / "stands.ledger.toml").read_text())


def primary_keys(pravix, sheet):
    return [table["primary_key"] for table in pravix("decompose", sheet, "--json").document["tables"]]


def test_a_key_that_the_rows_leave_open_is_asked_about_and_the_answer_stands(pravix, stands, tmp_path):
    (question,) = pravix("decide", stands, "--json").document["questions"]
    assert question["kind"] == "key"
    assert ["hive", "day"] in question["choices"]
    assert len(question["if_chosen"]) == len(question["choices"])
    run = pravix("decide", stands, "--key", "hive, day", "--why", "weighed daily", "--by", "Ada")
    assert "key: hive, day" in run.out
    assert "No question is left." in run.out
    assert ledger(tmp_path)["key"][0]["says"] == "key"
    assert primary_keys(pravix, stands) == [["hive", "day"]]
    document = pravix("decompose", stands, "--json").document
    assert document["row_key"] == {"columns": ["hive", "day"], "confidence": 1.0, "confidence_told": "sure"}


def test_what_is_no_key_is_not_taken_and_a_wider_one_is(pravix, stands):
    run = pravix("decide", stands, "--not-key", "stand, day", "--not-key", "hive, day", "--json")
    choices = [choice for one in run.document["questions"] for choice in one.get("choices", [])]
    assert ["hive", "day"] not in choices
    assert primary_keys(pravix, stands)[-1] not in (["hive", "day"], ["stand", "day"])


def test_a_key_that_the_rows_break_is_one_line_and_nothing_is_recorded(pravix, stands, tmp_path):
    run = pravix("decide", stands, "--key", "hive")
    assert run.status == 2
    assert "agree on hive, which is to identify a row" in run.err
    assert not (tmp_path / "stands.ledger.toml").exists()
    assert "Write it like this: --key" in pravix("decide", stands, "--key", "a -> b").err


def test_a_question_about_a_key_is_answered_by_its_number(stands, tmp_path):
    done = subprocess.run(
        [str(PROGRAM), "decide", stands, "--by", "Ada"],
        cwd=tmp_path, input="show\n1\n", capture_output=True, text=True, encoding="utf-8",
        env=os.environ | {"PYTHONUTF8": "1", "COLUMNS": "100"}, check=False, timeout=120,
    )  # fmt: skip
    assert "Which of them identifies a row, next month too?" in done.stdout
    assert "Two rows of the file:" in done.stdout
    assert "1 answer recorded" in done.stdout
    (key,) = ledger(tmp_path)["key"]
    assert (key["says"], key["by"]) == ("key", "Ada")


def test_what_others_refer_by_is_what_was_said(pravix, tmp_path):
    draw = random.Random(6)
    kinds = [("RA", "rapeseed honey"), ("CL", "clover honey"), ("LI", "lime honey"), ("HE", "heather honey")]
    lines = ["jar_no,code,honey,price,grams"]
    for number in range(200):
        code, honey = draw.choice(kinds)
        lines.append(f"{5000 + number},{code},{honey},{len(honey)}.50,{draw.randrange(200, 900)}")
    (tmp_path / "jars.csv").write_text("\n".join(lines) + "\n")
    assert ["code"] in primary_keys(pravix, "jars.csv")
    told = pravix("decide", "jars.csv", "--refer-by", "honey").out
    assert "refer by: honey" in told
    assert "No table is known by" not in told
    assert ["code"] not in primary_keys(pravix, "jars.csv")


def test_what_no_table_can_be_known_by_is_told(pravix, tmp_path):
    rows = [("K1", "Ada Moss"), ("K2", "Ada Moss"), ("K3", "Nora Lind")]
    lines = ["delivery_no,keeper_no,keeper,kg"]
    lines += [",".join((str(5000 + n), *rows[n % 3], str(n * 7 % 90))) for n in range(60)]
    (tmp_path / "deliveries.csv").write_text("\n".join(lines) + "\n")
    run = pravix("decide", "deliveries.csv", "--refer-by", "keeper")
    assert run.status == 0
    assert "No table is known by keeper yet: nothing is believed to follow from it." in run.out
    assert "No table is known" not in pravix("decide", "deliveries.csv", "--refer-by", "keeper_no").out
