"""Random tables and rules for the tests, and what they are compared with: definitions, spelled out."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from itertools import combinations

from hypothesis import strategies as st

from pravix.discovery.discovered import Blanks
from pravix.relation.relation import Relation
from pravix.theory.dependency import Dependency, dependency

LETTERS = "ABCDEF"


def rules(*texts: str) -> list[Dependency]:
    """``rules("AB C", "C A")`` reads one letter a column: A and B determine C, C determines A."""
    return [dependency(left, one) for text in texts for left, right in [text.split(" ")] for one in right]


def sets(*texts: str) -> set[frozenset[str]]:
    return {frozenset(text) for text in texts}


@st.composite
def random_rules(draw: st.DrawFn, columns: str = LETTERS, most: int = 7) -> list[Dependency]:
    left = st.frozensets(st.sampled_from(columns), max_size=3)
    return draw(st.lists(st.builds(Dependency, left, st.sampled_from(columns)), max_size=most))


@st.composite
def tables(draw: st.DrawFn, most_columns: int = 5, most_rows: int = 12) -> Relation:
    """Small tables over few values, so that rules, blanks, constants and equal rows are common."""
    width = draw(st.integers(1, most_columns))
    values = draw(st.sampled_from([["a", "b"], ["", "a", "b"], ["", "a", "b", "c", "d"]]))
    row = st.lists(st.sampled_from(values), min_size=width, max_size=width)
    rows = draw(st.lists(row, min_size=1, max_size=most_rows))
    return Relation.from_rows(LETTERS[:width], rows)


def subsets(columns: Iterable[str]) -> list[frozenset[str]]:
    """All subsets, the small ones first."""
    names = sorted(columns)
    return [frozenset(chosen) for size in range(len(names) + 1) for chosen in combinations(names, size)]


def naive_closure(columns: Iterable[str], given: Collection[Dependency]) -> frozenset[str]:
    reached = set(columns)
    for _ in range(len(given) + 1):
        reached |= {rule.dependent for rule in given if rule.determinant <= reached}
    return frozenset(reached)


def agree(one: Sequence[str], other: Sequence[str], blanks: Blanks) -> bool:
    return all(a == b and (a != "" or blanks is Blanks.EQUAL) for a, b in zip(one, other, strict=True))


def holds(relation: Relation, rule: Dependency, blanks: Blanks = Blanks.EQUAL) -> bool:
    """The definition: no two rows agree on the determinant and not on the dependent."""
    left = relation.project(sorted(rule.determinant)).rows() or [()] * relation.row_count
    right = relation.project([rule.dependent]).rows()
    return not any(
        agree(left[i], left[j], blanks) and not agree(right[i], right[j], blanks)
        for i, j in combinations(range(relation.row_count), 2)
    )


def minimal_dependencies(relation: Relation, blanks: Blanks) -> set[Dependency]:
    found: set[Dependency] = set()
    for name in relation.names:
        smaller: list[frozenset[str]] = []
        for left in subsets(set(relation.names) - {name}):
            if not any(part <= left for part in smaller) and holds(relation, Dependency(left, name), blanks):
                smaller.append(left)
        found |= {Dependency(left, name) for left in smaller}
    return found


def minimal_keys(relation: Relation, blanks: Blanks) -> set[frozenset[str]]:
    found: list[frozenset[str]] = []
    for key in subsets(relation.names):
        rows = relation.project(sorted(key)).rows() or [()] * relation.row_count
        unique = not any(agree(one, other, blanks) for one, other in combinations(rows, 2))
        if unique and not any(part <= key for part in found):
            found.append(key)
    return set(found)
