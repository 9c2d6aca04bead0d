"""The ledger: what is written there is read, and mistakes are named with their place."""

import pytest

from pravix.atomic.answer import Answer
from pravix.errors import InputError
from pravix.ledger.ledger import default_path, read_ledger
from pravix.sources.reading import Reading
from pravix.theory.dependency import dependency

COLUMNS = ("drum_no", "honey", "net, kg")


@pytest.fixture
def read(tmp_path):
    def reading(text):
        path = tmp_path / "sheet.ledger.toml"
        path.write_text(text, encoding="utf-8")
        ledger = read_ledger(str(path))
        ledger.check_columns(COLUMNS, "sheet.csv")
        return ledger

    return reading


def test_decisions_with_their_reasons(read):
    ledger = read(
        """
        # kept by hand
        [[decision]]
        rule = "drum_no -> honey"
        standing = "accepted"
        why = "a drum is filled once"

        [[decision]]
        rule = '"net, kg" -> honey, drum_no'
        standing = "rejected"
        """
    )
    assert ledger.accepted == (dependency(["drum_no"], "honey"),)
    assert ledger.rejected == (dependency(["net, kg"], "honey"), dependency(["net, kg"], "drum_no"))
    assert ledger.decisions[0].why == "a drum is filled once"


def test_a_missing_ledger_is_empty(tmp_path):
    assert read_ledger(str(tmp_path / "none.toml")).decisions == ()


def test_wishes_about_reading_and_answers_to_findings(read):
    ledger = read(
        '[reading]\nheader = "4-5"\nfill = ["keeper"]\n[[repair]]\nfinding = "list: a"\nanswer = "split"\n'
    )
    assert ledger.reading == Reading(header=(4, 5), fill=("keeper",))
    assert ledger.answers == (Answer("list: a", "split"),)


def test_the_ledger_stands_beside_its_source():
    assert default_path("-") is None
    assert default_path("sqlite:///x.db") is None
    assert default_path("in/sheet.csv.gz") == "in/sheet.ledger.toml"


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("[reading]\nheader = 4\n", "reading: header is unknown or of the wrong kind"),
        ("[reading]\nheader = 'x'\n", 'header must be a row like "4" or "4-5"'),
        ("[[repair]]\nfinding = 'list: a'\n", "repair 1: write finding, answer"),
        ("reading = 3\n", "unknown entry reading"),
        ("[[decision]\n", r"sheet.ledger.toml is not a TOML file: .*line 1"),
        ("[[decisions]]\nrule = 'a -> b'\n", "unknown entry decisions"),
        ("decision = 3\n", "unknown entry decision"),
        ("[[decision]]\nrule = 3\nstanding = 'accepted'\n", "decision 1: write rule, standing"),
        ("[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'maybe'\n", "must be accepted or rejected"),
        ("[[decision]]\nrule = 'drum_no honey'\nstanding = 'accepted'\n", "decision 1: no arrow"),
        ("[[decision]]\nrule = 'drum -> honey'\nstanding = 'accepted'\n", "sheet.csv has no column drum"),
        (
            "[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'accepted'\n"
            "[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'rejected'\n",
            "decision 2: drum_no -> honey is both accepted and rejected",
        ),
    ],
)
def test_mistakes_are_named_with_their_place(read, text, message):
    with pytest.raises(InputError, match=message):
        read(text)
