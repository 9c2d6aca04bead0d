"""Recording: answers are added, and what a person typed stays as it is."""

from datetime import date

from pravix.first_normal_form.answer import Answer
from pravix.ledger.ledger import Decision, read_ledger
from pravix.ledger.recording import record
from pravix.sources.reading import Reading
from pravix.theory.dependency import dependency

TYPED = """# my own words

[reading]
header = "4"  # two lines of title

[[repair]]
finding = "list: forage"   # asked Ada
answer = "keep"

[[decision]]
rule = "drum_no -> honey"
standing = "accepted"
"""


def test_comments_and_order_are_kept(tmp_path):
    path = tmp_path / "a.ledger.toml"
    path.write_text(TYPED)
    answers = [Answer("list: forage", "split"), Answer("computed: net", "leave out", why="gross - tare")]
    record(str(path), answers, Reading(fill=("keeper",), patch=str(tmp_path / "p.csv")))
    text = path.read_text()
    for kept in ("# my own words", "# two lines of title", "# asked Ada", 'rule = "drum_no -> honey"'):
        assert kept in text
    ledger = read_ledger(str(path))
    assert ledger.reading == Reading(header=(4, 4), fill=("keeper",), patch="p.csv")
    assert ledger.answers == (
        Answer("list: forage", "split"),
        Answer("computed: net", "leave out", why="gross - tare"),
    )
    assert len(ledger.accepted) == 1
    assert [entry.name for entry in tmp_path.iterdir()] == ["a.ledger.toml"]


def test_a_new_ledger_says_what_it_is(tmp_path):
    path = tmp_path / "a.ledger.toml"
    record(str(path), [Answer("one fact: a, b", "merge", name="kind")], Reading(header=(2, 3)))
    assert path.read_text().startswith("# Decisions about this file")
    ledger = read_ledger(str(path))
    assert ledger.reading.header == (2, 3)
    assert ledger.answers == (Answer("one fact: a, b", "merge", name="kind"),)


def test_a_decision_is_recorded_with_what_it_was_made_on_and_can_be_changed(tmp_path):
    path = tmp_path / "a.ledger.toml"
    path.write_text(TYPED)
    rule = dependency(["drum_no"], "honey")
    made = Decision(rule, False, "refilled", "", date(2026, 5, 4), "Ada", 412, "9f1c")
    record(str(path), decisions=[made])
    (found,) = read_ledger(str(path)).decisions
    assert (found.accepted, found.why, found.on, found.by) == (False, "refilled", date(2026, 5, 4), "Ada")
    assert (found.rows, found.fingerprint) == (412, "9f1c")
    assert "# asked Ada" in path.read_text()
    record(str(path), decisions=[Decision(rule, True)])
    (found,) = read_ledger(str(path)).decisions
    assert (found.accepted, found.why, found.rows) == (True, "", None)


def test_one_of_several_rules_can_be_decided_otherwise(tmp_path):
    path = tmp_path / "a.ledger.toml"
    path.write_text("[[decision]]\nrule = 'drum_no -> honey, tare'  # both\nstanding = 'accepted'\n")
    record(str(path), decisions=[Decision(dependency(["drum_no"], "tare"), False, "scales")])
    assert {(str(one.rule), one.accepted) for one in read_ledger(str(path)).decisions} == {
        ("drum_no -> honey", True),
        ("drum_no -> tare", False),
    }
