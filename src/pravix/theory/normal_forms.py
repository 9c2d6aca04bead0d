"""Which normal form a table is in, and the dependency that keeps it from the next one.

Sources: E. F. Codd, "Further normalization of the data base relational model", 1972 (2NF, 3NF);
C. Zaniolo, "A new normal form for the design of relational database schemata", ACM TODS 7(3), 1982
(the definition of 3NF used here); Codd, "Recent investigations into relational data base systems",
1974 (BCNF).
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import Enum

from pravix.theory.closure import closure
from pravix.theory.dependency import Dependency
from pravix.theory.keys import candidate_keys, minimised_key
from pravix.theory.projection import projected
from pravix.theory.rule_index import RuleIndex


class Form(Enum):
    """The normal forms told apart here, in rising order."""

    FIRST = "1NF"
    SECOND = "2NF"
    THIRD = "3NF"
    BOYCE_CODD = "BCNF"

    @property
    def third(self) -> bool:
        """Whether a table in this form is in third normal form."""
        return self in (Form.THIRD, Form.BOYCE_CODD)


class Breach(Enum):
    """Why a dependency keeps a table from a normal form."""

    PARTIAL = "partial"
    TRANSITIVE = "transitive"
    PRIME = "prime"


@dataclass(frozen=True)
class NormalForm:
    """The normal form of a table with its keys and the dependencies that keep it there.

    ``offenders`` lists, for the next higher form, each offending dependency with its breach; it is
    empty in BCNF.
    """

    form: Form
    keys: tuple[frozenset[str], ...]
    offenders: tuple[tuple[Dependency, Breach], ...]


def breach_of(rule: Dependency, keys: Sequence[frozenset[str]]) -> Breach:
    """Return how a dependency whose determinant is no superkey breaks a normal form.

    A dependent that stands in a key breaks BCNF only. Otherwise the dependency is partial where the
    determinant is a proper part of some key (2NF is broken), and transitive elsewhere (3NF is).
    """
    if any(rule.dependent in key for key in keys):
        return Breach.PRIME
    if any(rule.determinant < key for key in keys):
        return Breach.PARTIAL
    return Breach.TRANSITIVE


def normal_form(columns: Collection[str], dependencies: Collection[Dependency]) -> NormalForm:
    """Return the normal form of a table with these columns under dependencies of the whole scheme.

    The dependencies are projected on the columns first; see ``projected`` for the cost, and
    ``candidate_keys`` for that of the keys.

    >>> from pravix.theory.dependency import parse_dependencies
    >>> rules = [parse_dependencies(text)[0] for text in ("drum -> keeper", "keeper -> village")]
    >>> found = normal_form(["drum", "keeper", "village"], rules)
    >>> found.form.value
    '2NF'
    >>> [(str(rule), breach.value) for rule, breach in found.offenders]
    [('keeper -> village', 'transitive')]
    """
    return form_within(columns, projected(dependencies, columns))


def form_within(columns: Collection[str], inside: Collection[Dependency]) -> NormalForm:
    """Return the normal form of a table with these columns, given the cover of what follows within them."""
    keys = candidate_keys(columns, inside)
    partial = _partial(keys, inside)
    if partial:
        return NormalForm(Form.FIRST, keys, tuple((rule, Breach.PARTIAL) for rule in partial))
    index = RuleIndex(inside)
    table = index.bits(columns)
    breaches = [
        (rule, breach_of(rule, keys))
        for rule in inside
        if not index.reaches(index.bits(rule.determinant), table)
    ]
    transitive = tuple(found for found in breaches if found[1] is not Breach.PRIME)
    if transitive:
        return NormalForm(Form.SECOND, keys, transitive)
    return NormalForm(Form.THIRD if breaches else Form.BOYCE_CODD, keys, tuple(breaches))


def _partial(keys: Sequence[frozenset[str]], inside: Collection[Dependency]) -> list[Dependency]:
    """Return dependencies of a non-prime column on a minimal proper part of a key."""
    prime = frozenset().union(*keys)
    found: dict[Dependency, None] = {}
    for key in keys:
        for left_out in sorted(key):
            part = key - {left_out}
            for dependent in sorted(closure(part, inside) - prime):
                determinant = minimised_key(part, {dependent}, inside)
                found[Dependency(determinant, dependent)] = None
    return list(found)
