"""Types from texts."""

import pytest

from pravix.relation.relation import Column
from pravix.relation.types import Kind, column_type, shape


@pytest.mark.parametrize(
    ("texts", "expected"),
    [
        (["1", "20", "-3"], "integer"),
        (["007", "012"], "code 999"),
        (["007", "1200"], "code(4)"),
        (["1.5", "20", "3.25"], "decimal(4,2)"),
        (["12.90", "9.40"], "decimal(4,2)"),
        (["2026-05-01", "2026-12-31"], "date"),
        (["2026-02-30"], "code 9999-99-99"),
        (["07:30", "23:59"], "time"),
        (["yes", "no"], "yes/no"),
        (["yes", "maybe"], "text(5)"),
        (["2026-05-01 07:30", "2026-05-01T08:15:30"], "date and time"),
        (["24.12.2026", "1.5.2026"], "date"),
        (["x", ""], "yes/no"),
        (["K-101", "K-144"], "code A-999"),
        (["RAP", "CLO"], "code(3)"),
        (["Rapeseed", "White clover"], "text(12)"),
        (["", "12"], "integer"),
        (["", ""], "empty"),
        (["1e5", "2e5"], "code 9a9"),
        (["99999999999999999999"], "code 99999999999999999999"),
        (["1.7457154989242554", "2.5"], "text(18)"),
        (["3.9e-06", "0.25", "1E+3"], "text(7)"),
    ],
)
def test_the_type_is_the_narrowest_that_all_values_fit(texts, expected):
    assert str(column_type(Column.from_texts("any", texts))) == expected


@pytest.mark.parametrize(
    ("texts", "reason"),
    [
        (["24.12.2026", "01.02.2026"], "day before month, as 24.12.2026 shows"),
        (["12/24/2026", "01/02/2026"], "month before day, as 12/24/2026 shows"),
        (["24/12/2026", "12/24/2026"], "two orders of day and month: 24/12/2026 and 12/24/2026"),
        (["01/02/2026"], "no value tells whether the day or the month comes first"),
        (["007", "012"], "every value looks like 999, leading zeros kept"),
        (["007", "1200"], "numbers with leading zeros"),
        ([""], "all cells are blank"),
    ],
)
def test_the_reason_is_told_and_nothing_is_guessed(texts, reason):
    assert column_type(Column.from_texts("any", texts)).reason == reason


def test_a_few_exceptions_are_named():
    found = column_type(Column.from_texts("kg", [*map(str, range(60)), "n/a"]))
    assert (found.kind, found.nearly, found.exceptions) == (Kind.TEXT, Kind.INTEGER, ("n/a",))


@pytest.mark.parametrize(
    ("texts", "floats"),
    [
        (["1.7457154989242554", "-0.6931471824645996"], True),
        (["3.9e-06", "0.25", "1E+3"], True),
        (["1.5", "2.25"], False),
        (["1e5", "2e5"], False),
        (["1.7457154989242554", "007.5"], False),
        (["1.7457154989242554", "n/a"], False),
        (["99999999999999999999", "1.5"], False),
    ],
)
def test_numbers_that_only_texts_keep_are_told_and_meant_as_decimals(texts, floats):
    found = column_type(Column.from_texts("moisture", texts))
    assert found.floats is floats
    assert (found.meant is Kind.DECIMAL) is (floats or found.kind is Kind.DECIMAL)
    if floats:
        assert found.remarkable
        assert found.reason == "numbers with more than 15 decimal places, or with an exponent"


def test_a_shape_keeps_what_is_no_letter_or_digit():
    assert shape("K-14 äÖ") == "A-99 aA"


@pytest.mark.parametrize(
    ("texts", "expected"),
    [
        (["a1-B2", "c3-D4"], "code a9-A9"),
        (["a1-B2", "c3-D4x"], "text(6)"),
        (["a1-bB", "a1b-B"], "text(5)"),
        (["a1", "1a", "a1"], "text(2)"),
        (["é1", "ß٣"], "code a9"),
    ],
)
def test_one_shape_is_told_of_all_values_at_once_and_is_still_each_value_s(texts, expected):
    assert str(column_type(Column.from_texts("any", texts))) == expected
