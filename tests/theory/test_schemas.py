"""Schemes from the theory's literature, in letters: their keys, normal form, cover and synthesis, by hand."""

import pytest
from samples import naive_closure, rules, sets, subsets
from textbook import SCHEMES

from pravix.theory.closure import equivalent
from pravix.theory.cover import canonical_cover
from pravix.theory.keys import candidate_keys
from pravix.theory.normal_forms import normal_form
from pravix.theory.synthesis import synthesise


@pytest.mark.parametrize(("columns", "given", "keys", "form", "size", "tables"), SCHEMES)
def test_a_scheme_of_the_literature(columns, given, keys, form, size, tables):
    dependencies = rules(*given.split("; ")) if given else []
    assert set(candidate_keys(columns, dependencies)) == sets(*keys.split())
    assert normal_form(columns, dependencies).form.value == form
    cover = canonical_cover(dependencies)
    assert len(cover) == size
    assert equivalent(cover, dependencies)
    assert {scheme.columns for scheme in synthesise(columns, dependencies)} == sets(*tables.split())


def test_a_scheme_with_a_tangle_of_keys():
    dependencies = rules("AB C", "C A", "BC D", "ACD B", "D EG", "BE C", "CG BD", "CE AG")
    cover = canonical_cover(dependencies)
    assert equivalent(cover, dependencies)
    assert len(cover) in (8, 9)
    whole = frozenset("ABCDEG")
    superkeys = [chosen for chosen in subsets(whole) if naive_closure(chosen, dependencies) == whole]
    minimal = {one for one in superkeys if not any(other < one for other in superkeys)}
    assert set(candidate_keys(whole, dependencies)) == minimal
