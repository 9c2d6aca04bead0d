"""What is decided about keys: read, held against each other and against the rows, and recorded."""

import pytest

from pravix.errors import InputError
from pravix.ledger.key_decisions import KeyDecision, Says, check_in_rows, said_of, with_added
from pravix.ledger.ledger import read_ledger
from pravix.ledger.recording import record
from pravix.relation.relation import Relation

HIVES = ["hive_no", "day", "kg"]


def key(*columns, says=Says.KEY):
    return KeyDecision(columns, says)


def read(tmp_path, text):
    path = tmp_path / "hives.ledger.toml"
    path.write_text(text, encoding="utf-8")
    return read_ledger(str(path))


def test_what_is_said_of_keys_is_read(tmp_path):
    ledger = read(
        tmp_path,
        '[[key]]\ncolumns = ["hive_no", "day"]\nsays = "key"\nwhy = "weighed once a day"\n'
        '[[key]]\ncolumns = ["kg"]\nsays = "not key"\n[[key]]\ncolumns = ["hive_no"]\nsays = "refer by"\n',
    )
    assert ledger.said.key == {"hive_no", "day"}
    assert ledger.said.not_keys == (frozenset({"kg"}),)
    assert ledger.said.refer_by == (frozenset({"hive_no"}),)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("[[key]]\ncolumns = []\nsays = 'key'", "line 2: columns must be a list of names"),
        ("[[key]]\ncolumns = ['kg']\nsays = 'maybe'", "line 3: says must be key, not key or refer by"),
        ("[[key]]\ncolumns = 'kg'\nsays = 'key'", "line 2: columns must be a list of names"),
        ("[[key]]\ncolumns = ['kg']\nsays = 'key'\nsure = true", "line 4: unknown key sure"),
        ("key = ['kg']", "a decision about a key must be a [[key]] entry"),
    ],
)
def test_what_cannot_be_read_is_named_with_its_line(tmp_path, text, told):
    with pytest.raises(InputError) as error:
        read(tmp_path, text)
    assert told in str(error.value)


def test_a_row_has_one_key_and_columns_are_one_thing():
    said = with_added((), [key("kg"), key("hive_no", "day"), key("day", says=Says.REFER_BY)])
    assert [one.columns for one in said] == [("hive_no", "day"), ("day",)]
    denied = with_added(said, [key("day", "hive_no", says=Says.NOT_KEY)])
    assert said_of(denied).key is None


def test_decisions_that_contradict_or_name_no_column_are_refused(tmp_path):
    ledger = read(tmp_path, "").with_key_decisions([key("kg", "day", says=Says.NOT_KEY), key("kg")])
    with pytest.raises(InputError, match=r"kg identifies a row, and kg and day does not"):
        ledger.check(HIVES, "hives.csv")
    with pytest.raises(InputError, match=r"hives.csv has no column weight"):
        ledger.with_key_decisions([key("weight")]).check(HIVES, "hives.csv")


def test_rows_that_break_a_key_are_named():
    rows = [["H1", "1", "20"], ["H2", "", "21"], ["H1", "1", "22"]]
    relation = Relation.from_rows(HIVES, rows)
    with pytest.raises(InputError, match=r"hives.csv, rows 2 and 4 agree on hive_no"):
        check_in_rows([key("hive_no")], relation, "hives.csv")
    with pytest.raises(InputError, match=r"hives.csv, row 3: kg and day are to identify a row and blank"):
        check_in_rows([key("kg", "day")], relation, "hives.csv")
    check_in_rows([key("kg"), key("hive_no", says=Says.REFER_BY)], relation, "hives.csv")


def test_what_is_recorded_is_read_again_and_the_rest_stays(tmp_path):
    path = tmp_path / "hives.ledger.toml"
    path.write_text('# ours\n[[key]]\ncolumns = ["kg"]\nsays = "key"\n', encoding="utf-8")
    record(str(path), key_decisions=[key("hive_no", "day"), key("kg", says=Says.NOT_KEY)])
    ledger = read_ledger(str(path))
    assert ledger.said.key == {"hive_no", "day"}
    assert ledger.said.not_keys == (frozenset({"kg"}),)
    assert path.read_text(encoding="utf-8").startswith("# ours")
