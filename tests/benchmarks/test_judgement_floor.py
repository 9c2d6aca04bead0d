"""A small version of the judgement's benchmark: a changed weight that harms is seen here."""

import pytest
from mutated import Figures, measured

FLOOR = Figures(f1=32.42, signed=21, right=145, sure_but_wrong=5)
"""What the judgement reaches on two seeds of each family that it was not fitted on."""


@pytest.fixture(scope="module")
def found():
    return measured(range(2001, 2003), None)


def test_as_many_designs_are_right_as_before(found):
    assert found.f1 >= FLOOR.f1
    assert found.signed >= FLOOR.signed
    assert found.right >= FLOOR.right


def test_no_more_tables_are_sure_and_wrong_than_before(found):
    assert found.sure_but_wrong <= FLOOR.sure_but_wrong
