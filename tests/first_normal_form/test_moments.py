"""A date with a separate time of day: found, merged, given back, proved, loaded, and checked next month."""

import random

import pytest
from databases import sqlite_at
from folders import folder_of
from proofs import of_rows

from pravix.document.row_hashes import by_value
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.moments import MOMENT
from pravix.first_normal_form.repairing import repaired
from pravix.loading.load import load_folder
from pravix.proof.proving import prove_folder
from pravix.relation.relation import Relation
from pravix.validation.checking import checked
from pravix.validation.new_rows import arrived_rows

NAMES = ["line", "delivery", "delivered_on", "delivered_time", "kg"]


def visits(count=60, blank=()):
    chance = random.Random(count)
    known, rows = {}, []
    for number in range(count):
        visit = chance.randrange(count // 3)
        day = f"2026-{chance.randrange(1, 13):02}-{chance.randrange(1, 29):02}"
        hour = f"{chance.randrange(6, 20):02}:{chance.choice(['00', '15', '30:30'])}"
        known.setdefault(visit, ("", "") if visit in blank else (day, hour))
        rows.append([f"L{number}", f"D{visit:02}", *known[visit], str(chance.randrange(10, 99))])
    return Relation.from_rows(NAMES, rows)


def moments(relation):
    return [finding for finding in findings(relation) if finding.topic is MOMENT]


def test_a_date_beside_one_time_is_found_and_kept_unless_asked():
    (finding,) = moments(visits())
    assert finding.columns == ("delivered_on", "delivered_time")
    assert finding.answers == ("keep", "merge")
    assert finding.preview[0] == ("delivered_at",)


@pytest.mark.parametrize(
    ("names", "rows"),
    [
        (["day", "begin", "end"], [["2026-05-04", "08:30", "09:15"], ["2026-05-05", "10:00", "10:30"]]),
        (["day", "lasted"], [["2026-05-04", "36:30"], ["2026-05-05", "48:00"]]),
        (["day", "at"], [["2026-05-04", "08:30"], ["2026-05-05", ""]]),
        (["day", "at"], [["04.05.2026", "08:30"], ["15.05.2026", "09:30"]]),
        (["day", "kg", "at"], [["2026-05-04", "4", "08:30"], ["2026-05-05", "5", "09:30"]]),
    ],
    ids=["begin and end", "a duration", "not filled together", "no ISO date", "apart"],
)
def test_what_is_no_moment(names, rows):
    assert moments(Relation.from_rows(names, rows * 10)) == []


@pytest.mark.parametrize("blank", [(), (0, 3)])
def test_merged_and_given_back_in_memory_in_a_proof_and_in_a_database(tmp_path, blank):
    relation = visits(blank=blank)
    answer = Answer("moment: delivered_on, delivered_time", "merge", name="arrival")
    made = repaired(relation, [answer])
    assert made.relation.names == ("line", "delivery", "arrival", "kg")
    assert made.differing_rows() == ()
    folder = folder_of(relation, tmp_path / "made", [answer], accepted=["delivery -> arrival"])
    assert [told.text for told in folder.design.repairs] == [
        "delivered_on and delivered_time are one moment: arrival holds both."
    ]
    assert all(holds for holds, _ in prove_folder(tmp_path / "made"))
    load_folder(folder, f"sqlite:///{tmp_path}/made.db")
    with sqlite_at(tmp_path / "made.db") as there:
        flat = folder.design.flat
        assert of_rows(there.execute("SELECT * FROM flat").fetchall(), by_value(flat.kinds)).mark == flat.mark


def test_a_changed_time_of_next_month_is_told_by_the_moment(tmp_path):
    answer = Answer("moment: delivered_on, delivered_time", "merge")
    folder = folder_of(visits(), tmp_path / "made", [answer], accepted=["delivery -> delivered_at"])
    again = Relation.from_rows(NAMES, [["L60", *visits().rows()[0][1:3], "05:45", "20"]])
    (finding,) = checked(folder, arrived_rows(folder.design, again, "june.csv")).violations
    assert "delivered_at" in finding.told
    assert "05:45" in finding.told


def test_a_damaged_moment_fails_the_proof(tmp_path):
    answer = Answer("moment: delivered_on, delivered_time", "merge")
    folder = folder_of(visits(), tmp_path / "made", [answer], accepted=["delivery -> delivered_at"])
    file = tmp_path / "made" / folder.table("delivery").file
    text = file.read_text(encoding="utf-8")
    assert ":15" in text
    file.write_text(text.replace(":15", ":16", 1), encoding="utf-8")
    assert any(
        "the first that differs" in told for holds, told in prove_folder(tmp_path / "made") if not holds
    )
