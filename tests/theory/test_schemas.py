"""Schemes from the theory's literature, in letters: their keys, normal form, cover and synthesis, by hand."""

import pytest
from samples import naive_closure, rules, sets, subsets

from pravix.theory.closure import equivalent
from pravix.theory.cover import canonical_cover
from pravix.theory.keys import candidate_keys
from pravix.theory.normal_forms import normal_form
from pravix.theory.synthesis import synthesise

# columns, rules, candidate keys, normal form, rules in a canonical cover, tables of the synthesis
SCHEMES = [
    ("AB", "A B", "A", "BCNF", 1, "AB"),
    ("ABC", "A BC", "A", "BCNF", 2, "ABC"),
    ("ABC", "A B; B C", "A", "2NF", 2, "AB BC"),
    ("ABC", "A B; B C; C A", "A B C", "BCNF", 3, "ABC"),
    ("ABC", "AB C; C B", "AB AC", "3NF", 2, "ABC"),
    ("ABCD", "", "ABCD", "BCNF", 0, "ABCD"),
    ("ABCD", "A B; C D", "AC", "1NF", 2, "AB CD AC"),
    ("ABCD", "B C; D A", "BD", "1NF", 2, "BC AD BD"),
    ("ABCD", "A B; B C; C D; D A", "A B C D", "BCNF", 4, "ABCD"),
    ("ABCD", "AB C; C D; D A", "AB BC BD", "3NF", 3, "ABC CD AD"),
    ("ABCD", "AB CD; C A", "AB BC", "3NF", 3, "ABCD"),
    ("ABCD", "A BCD; BC AD; D B", "A BC CD", "3NF", 4, "ABCD"),
    ("ABCDE", "A BC; CD E; B D; E A", "A E BC CD", "3NF", 5, "ABCDE"),
    ("ABCDE", "A B; BC D; D E", "AC", "1NF", 3, "AB BCD DE AC"),
    ("ABCDE", "AB C; DE C; B D", "ABE", "1NF", 3, "ABC CDE BD ABE"),
    ("ABCDE", "A BC; BC AD; D E", "A BC", "2NF", 5, "ABCD DE"),
    ("ABCDE", "AB CDE; D B", "AB AD", "3NF", 4, "ABCDE"),
    ("ABCDE", "A B; BC E; DE A", "ACD BCD CDE", "3NF", 3, "AB BCE ADE ACD"),
    ("ABCDE", "AB C; C D; D BE", "AB AC AD", "1NF", 4, "ABC CD BDE"),
    ("ABCDEF", "AB C; BC AD; D E; CF B", "ABF CF", "1NF", 5, "ABCD DE BCF"),
    ("ABCDEF", "AB C; A D; B EF", "AB", "1NF", 4, "ABC AD BEF"),
    ("ABCDEF", "A CF; C D; B E", "AB", "1NF", 4, "ACF CD BE AB"),
    ("ABCDEF", "A BCDEF; BC ADEF; B F; D E", "A BC", "1NF", 6, "ABCD BF DE"),
    ("CTHRSG", "C T; HR C; HT R; CS G; HS R", "HS", "2NF", 5, "CHRT CGS HRS"),
    ("ABCDEFGHIJ", "AB C; A DE; B F; F GH; D IJ", "AB", "1NF", 8, "ABC ADE BF FGH DIJ"),
    ("ABCDEFGHIJ", "ABD E; AB G; B F; C J; CJ I; G H", "ABCD", "1NF", 6, "ABDE ABG BF CIJ GH ABCD"),
    ("ABCDEFGH", "A B; ABCD E; EF GH; ACDF EG", "ACDF", "1NF", 4, "AB ACDE EFGH ACDF"),
]


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
