"""A small version of the judgement's benchmark: a changed weight that harms is seen here."""

from mutated import Figures, measured

FLOOR = Figures(f1=33.615, signed=26, right=154, sure_but_wrong=6, missed=16.34)
"""What the judgement reaches on two seeds of each family that it was not fitted on."""


def test_the_judgement_is_as_good_and_as_honest_as_it_was():
    found = measured(range(2001, 2003), None)
    assert not found.worse_than(FLOOR), found
