"""The functional dependency, and the text in which people write it.

Written form: ``a, b -> c``. A name that holds a comma, an arrow, a quote or an outer space stands in
double quotes, and a quote inside is doubled: ``"net, kg" -> "the ""good"" one"``. An empty determinant
means that the dependent is constant: ``-> c``.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass

ARROWS = ("->", "→")

_TOKEN = re.compile(
    r"""\s*(?:
        "(?P<quoted>(?:[^"]|"")*)"
      | (?P<arrow>->|→)
      | (?P<comma>,)
      | (?P<bare>(?:(?!->)[^",→])+)
    )""",
    re.VERBOSE,
)


class DependencyTextError(ValueError):
    """The text is not a dependency; the message says where it goes wrong."""


@dataclass(frozen=True)
class Dependency:
    """The functional dependency ``determinant -> dependent`` over column names.

    Two rows that agree on every column of the determinant agree on the dependent. With an empty
    determinant the dependent is constant.
    """

    determinant: frozenset[str]
    dependent: str

    @property
    def columns(self) -> frozenset[str]:
        """All columns that the dependency mentions."""
        return self.determinant | {self.dependent}

    @property
    def trivial(self) -> bool:
        """Whether the dependent stands in its own determinant."""
        return self.dependent in self.determinant

    def __str__(self) -> str:
        return written_dependency(sorted(self.determinant), [self.dependent])


def dependency(determinant: Iterable[str], dependent: str) -> Dependency:
    """Return the dependency of one column on any iterable of columns."""
    return Dependency(frozenset(determinant), dependent)


def written_name(name: str) -> str:
    """Return a column name as it stands in a written dependency, quoted where it must be."""
    plain = name and name == name.strip() and not any(mark in name for mark in (",", '"', *ARROWS))
    return name if plain else '"' + name.replace('"', '""') + '"'


def written_names(names: Iterable[str]) -> str:
    """Return several column names as one side of a written dependency."""
    return ", ".join(written_name(name) for name in names)


def written_dependency(determinant: Sequence[str], dependents: Sequence[str]) -> str:
    """Return ``a, b -> c`` with both sides in the order given."""
    return f"{written_names(determinant)} -> {written_names(dependents)}".strip()


def written_in_order(rule: Dependency, order: Sequence[str]) -> str:
    """Return the written form of a rule with its determinant in the order of a header."""
    return written_dependency(in_order(rule.determinant, order), [rule.dependent])


def in_order(names: Collection[str], order: Sequence[str]) -> list[str]:
    """Return ``names`` as a list, in the order in which they stand in ``order``."""
    return [name for name in order if name in names]


def parse_dependencies(text: str) -> tuple[Dependency, ...]:
    """Parse ``a, b -> c, d`` into one dependency for each dependent.

    Raises DependencyTextError when there is not exactly one arrow, a name is missing, or a quote
    is left open. Linear in the length of the text.
    """
    sides = _sides(text)
    if len(sides) != 2:
        raise DependencyTextError(f"no arrow in: {text} (write it as: a, b -> c)")
    return tuple(dependency(sides[0], dependent) for dependent in sides[1])


def parse_columns(text: str) -> tuple[str, ...]:
    """Parse ``a, b`` into column names, quoted as in a dependency. Raises DependencyTextError as above."""
    sides = _sides(text)
    if len(sides) != 1:
        raise DependencyTextError(f"an arrow in a list of columns: {text}")
    return tuple(sides[0])


def _sides(text: str) -> list[list[str]]:
    """Return the names on each side of the arrow; one side where there is none."""
    sides: list[list[str]] = [[]]
    expecting_name = True
    for kind, value in _tokens(text):
        if kind == "arrow":
            if len(sides) == 2:
                raise DependencyTextError(f"more than one arrow in: {text}")
            if expecting_name and sides[0]:
                raise DependencyTextError(f"a name is missing before the arrow in: {text}")
            sides.append([])
            expecting_name = True
        elif kind == "comma":
            if expecting_name:
                raise DependencyTextError(f"a name is missing before a comma in: {text}")
            expecting_name = True
        else:
            if not expecting_name:
                raise DependencyTextError(f"a comma is missing before {written_name(value)} in: {text}")
            sides[-1].append(value)
            expecting_name = False
    if expecting_name:
        raise DependencyTextError(f"a name is missing at the end of: {text}")
    return sides


def _tokens(text: str) -> Iterable[tuple[str, str]]:
    position = 0
    end = len(text.rstrip())
    while position < end:
        match = _TOKEN.match(text, position, end)
        if match is None:
            raise DependencyTextError(f"a quote is left open in: {text}")
        position = match.end()
        if match["quoted"] is not None:
            yield "name", match["quoted"].replace('""', '"')
        elif match["arrow"]:
            yield "arrow", match["arrow"]
        elif match["comma"]:
            yield "comma", ","
        else:
            yield "name", match["bare"].strip()
