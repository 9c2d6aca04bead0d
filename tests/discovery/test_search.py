"""Discovery against the definition, and what must not change when a table is rearranged."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from levelwise import levelwise
from samples import holds, minimal_dependencies, minimal_keys, rules, sets, subsets, tables

from pravix.discovery import checking, hitting_compiled, maximal_compiled
from pravix.discovery.columnsets import from_places, places_of
from pravix.discovery.discovered import Blanks
from pravix.discovery.exceptions import exceptions
from pravix.discovery.hitting import hitting_sets
from pravix.discovery.maximal import maximal, tighten_by_arrays
from pravix.discovery.search import Plan, discover, discover_keys
from pravix.progress import silent
from pravix.relation.relation import Column, Relation
from pravix.theory.dependency import Dependency


def table(*lines):
    return Relation.from_rows("ABCDEF"[: len(lines[0])], lines)


def coded(cells):
    """A relation of integer cells, with names of its own and a blank for each 0."""
    names = [f"c{place}" for place in range(cells.shape[1])]
    return Relation.from_rows(names, np.where(cells > 0, cells.astype(str), "").tolist())


def listed(found):
    return list(found.dependencies), list(found.keys)


@settings(max_examples=600, deadline=None)
@given(tables(), st.sampled_from(Blanks), st.sampled_from(Plan))
def test_discovery_finds_every_minimal_dependency_and_key(relation, blanks, plan):
    found = discover(relation, blanks, plan=plan)
    dependencies, keys = listed(found)
    assert found.complete
    assert len(set(dependencies)) == len(dependencies) == len(found.dependencies)
    assert set(dependencies) == minimal_dependencies(relation, blanks)
    assert set(keys) == minimal_keys(relation, blanks)
    assert len(set(keys)) == len(keys)


@pytest.mark.parametrize("seed", range(60))
@pytest.mark.parametrize("plan", Plan)
def test_tables_of_many_shapes_agree_with_the_yardstick(seed, plan, monkeypatch):
    """Of every other one a part of the groups is looked at first, as of many rows."""
    monkeypatch.setattr(checking, "_ROWS_FOR_SLICES", 2 if seed % 2 else 1000)
    monkeypatch.setattr(checking, "_SLICES", 2 + seed % 3)
    draw = np.random.default_rng(seed)
    rows, width = int(draw.integers(2, 200)), int(draw.integers(2, 10))
    cells = draw.integers(0, draw.integers(1, 12, width), (rows, width))
    if seed % 3 == 0:
        cells[:, -1] = cells[:, 0] // 2
    if seed % 4 == 0:
        cells = np.concatenate((cells, cells[: rows // 3]))
    blanks = Blanks.DISTINCT if seed % 2 else Blanks.EQUAL
    relation = coded(cells)
    found = discover(relation, blanks, plan=plan)
    assert tuple(map(set, listed(found))) == levelwise(relation, blanks)


@pytest.mark.parametrize("start", range(0, 2_000, 250))
def test_tables_of_few_values_and_deep_rules_agree_with_the_yardstick(start, monkeypatch):
    """Two or three values a column: determinants of five columns and more are common there."""
    monkeypatch.setattr(checking, "_ROWS_FOR_SLICES", 2 if start % 500 else 1000)
    plans, deepest = list(Plan), 0
    for seed in range(start, start + 100):
        draw = np.random.default_rng(seed)
        rows, width = int(draw.integers(4, 60)), int(draw.integers(4, 9))
        relation = coded(draw.integers(0, draw.integers(2, 4, width), (rows, width)))
        blanks = Blanks.DISTINCT if seed % 5 == 0 else Blanks.EQUAL
        found = listed(discover(relation, blanks, plan=plans[seed % len(plans)]))
        assert tuple(map(set, found)) == levelwise(relation, blanks), seed
        deepest = max([deepest, *(len(rule.determinant) for rule in found[0])])
    assert deepest >= 6


@pytest.mark.parametrize("width", [63, 64, 65, 130])
def test_any_number_of_columns(width):
    draw = np.random.default_rng(width)
    relation = coded(draw.integers(1, 8, (12, width)))
    largest = 2 if width < 100 else 1
    found = [listed(discover(relation, largest=largest, plan=plan)) for plan in Plan]
    assert found[0] == found[1] == found[2]
    names = relation.names
    for left, right in [(names[0], names[-1]), (names[-2], names[3])]:
        rule = Dependency(frozenset({left}), right)
        assert (rule in found[0][0]) == holds(relation, rule)


def test_duplicate_rows_of_many_columns_leave_no_key():
    draw = np.random.default_rng(5)
    cells = draw.integers(1, 9, (40, 64))
    for plan in Plan:
        assert listed(discover(coded(np.concatenate((cells, cells))), largest=2, plan=plan))[1] == []


def test_a_larger_table_is_the_same_in_every_plan():
    draw = np.random.default_rng(6)
    thing = draw.integers(1, 400, 3_000)
    facts = [draw.integers(1, size, 400)[thing] for size in (3, 40, 200)]
    cells = np.column_stack((thing, *facts, draw.integers(1, [9, 30, 700], (3_000, 3))))
    found = [listed(discover(coded(cells), plan=plan)) for plan in Plan]
    assert found[0] == found[1] == found[2]
    assert set(rules_over(coded(cells).names, "0 1", "0 2", "0 3")) <= set(found[0][0])


def rules_over(names, *texts):
    for text in texts:
        left, right = text.split()
        yield Dependency(frozenset({names[int(left)]}), names[int(right)])


def test_the_same_rows_give_the_same_list_again():
    draw = np.random.default_rng(7)
    relation = coded(draw.integers(1, 5, (300, 9)))
    for plan in Plan:
        assert listed(discover(relation, plan=plan)) == listed(discover(relation, plan=plan))


def test_a_small_table_needs_no_compiled_code():
    assert discover(table("1x", "2y")).plan == Plan.SMALL.value


def test_many_combinations_are_left_to_compiled_code():
    draw = np.random.default_rng(8)
    relation = coded(draw.integers(1, 9, (150, 22)))
    assert discover(relation).plan == Plan.PAIRS.value


@given(tables(), st.sampled_from(Plan))
def test_keys_alone_are_the_keys(relation, plan):
    assert list(discover_keys(relation, plan=plan).keys) == list(discover(relation, plan=plan).keys)


@settings(deadline=None)
@given(tables(), st.integers(0, 3), st.sampled_from(Plan))
def test_a_limit_leaves_out_just_the_larger_ones_and_says_so(relation, largest, plan):
    whole, limited = discover(relation), discover(relation, largest=largest, plan=plan)
    dependencies, keys = listed(limited)
    assert dependencies == [rule for rule in whole.dependencies if len(rule.determinant) <= largest]
    assert dependencies == list(whole.dependencies.up_to(largest))
    assert keys == [key for key in whole.keys if len(key) <= largest]
    assert limited.searched_to in (None, largest)
    if limited.complete:
        assert listed(limited) == listed(whole)


def test_too_many_combinations_lower_the_limit_and_say_so():
    draw = np.random.default_rng(1)
    relation = coded(draw.integers(1, 4, (40, 14)))
    for plan in Plan:
        limited = discover(relation, plan=plan, most=500)
        assert limited.searched_to is not None
        assert len(limited.dependencies) + len(limited.keys) <= 500
        assert listed(limited) == listed(discover(relation, largest=limited.searched_to))


@settings(max_examples=200, deadline=None)
@given(st.lists(st.frozensets(st.integers(0, 6), min_size=1), max_size=9))
def test_hitting_sets_are_the_minimal_sets_that_share_a_column_with_each_edge(edges):
    edges = [edge for edge in set(edges) if not any(other < edge for other in edges)]
    words = from_places([sorted(edge) for edge in edges], 1)
    hits = [found for found in subsets("0123456") if all(edge & {*map(int, found)} for edge in edges)]
    expected = {frozenset(map(int, one)) for one in hits if not any(other < one for other in hits)}
    plain, _ = hitting_sets(words, 7, 7, 10_000)
    fast, left = hitting_compiled.hitting_sets(words, 7, 7, 10_000, 10_000, silent)
    assert left >= 0
    for found in (plain, fast):
        assert not found.cut
        assert len(found.sets) == len(expected)
        assert {frozenset(places_of(one)) for one in found.sets} == expected


@given(st.lists(st.frozensets(st.integers(0, 5)), min_size=1, max_size=20, unique=True))
def test_maximal_sets_are_those_that_no_larger_set_makes_needless(sets):
    words = from_places([sorted(one) for one in sets], 1)
    for tighten in (tighten_by_arrays, maximal_compiled.tighten):
        kept = maximal(words, 6, tighten)
        for place in range(6):
            lacking = [one for one in sets if place not in one]
            largest = {one for one in lacking if not any(one < other for other in lacking)}
            edges = {frozenset(places_of(edge)) for edge in kept.edges(place)}
            assert edges == {frozenset(range(6)) - one - {place} for one in largest}
        largest = {one for one in sets if not any(one < other for other in sets)}
        assert {frozenset(places_of(edge)) for edge in kept.edges(6)} == {
            frozenset(range(6)) - one for one in largest
        }


def test_constants_have_the_empty_determinant():
    found = discover(table("1x", "2x", "3x"))
    assert set(found.dependencies) == {Dependency(frozenset(), "B")}
    assert set(found.keys) == sets("A")


def test_equal_rows_leave_no_key_but_dependencies_stay():
    found = discover(table("1x", "2y", "1x"))
    assert list(found.keys) == []
    assert set(found.dependencies) == set(rules("A B", "B A"))


def test_one_row_has_the_empty_key():
    assert list(discover(table("1x")).keys) == [frozenset()]


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
    assert list(found.keys) == []
    if relation.row_count > 1:
        assert list(found.dependencies) == list(discover(relation).dependencies)


@given(tables(most_columns=4))
def test_a_constant_column_adds_itself_and_nothing_else(relation):
    constant = Column.from_texts("Z", ["same"] * relation.row_count)
    found = discover(Relation((*relation.columns, constant), relation.row_numbers))
    whole = discover(relation)
    assert set(found.dependencies) == {*whole.dependencies, Dependency(frozenset(), "Z")}
    assert list(found.keys) == list(whole.keys)


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


@given(tables(most_rows=8))
def test_a_row_that_agrees_nowhere_takes_away_only_constants_and_the_empty_key(relation):
    stranger = [f"new{place}" for place in range(len(relation.names))]
    grown = Relation.from_rows(relation.names, [*relation.rows(), stranger])
    found, whole = discover(grown), discover(relation)
    kept = {rule for rule in whole.dependencies if rule.determinant}
    assert kept <= set(found.dependencies)
    assert {key for key in whole.keys if key} <= set(found.keys)


@pytest.mark.parametrize("plan", [Plan.PAIRS, Plan.HYBRID])
def test_progress_is_reported_in_words(plan):
    told = []
    discover(
        coded(np.random.default_rng(1).integers(1, 4, (50, 4))),
        plan=plan,
        progress=lambda doing, steps: told.append((doing, steps)),
    )
    assert told[0] == ("loading compiled code", 0)
    assert {"comparing rows", "collecting combinations"} <= {doing for doing, _ in told}
