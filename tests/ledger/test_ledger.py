"""The ledger: what is written there is read, and mistakes are named with their place."""

import pytest

from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
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
        ledger.check(COLUMNS, "sheet.csv")
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
        ("[[decision]]\nrule = 3\nstanding = 'accepted'\n", "line 2: rule must be a text in quotes"),
        ("[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'maybe'\n", "must be accepted or rejected"),
        ("[[decision]]\nrule = 'drum_no honey'\nstanding = 'accepted'\n", "line 2: rule: no arrow"),
        (
            "[[decision]]\nrule = 'drum -> honey'\nstanding = 'accepted'\n",
            "line 2: sheet.csv has no column drum",
        ),
        ("[[decision]]\nstanding = 'accepted'\n", "line 1: the decision has no rule"),
        (
            "[reading]\nheader = '1'\n\n[[decision]]\nrule = 'drum_no -> honey'\n# why?\nstandin = 'accepted'\n"
            "standing = 'accepted'\n",
            "line 7: unknown key standin",
        ),
        (
            "[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'accepted'\non = 'May'\n",
            "line 4: on must be a date like 2026-05-04",
        ),
        (
            "[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'accepted'\nrows = true\n",
            "line 4: rows must be a whole number",
        ),
        (
            "[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'accepted'\n"
            "[[decision]]\nrule = 'honey -> \"net, kg\"'\nstanding = 'accepted'\n"
            "[[decision]]\nrule = 'drum_no -> \"net, kg\"'\nstanding = 'rejected'\n",
            r'drum_no -> "net, kg" is rejected \(.*line 8\), but follows from what is accepted: '
            r'drum_no -> honey \(.*line 2\), honey -> "net, kg" \(.*line 5\)',
        ),
        (
            "[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'accepted'\n"
            "[[decision]]\nrule = 'drum_no -> honey'\nstanding = 'rejected'\n",
            r"line 5: drum_no -> honey is both accepted and rejected \(sheet.ledger.toml, line 2\)",
        ),
    ],
)
def test_mistakes_are_named_with_their_place(read, text, message):
    with pytest.raises(InputError, match=message):
        read(text)
