"""Types from texts."""

import pytest

from pravix.relation.relation import Column
from pravix.relation.types import column_type, shape


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
        (["K-101", "K-144"], "code A-999"),
        (["RAP", "CLO"], "code(3)"),
        (["Rapeseed", "White clover"], "text(12)"),
        (["", "12"], "integer"),
        (["", ""], "empty"),
        (["1e5", "2e5"], "code 9a9"),
        (["99999999999999999999"], "code 99999999999999999999"),
    ],
)
def test_the_type_is_the_narrowest_that_all_values_fit(texts, expected):
    assert str(column_type(Column.from_texts("any", texts))) == expected


def test_a_shape_keeps_what_is_no_letter_or_digit():
    assert shape("K-14 äÖ") == "A-99 aA"
