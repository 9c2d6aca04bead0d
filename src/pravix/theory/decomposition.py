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

    The chase: a tableau has one row a table, with the distinguished symbol (0 here) in the table's
    own columns and a symbol of its own elsewhere. Dependencies equate symbols until nothing changes;
    the join is lossless exactly when some row is distinguished throughout. Polynomial.
    """
    tableau = [
        dict.fromkeys(columns, number) | dict.fromkeys(table, 0) for number, table in enumerate(tables, 1)
    ]
    changed = True
    while changed:
        changed = False
        for rule in dependencies:
            determinant = tuple(rule.determinant)
            classes: dict[tuple[int, ...], list[dict[str, int]]] = {}
            for row in tableau:
                classes.setdefault(tuple([row[name] for name in determinant]), []).append(row)
            for rows in (some for some in classes.values() if len(some) > 1):
                symbols = {row[rule.dependent] for row in rows}
                if len(symbols) > 1:
                    _equate(tableau, rule.dependent, symbols)
                    changed = True
    return any(not any(row.values()) for row in tableau)


def _equate(tableau: list[dict[str, int]], column: str, symbols: set[int]) -> None:
    """Replace the symbols of one column by the smallest; 0 is the distinguished one."""
    for row in tableau:
        if row[column] in symbols:
            row[column] = min(symbols)


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
