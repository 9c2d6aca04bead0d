"""Grouping: the same groups whichever way they are made, numbered as they appear."""

import gc
import weakref

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from samples import tables

from pravix.relation.grouping import (
    Groupings,
    blank_in,
    constant_within,
    distinct_rows,
    first_positions,
    group_numbers,
    groups_by,
    refined,
)
from pravix.relation.relation import Relation


def spelled_out(keys):
    """Number each key by the order in which it appears first."""
    known = {}
    return [known.setdefault(key, len(known)) for key in keys]


@given(st.lists(st.lists(st.integers(0, 5000), min_size=2, max_size=2), max_size=40))
def test_groups_are_numbered_as_they_appear_in_small_and_wide_ranges(rows):
    columns = [np.array(column, dtype=np.int32) for column in zip(*rows, strict=True)] or [
        np.zeros(0, np.int32)
    ] * 2
    found = group_numbers(columns, len(rows))
    assert found.tolist() == spelled_out(map(tuple, rows))
    assert first_positions(found).tolist() == [
        spelled_out(map(tuple, rows)).index(n) for n in range(len(set(found.tolist())))
    ]


def test_many_rows_are_grouped_alike_by_the_compiled_way():
    draw = np.random.default_rng(5)
    codes = [draw.integers(0, 300, 30_000).astype(np.int32) for _ in range(2)]
    found = group_numbers(codes, 30_000)
    assert found.tolist() == spelled_out(zip(codes[0].tolist(), codes[1].tolist(), strict=True))


@given(tables(), st.data())
def test_groupings_give_what_grouping_anew_gives(relation, data):
    groupings = Groupings(relation)
    wanted = st.frozensets(st.sampled_from(relation.names))
    for columns in data.draw(st.lists(wanted, min_size=1, max_size=6)):
        codes = [relation.column(name).codes for name in sorted(columns)]
        expected = group_numbers(codes, relation.row_count)
        assert groupings.of(columns).tolist() == expected.tolist()
        size = len(set(expected.tolist()))
        assert groupings.size(columns) == size
        assert groupings.reaches(columns, size + 1) is False
        assert groupings.reaches(columns, size) is bool(columns)


def test_enough_combinations_are_seen_without_looking_at_all_columns():
    relation = Relation.from_rows("ABC", [["1", "x", "p"], ["1", "y", "p"], ["2", "x", "q"], ["3", "x", "q"]])
    groupings = Groupings(relation)
    assert groupings.reaches("ABC", 3)
    assert frozenset("ABC") not in groupings._sizes


def test_groupings_forget_what_is_not_asked_for_and_make_it_again(monkeypatch):
    monkeypatch.setattr("pravix.relation.grouping._KEPT_ENTRIES", 8)
    relation = Relation.from_rows("ABC", [["1", "x", "p"], ["1", "y", "p"], ["2", "x", "q"], ["1", "x", "q"]])
    groupings = Groupings(relation)
    for _ in range(2):
        assert groupings.of("AB").tolist() == [0, 1, 2, 0]
        assert groupings.of("C").tolist() == [0, 0, 1, 1]
        assert groupings.of("BC").tolist() == [0, 1, 2, 2]


def test_the_groups_of_a_relation_are_shared_and_cannot_be_spoiled():
    relation = Relation.from_rows("AB", [["1", "x"], ["2", "x"]])
    groups = groups_by(relation, "AB")
    assert groups_by(relation, "BA") is groups
    with pytest.raises(ValueError, match="read-only"):
        groups[0] = 7
    gone = weakref.ref(relation)
    del relation
    gc.collect()
    assert gone() is None


@given(tables())
def test_a_key_gives_the_same_distinct_rows_as_all_columns(relation):
    found = distinct_rows(relation, relation.names, relation.names[:1])
    assert found.row_numbers.tolist() == distinct_rows(relation, relation.names).row_numbers.tolist()
    codes = relation.columns[-1].codes
    by_group = {}
    for group, code in zip(groups_by(relation, relation.names[:1]).tolist(), codes.tolist(), strict=True):
        by_group.setdefault(group, set()).add(code)
    constant = constant_within(groups_by(relation, relation.names[:1]), codes)
    assert constant is all(len(held) == 1 for held in by_group.values())


@pytest.mark.parametrize("size", [0, 1])
def test_nothing_and_a_single_row_are_grouped(size):
    relation = Relation.from_rows("AB", [["1", "x"]] * size)
    assert groups_by(relation, "AB").tolist() == [0] * size
    assert first_positions(groups_by(relation, "")).tolist() == [0] * size
    assert refined(np.zeros(size, dtype=np.intp), relation.column("A").codes).tolist() == [0] * size


def test_distinct_rows_keep_the_first_and_blanks_are_seen():
    relation = Relation.from_rows("AB", [["1", "x"], ["", "x"], ["1", "x"], ["", "y"]])
    assert distinct_rows(relation, ["A"]).row_numbers.tolist() == [2, 3]
    assert blank_in(relation, "AB").tolist() == [False, True, False, True]
    assert blank_in(relation, "B").tolist() == [False] * 4
