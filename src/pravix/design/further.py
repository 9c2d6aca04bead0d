"""Beyond third normal form, where that is wished: tables split until they are in Boyce-Codd normal form.

Source: E. F. Codd, "Recent investigations into relational data base systems", 1974; the split by an offending
dependency as in J. D. Ullman, "Principles of Database Systems", 1982. The join stays lossless; a rule may be
lost, which no single table can check any more.
"""

from __future__ import annotations

from collections.abc import Sequence

from pravix.theory.normal_forms import Form
from pravix.theory.rule_set import RuleSet

Columns = frozenset[str]


def split_to_bcnf(tables: Sequence[Columns], rules: RuleSet) -> list[Columns]:
    """Return the columns of tables, those below Boyce-Codd normal form split as far as nothing is lost.

    A split is left out where the rows could no longer be put together key by key. Polynomial in the tables
    and rules for each split, but for the projections of the rules (see ``projected``).

    >>> from pravix.theory.dependency import parse_dependencies
    >>> rules = RuleSet(parse_dependencies("place, day -> keeper") + parse_dependencies("keeper -> place"))
    >>> [sorted(one) for one in split_to_bcnf([frozenset({"place", "day", "keeper"})], rules)]
    [['keeper', 'place'], ['day', 'keeper']]
    """
    found, refused = list(tables), set[tuple[Columns, Columns]]()
    again = True
    while again:
        again = False
        for place, columns in enumerate(found):
            told = rules.form(columns)
            if told.form is not Form.THIRD:
                continue
            for rule, _ in told.offenders:
                apart = rules.closure(rule.determinant) & columns
                rest = columns - (apart - rule.determinant)
                tried = [*found[:place], apart, rest, *found[place + 1 :]]
                if (columns, apart) in refused:
                    continue
                if _join_by_keys(tried, rules):
                    found, again = tried, True
                    break
                refused.add((columns, apart))
            if again:
                break
    return [
        one
        for place, one in enumerate(found)
        if not any(one < other for other in found) and one not in found[:place]
    ]


def _join_by_keys(tables: Sequence[Columns], rules: RuleSet) -> bool:
    """Return whether from one table all others are reached, each by a key of it that is known by then."""
    everything = frozenset().union(*tables)
    main = next((one for one in tables if rules.closure(one) >= everything), None)
    known, before = main or frozenset(), frozenset[str]()
    while known != before:
        before = known
        for columns in tables:
            if any(key <= known for key in rules.keys(columns)):
                known |= columns
    return known == everything
