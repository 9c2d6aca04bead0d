"""Texts coded, and texts and codes laid in memory by hand as Arrow arrays."""

import numpy as np
import pyarrow
from hypothesis import given
from hypothesis import strategies as st
from packed import CELLS, packed

from pravix.relation.relation import Column
from pravix.relation.texts import Texts
from pravix.relation.types import column_type
from pravix.sources import coding
from pravix.sources.coding import (
    Numbering,
    code_array,
    coded_column,
    decimal_numbers,
    flags_of,
    numbers_of,
    present,
    text_array,
    whole_numbers,
)


@given(st.lists(st.text(st.characters(codec="utf-8"))))
def test_texts_come_back_whatever_their_letters(texts):
    assert text_array(texts).to_pylist() == texts


def test_codes_come_back_from_a_part_of_an_array():
    codes = np.arange(20, dtype=np.int32)
    assert code_array(codes[3:7]).to_pylist() == [3, 4, 5, 6]
    assert code_array(codes[::5]).to_pylist() == [0, 5, 10, 15]
    assert text_array(["a", "é", ""]).take(code_array(np.array([1, 2, 0], dtype=np.int32))).to_pylist() == [
        "é",
        "",
        "a",
    ]


@given(st.lists(st.text(st.characters(codec="utf-8"))))
def test_more_letters_than_a_small_number_counts_are_large_texts(texts):
    before, coding._LARGE = coding._LARGE, 3
    try:
        for some in (texts, packed(texts)):
            array = text_array(some)
            assert array.to_pylist() == texts
            large = len("".join(texts).encode()) >= 3
            assert array.type == (pyarrow.large_string() if large else pyarrow.string())
            assert coded_column("a", pyarrow.chunked_array([array])).texts() == texts
    finally:
        coding._LARGE = before


@given(
    st.lists(st.none() | st.integers(-(2**31), 2**31 - 1)),
    st.sampled_from([np.int32, np.int64]),
    st.integers(0, 9),
)
def test_numbers_and_what_is_there_of_them_are_read_from_any_part_of_an_array(cells, kind, start):
    codes = np.array([cell or 0 for cell in cells], dtype=kind)
    array = code_array(codes, np.array([cell is not None for cell in cells], dtype=np.bool_))
    assert array.to_pylist() == cells
    part, cells = array.slice(start), cells[start:]
    there = [cell is not None for cell in cells]
    assert present(part).tolist() == there
    assert numbers_of(part)[there].tolist() == [cell for cell in cells if cell is not None]
    assert flags_of(part.is_valid()).tolist() == there
    assert flags_of(array.is_valid().slice(start)).tolist() == there


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


NUMBERS = st.integers(-5, 40) | st.integers(-(10**19), 10**19)


@given(
    st.lists(
        st.lists(NUMBERS.map(str) | st.sampled_from(["007", "-0", "x"]), max_size=8), min_size=1, max_size=4
    )
)
def test_texts_and_numbers_get_the_same_number_wherever_they_are(parts):
    """As few as one text are taken for many here."""
    before, coding._MANY_VALUES = coding._MANY_VALUES, 0
    try:
        numbers = coding.numbered_texts([text_array(part) for part in parts]).tolist()
    finally:
        coding._MANY_VALUES = before
    texts = [text for part in parts for text in part]
    assert len(numbers) == len(texts)
    assert len(set(numbers)) == len(set(texts)) == len(set(zip(numbers, texts, strict=True)))
    assert set(numbers) == set(range(len(set(texts))))
