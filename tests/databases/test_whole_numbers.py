"""Arithmetic by whole numbers is that of decimals, to the last digit and in every rounding."""

from datetime import date
from decimal import ROUND_HALF_EVEN, ROUND_HALF_UP, Decimal

import pytest
from databases import sqlite_at
from hypothesis import given
from hypothesis import strategies as st

from pravix.databases.known import database
from pravix.databases.number import Number

FIRST = date(1900, 1, 1)
CELLS = st.integers(-(10**6), 10**6)


def in_sqlite(sql):
    with sqlite_at(":memory:") as connection:
        return connection.execute(f"SELECT {sql}").fetchone()[0]


def exactly(operation, one, other):
    if operation == "/":
        return one / other
    if operation == "%":
        return 100 * one / other
    return {"+": one + other, "sum": one + other, "-": one - other, "*": one * other}[operation]


@pytest.mark.parametrize("operation", ["+", "sum", "-", "*", "/", "%"])
@pytest.mark.parametrize("rounding", [ROUND_HALF_UP, ROUND_HALF_EVEN])
@given(one=CELLS, other=CELLS.filter(bool), scale=st.integers(0, 3))
def test_an_operation_rounds_as_decimals_do(operation, rounding, one, other, scale):
    left, right = Decimal(one).scaleb(-2), Decimal(other).scaleb(-1)
    numbers = [Number(f"({left})", 2), Number(f"({right})", 1)]
    found = in_sqlite(database("sqlite").computed(operation, numbers, scale, rounding))
    wanted = exactly(operation, left, right).quantize(Decimal(1).scaleb(-scale), rounding)
    assert Decimal(repr(found)).quantize(Decimal(1).scaleb(-scale)) == wanted


@pytest.mark.parametrize("operation", ["/", "%"])
def test_nothing_is_divided_by_nought(operation):
    numbers = [Number("1.50", 2), Number("0.0", 1)]
    assert in_sqlite(database("sqlite").computed(operation, numbers, 2, ROUND_HALF_UP)) is None


@given(
    born=st.dates(min_value=FIRST),
    now=st.dates(min_value=FIRST),
)
def test_years_between_dates_are_those_of_birthdays(born, now):
    found = in_sqlite(database("sqlite").years(f"'{born}'", f"'{now}'"))
    passed = now.year - born.year - ((now.month, now.day) < (born.month, born.day))
    assert found == (passed if now >= born else None)
