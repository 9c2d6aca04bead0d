"""Discovery against the definition, and what must not change when a table is rearranged."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from samples import holds, minimal_dependencies, minimal_keys, rules, sets, tables

from pravix.discovery.discovered import Blanks
from pravix.discovery.exceptions import exceptions
from pravix.discovery.levelwise import discover
from pravix.relation.relation import Column, Relation
from pravix.theory.dependency import Dependency


def table(*lines):
    return Relation.from_rows("ABCDEF"[: len(lines[0])], lines)


@settings(max_examples=700)
@given(tables(), st.sampled_from(Blanks))
def test_discovery_finds_every_minimal_dependency_and_key(relation, blanks):
    found = discover(relation, blanks)
    assert found.complete
    assert len(set(found.dependencies)) == len(found.dependencies)
    assert set(found.dependencies) == minimal_dependencies(relation, blanks)
    assert set(found.keys) == minimal_keys(relation, blanks)
    assert len(set(found.keys)) == len(found.keys)


@given(tables(), st.integers(0, 3))
def test_a_limit_leaves_out_just_the_larger_ones_and_says_so(relation, largest):
    whole, limited = discover(relation), discover(relation, largest=largest)
    assert limited.dependencies == tuple(r for r in whole.dependencies if len(r.determinant) <= largest)
    assert limited.keys == tuple(key for key in whole.keys if len(key) <= largest)
    assert limited.searched_to in (None, largest)
    if limited.complete:
        assert limited == whole


def test_a_budget_ends_after_a_whole_level():
    draw = np.random.default_rng(1)
    relation = Relation.from_rows("ABCDEF", draw.integers(0, 3, (60, 6)).astype(str).tolist())
    limited = discover(relation, budget=10)
    assert limited.searched_to == 1
    assert limited.dependencies == discover(relation, largest=1).dependencies


def test_constants_have_the_empty_determinant():
    found = discover(table("1x", "2x", "3x"))
    assert set(found.dependencies) == {Dependency(frozenset(), "B")}
    assert set(found.keys) == sets("A")


def test_equal_rows_leave_no_key_but_dependencies_stay():
    found = discover(table("1x", "2y", "1x"))
    assert found.keys == ()
    assert set(found.dependencies) == set(rules("A B", "B A"))


def test_one_row_has_the_empty_key():
    assert discover(table("1x")).keys == (frozenset(),)


def test_blanks_equal_or_distinct():
    rows = [["1", "", "x"], ["2", "", "y"], ["3", "b", "y"]]
    relation = Relation.from_rows("ABC", rows)
    assert frozenset("B") not in discover(relation).keys
    assert frozenset("B") in discover(relation, Blanks.DISTINCT).keys


@given(tables(), st.randoms(use_true_random=False))
def test_the_order_of_rows_and_columns_and_the_values_do_not_matter(relation, random):
    order = list(range(relation.row_count))
    random.shuffle(order)
    names = list(relation.names)
    random.shuffle(names)
    moved = relation.take(np.array(order)).project(names)
    renamed = Relation.from_rows(names, [[cell and f"<{cell}>" for cell in row] for row in moved.rows()])
    one, other = discover(relation), discover(renamed)
    assert set(one.dependencies) == set(other.dependencies)
    assert set(one.keys) == set(other.keys)


@given(tables())
def test_doubled_rows_lose_their_keys_and_keep_their_dependencies(relation):
    doubled = relation.take(np.tile(np.arange(relation.row_count), 2))
    found = discover(doubled)
    assert found.keys == ()
    if relation.row_count > 1:
        assert found.dependencies == discover(relation).dependencies


@given(tables(most_columns=4))
def test_a_constant_column_adds_itself_and_nothing_else(relation):
    constant = Column.from_texts("Z", ["same"] * relation.row_count)
    found = discover(Relation((*relation.columns, constant), relation.row_numbers))
    whole = discover(relation)
    assert set(found.dependencies) == {*whole.dependencies, Dependency(frozenset(), "Z")}
    assert found.keys == whole.keys


@given(tables(), st.data())
def test_exceptions_are_the_fewest_rows_to_take_out(relation, data):
    left = data.draw(st.frozensets(st.sampled_from(relation.names)))
    rule = Dependency(left, data.draw(st.sampled_from(relation.names)))
    broken = exceptions(relation, rule)
    kept = relation.take(np.setdiff1d(np.arange(relation.row_count), broken))
    assert holds(kept, rule)
    assert (len(broken) == 0) == holds(relation, rule)
    groups = {}
    for key, value in zip(relation.project(sorted(left)).rows() or [()] * relation.row_count,
                          relation.project([rule.dependent]).rows(), strict=True):  # fmt: skip
        groups.setdefault(key, []).append(value)
    assert len(broken) == sum(len(found) - max(map(found.count, found)) for found in groups.values())


def test_the_first_of_equally_frequent_values_stays():
    assert exceptions(table("1x", "1y"), rules("A B")[0]).tolist() == [1]


@pytest.mark.parametrize("blanks", Blanks)
def test_progress_is_reported_for_each_size(blanks):
    told = []
    discover(
        table("1xp", "2xq", "3yq", "1yr"), blanks, progress=lambda doing, size: told.append((doing, size))
    )
    assert told[0] == ("searching determinants", 0)
    assert [size for _, size in told] == list(range(len(told)))
