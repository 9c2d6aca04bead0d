"""Relations and grouping against plain Python."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from samples import tables

from pravix.kernels.groups import split
from pravix.relation.grouping import (
    StrippedPartition,
    blank_in,
    distinct_rows,
    first_positions,
    group_numbers,
    groups_by,
)
from pravix.relation.profile import profile
from pravix.relation.relation import Column, Relation
from pravix.sources.read import read_source


def test_a_column_gives_back_its_texts_and_knows_its_blanks():
    column = Column.from_texts("honey", ["RAP", "", "CLO", "RAP", ""])
    assert column.texts() == ["RAP", "", "CLO", "RAP", ""]
    assert (column.blanks, column.distinct) == (2, 2)
    assert column.present_values == ["RAP", "CLO"]
    assert column.text(2) == "CLO"


def test_values_left_behind_by_a_selection_are_not_counted():
    column = Relation.from_rows(["a"], [["x"], ["y"], ["x"]]).take(np.array([0, 2])).column("a")
    assert column.distinct == 1
    assert column.present_values == ["x"]


@given(tables())
def test_grouping_is_that_of_equal_tuples(relation):
    groups = groups_by(relation, relation.names)
    rows = relation.rows()
    for i, one in enumerate(rows):
        for j, other in enumerate(rows):
            assert (groups[i] == groups[j]) == (one == other)
    assert list(dict.fromkeys(groups.tolist())) == list(range(len(set(rows))))
    assert [rows[place] for place in first_positions(groups)] == list(dict.fromkeys(rows))


@given(tables())
def test_distinct_rows_keep_the_first_and_its_number(relation):
    kept = distinct_rows(relation, relation.names)
    rows = relation.rows()
    assert kept.rows() == list(dict.fromkeys(rows))
    assert kept.row_numbers.tolist() == [rows.index(row) + 2 for row in kept.rows()]


@given(tables())
def test_a_stripped_partition_holds_the_rows_that_agree_with_another(relation):
    partition = StrippedPartition.of_all(relation.row_count)
    for column in relation.columns:
        partition = partition.refined(column.codes)
    rows = relation.rows()
    assert sorted(partition.rows.tolist()) == [i for i, row in enumerate(rows) if rows.count(row) > 1]
    for place, group in zip(partition.rows, partition.class_of, strict=True):
        members = {rows[other] for other in partition.rows[partition.class_of == group]}
        assert members == {rows[place]}


def test_no_columns_put_all_rows_in_one_group():
    assert group_numbers([], 3).tolist() == [0, 0, 0]


def test_a_row_is_blank_in_columns_where_any_of_them_is():
    relation = Relation.from_rows(["a", "b"], [["x", ""], ["x", "y"], ["", ""]])
    assert blank_in(relation, ["a", "b"]).tolist() == [True, False, True]
    assert blank_in(relation, ["a"]).tolist() == [False, False, True]


@given(tables())
def test_different_blank_and_repeated_cells_make_up_the_column(relation):
    for found, column in zip(profile(relation), relation.columns, strict=True):
        cells = [cell for cell in column.texts() if cell]
        assert (found.distinct, found.blanks) == (len(set(cells)), relation.row_count - len(cells))
        assert found.distinct + found.blanks + found.repeats == relation.row_count
        assert all(cells.count(value) == times for value, times in found.examples)


@given(
    st.lists(st.tuples(st.integers(0, 40), st.integers(0, 40)), min_size=1, max_size=80),
    st.sampled_from([1, 10**6]),
)
def test_compiled_grouping_numbers_groups_as_sorting_does(pairs, apart):
    first, second = np.array(pairs, dtype=np.int32).T.copy()
    groups = group_numbers([first], len(pairs))
    assert split(groups, second * apart).tolist() == group_numbers([first, second], len(pairs)).tolist()


def test_a_compiled_grouping_of_many_codes():
    codes = np.random.default_rng(5).integers(0, 10**9, 30_000).astype(np.int32)
    expected = {}
    numbers = [expected.setdefault(code, len(expected)) for code in codes.tolist()]
    assert split(np.zeros(len(codes), dtype=np.int32), codes).tolist() == numbers


def test_the_codes_of_columns_that_lie_together_are_not_copied(tmp_path):
    path = tmp_path / "drums.csv"
    path.write_text("drum,honey\n" + "".join(f"{n},{n % 3}\n" for n in range(100)), encoding="utf-8")
    relation = read_source(str(path)).relation
    codes = relation.codes()
    assert all(np.shares_memory(codes, column.codes) for column in relation.columns)
    for other in (relation, relation.project(["honey", "drum"]), relation.take(np.arange(3, 9))):
        wanted = np.array([column.codes for column in other.columns]).T
        assert (other.codes() == wanted).all()
        assert other is relation or not np.shares_memory(other.codes(), codes)
    assert relation.project([]).codes().shape == (100, 0)
