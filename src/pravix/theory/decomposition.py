"""Whether tables lose nothing: the chase for lossless joins, and dependency preservation.

Sources: A. V. Aho, C. Beeri and J. D. Ullman, "The theory of joins in relational databases", ACM
TODS 4(3), 1979 (lossless join); C. Beeri and P. Honeyman, "Preserving functional dependencies",
SIAM J. Computing 10(3), 1981 (preservation).
"""

from __future__ import annotations

from collections.abc import Collection, Sequence

from pravix.theory.dependency import Dependency
from pravix.theory.rule_index import RuleIndex


def is_lossless(
    columns: Collection[str], tables: Sequence[Collection[str]], dependencies: Collection[Dependency]
) -> bool:
    """Return whether the tables always join back to exactly the rows they came from.

    The chase: a tableau, kept by columns, has one row a table, with the distinguished symbol (0 here) in
    the table's own columns and a symbol of its own elsewhere. Dependencies equate symbols until nothing
    changes; the join is lossless exactly when some row is distinguished throughout. Polynomial.
    """
    tableau = {column: list(range(1, len(tables) + 1)) for column in columns}
    for place, table in enumerate(tables):
        for column in table:
            tableau[column][place] = 0
    changed = True
    while changed:
        changed = False
        for rule in dependencies:
            dependents = tableau[rule.dependent]
            determinant = [tableau[name] for name in rule.determinant]
            known = zip(*determinant, strict=True) if determinant else [()] * len(tables)
            classes: dict[tuple[int, ...], list[int]] = {}
            for place, symbols in enumerate(known):
                classes.setdefault(symbols, []).append(place)
            for places in classes.values():
                equal = {dependents[place] for place in places}
                if len(equal) > 1:
                    _equate(dependents, equal)
                    changed = True
    return any(not any(column[place] for column in tableau.values()) for place in range(len(tables)))


def _equate(column: list[int], symbols: set[int]) -> None:
    """Replace some symbols of one column by the smallest; 0 is the distinguished one."""
    least = min(symbols)
    column[:] = [least if symbol in symbols else symbol for symbol in column]


def lost_dependencies(
    tables: Sequence[Collection[str]], dependencies: Collection[Dependency]
) -> tuple[Dependency, ...]:
    """Return the dependencies that no combination of checks within single tables can enforce.

    For each rule X -> A, grow Z from X by ``closure(Z & T) & T`` for every table T until nothing
    changes; the rule is preserved when A is in Z. No projection is needed. Polynomial.
    """
    index = RuleIndex(dependencies)
    parts = [index.bits(table) for table in tables]
    return tuple(
        rule for rule in dependencies if not _is_preserved(index, index.bits(rule.columns), rule, parts)
    )


def _is_preserved(index: RuleIndex, columns: int, rule: Dependency, parts: Sequence[int]) -> bool:
    if any(not columns & ~part for part in parts):
        return True
    reached, before = index.bits(rule.determinant), -1
    while reached != before:
        before = reached
        for part in parts:
            reached |= index.closure(reached & part) & part
    return bool(reached & index.bits([rule.dependent]))
