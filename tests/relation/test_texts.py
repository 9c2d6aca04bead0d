"""Many texts in one piece of memory behave as a list of them does."""

import numpy as np
import pyarrow
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pravix.document.row_hashes import Form, of_relation
from pravix.relation.hashes import text_hashes
from pravix.relation.relation import Column, Relation
from pravix.relation.texts import Texts, chosen, lengths, lines, together
from pravix.relation.types import column_type
from pravix.sources import coding
from pravix.sources.coding import Numbering, coded_column, decimal_numbers, text_array, whole_numbers

CELLS = st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=5), max_size=12)


def packed(cells):
    encoded = [cell.encode() for cell in cells]
    bounds = np.cumsum([0, *map(len, encoded)], dtype=np.int64)
    return Texts(np.frombuffer(b"".join(encoded), dtype=np.uint8), bounds)


@given(CELLS, st.integers(-3, 14), st.integers(-3, 14), st.sampled_from([1, 2, 3]))
def test_they_are_read_as_a_list_is(cells, start, stop, step):
    texts = packed(cells)
    assert len(texts) == len(cells)
    assert list(texts) == cells
    assert [texts[place] for place in range(-len(cells), len(cells))] == cells + cells
    assert list(texts[start:stop:step]) == cells[start:stop:step]
    assert together(texts) == together(cells) == "".join(cells)
    assert lines(texts) == lines(cells)
    assert lengths(texts).tolist() == lengths(cells).tolist() == list(map(len, cells))
    assert list(texts.ended(";")) == [cell + ";" for cell in cells]
    assert chosen(texts, range(len(cells))) == cells
    assert all(cell in texts and texts.index(cell) == cells.index(cell) for cell in cells)
    assert "not there" not in texts
    assert text_array(texts[1:]).to_pylist() == cells[1:]
    assert text_hashes(texts).tolist() == text_hashes(cells).tolist()


def test_a_place_beyond_the_end_is_an_error():
    with pytest.raises(IndexError):
        packed(["K-001"])[1]
    with pytest.raises(ValueError, match="not in list"):
        packed(["K-001"]).index("K-002")


@given(CELLS, CELLS)
def test_a_column_of_many_values_is_the_same_column(cells, others):
    """As few as one value are taken for many here."""
    before, coding._MANY_VALUES = coding._MANY_VALUES, 0
    try:
        column = coded_column("a", pyarrow.chunked_array([cells, others], pyarrow.string()))
    finally:
        coding._MANY_VALUES = before
    plain = Column.from_texts("a", cells + others)
    assert isinstance(column.values, Texts) or not cells + others
    assert column.texts() == plain.texts()
    assert list(column.present_values) == list(plain.present_values)
    assert column.value_set == plain.value_set
    assert column_type(column) == column_type(plain)
    numbers = np.arange(len(plain.codes), dtype=np.int64)
    for form in Form:
        one, other = (of_relation(Relation((each,), numbers), [form]) for each in (column, plain))
        assert one.hashes.tolist() == other.hashes.tolist()


@pytest.mark.parametrize(
    "cells",
    [
        ["", "12", "-7", "0", "999999999999999999"],
        ["", "1.50", "-0.25", "0", "12345678901234.5"],
        ["007", "x"],
    ],
)
def test_hashes_of_many_numbers_are_those_of_few(cells):
    numbers = np.arange(len(cells), dtype=np.int64)
    many = Column("a", np.arange(len(cells), dtype=np.int32), packed(cells))
    few = Column("a", np.arange(len(cells), dtype=np.int32), cells)
    for form in Form:
        one, other = (of_relation(Relation((each,), numbers), [form]) for each in (many, few))
        assert one.hashes.tolist() == other.hashes.tolist(), form


@given(st.lists(st.integers(1 - 10**18, 10**18 - 1)), st.lists(st.decimals(allow_nan=False, places=6)))
def test_numbers_read_all_at_once_are_those_read_one_by_one(whole, decimals):
    assert whole_numbers(packed(list(map(str, whole)))).tolist() == whole
    texts = [f"{one:f}" for one in decimals]
    assert decimal_numbers(packed(texts)).tolist() == list(map(float, texts))


@given(st.lists(CELLS, min_size=2, max_size=4))
def test_what_columns_have_in_common_is_found_by_numbers(columns):
    made = [Column.from_texts(str(n), cells) for n, cells in enumerate(columns)]
    numbering = Numbering(made)
    assert numbering.covers(made)
    assert not numbering.covers([Column.from_texts("z", ["K-001"])])
    for one in made:
        for other in made:
            here, there = numbering.common(one, other)
            shared = [one.present_values[place] for place in here.tolist()]
            assert shared == [other.present_values[place] for place in there.tolist()]
            assert len(shared) == numbering.counted([other])(one)[0] == len(one.value_set & other.value_set)
            assert set(shared) == one.value_set & other.value_set
