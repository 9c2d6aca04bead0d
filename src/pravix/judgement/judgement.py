"""What was judged of a table: the standing of its rules, and what the design rests on."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field

from pravix.judgement.column_roles import Probabilities
from pravix.judgement.model import reference_rank
from pravix.judgement.row_key import RankedKey
from pravix.judgement.standing import JudgedRules
from pravix.judgement.use import Use
from pravix.judgement.weights import EACH_PLACE
from pravix.ledger.said import NOTHING_SAID, Said
from pravix.theory.closure import closure, derivation
from pravix.theory.dependency import Dependency


@dataclass(frozen=True)
class Judgement:
    """All minimal rules with their standings, and what the design rests on.

    ``trusted`` are the rules that were believed or accepted one by one, ``row_keys`` the combinations that
    may identify a row of the file, best first, none where no unique combination without blanks is there.
    ``things`` says what kind of thing each column holds, ``roles`` how likely it is what, ``searched_to`` how
    large the determinants were that were searched; None where all were. ``accepted`` and ``rejected`` are the
    analyst's decisions,
    ``opaque`` the columns that hold several values in a cell, ``idle`` the rules that say no more than
    arithmetic does, ``blank`` those with a blank,
    ``keyless`` the rules whose determinant is blank in rows where the dependent is not,
    ``codelike`` those whose values look like codes, ``free`` those that hold what people call things.
    ``said`` is what the analyst says of keys, ``place`` an order of the columns that follows from their
    values, for what is equal otherwise.
    """

    rules: JudgedRules
    trusted: tuple[Dependency, ...]
    row_keys: tuple[RankedKey, ...]
    uses: Mapping[str, Use]
    roles: Mapping[str, Probabilities]
    searched_to: int | None
    accepted: tuple[Dependency, ...] = ()
    rejected: tuple[Dependency, ...] = ()
    opaque: frozenset[str] = frozenset()
    idle: frozenset[Dependency] = frozenset()
    blank: frozenset[str] = frozenset()
    keyless: frozenset[Dependency] = frozenset()
    codelike: frozenset[str] = frozenset()
    free: frozenset[str] = frozenset()
    said: Said = NOTHING_SAID
    place: Mapping[str, int] = field(default_factory=dict)

    @property
    def row_key(self) -> frozenset[str] | None:
        """The combination that identifies a row; None where there is none."""
        return self.row_keys[0].columns if self.row_keys else None

    @property
    def foundation(self) -> tuple[Dependency, ...]:
        """All that the design rests on: the trusted rules, and that the key of the file determines a row."""
        return (*self.trusted, *by_key(self.row_key, tuple(self.uses)))

    def rank(self, name: str) -> float:
        """Return how late a column is chosen to refer to something by; an added one comes first.

        No two columns of the file are alike.
        """
        wished = any(name in columns for columns in self.said.refer_by)
        return EACH_PLACE * self.place.get(name, 0) if wished else self.rank_unsaid(name)

    def rank_unsaid(self, name: str) -> float:
        """Return how late a column would be chosen where nothing was said of it."""
        if name not in self.uses:
            return 0.0
        rank = reference_rank(name, self.uses[name], name in self.codelike)
        return rank + EACH_PLACE * self.place.get(name, 0)


def by_key(row_key: frozenset[str] | None, names: Sequence[str]) -> tuple[Dependency, ...]:
    """Return the rules by which a key of the file determines every other column; none without a key."""
    return tuple(Dependency(row_key, name) for name in names if name not in row_key) if row_key else ()


def without(judgement: Judgement, rejected: Collection[Dependency]) -> tuple[Dependency, ...]:
    """Return the trusted rules less the weakest ones that together imply one that would be rejected.

    Accepted rules give way last.
    """
    firm = [rule for rule in judgement.accepted if rule not in rejected]
    return tuple(without_rejected(judgement.trusted, judgement.rules.bits, firm, rejected))


def without_rejected(
    trusted: Sequence[Dependency],
    bits: Callable[[Dependency], float],
    accepted: Collection[Dependency],
    rejected: Collection[Dependency],
) -> list[Dependency]:
    """Return trusted rules, less the weakest ones that together imply a rejected rule."""
    kept = list(trusted)
    for denied in rejected:
        while (chain := derivation(denied, kept)) is not None:
            weakest = [rule for rule in chain if rule not in accepted] or chain
            kept.remove(min(weakest, key=bits))
    return kept


def without_keys(
    trusted: Sequence[Dependency],
    bits: Callable[[Dependency], float],
    accepted: Collection[Dependency],
    said: Said,
    names: Sequence[str],
) -> list[Dependency]:
    """Return trusted rules, less the weakest ones by which what is no key would identify a row."""
    kept = list(trusted)
    for denied in said.not_keys:
        while set(names) <= closure(denied, kept):
            wanted = [Dependency(denied, name) for name in names if name not in denied]
            used = {rule for one in wanted for rule in derivation(one, kept) or ()}
            kept.remove(min(used - set(accepted) or used, key=lambda rule: (bits(rule), str(rule))))
    return kept
