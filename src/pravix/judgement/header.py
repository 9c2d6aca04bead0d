"""What the header says for a rule: nouns that columns share."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from pravix.judgement.use import Use
from pravix.judgement.weights import ANOTHER_NOUN, SHARED_NOUN
from pravix.relation.words import noun, share_noun, words
from pravix.theory.dependency import Dependency


class Header:
    """The names of a table's columns, asked about rules."""

    def __init__(self, names: Sequence[str], uses: Mapping[str, Use]) -> None:
        identifying = [name for name in names if uses[name] in (Use.IDENTIFIER, Use.TITLE)]
        nouns = {tuple(noun(name)): None for name in identifying}
        self._owned = {
            name: any(tuple(words(name)[: len(one)]) == one for one in nouns if one)
            for name in names
            if name not in identifying
        }

    def names_bits(self, rule: Dependency) -> float:
        """Return what the names say: a shared noun is for a rule, the noun of another thing against it."""
        if any(share_noun(name, rule.dependent) for name in rule.determinant):
            return SHARED_NOUN
        return ANOTHER_NOUN if self._owned.get(rule.dependent) else 0.0
