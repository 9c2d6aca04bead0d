"""Texts and codes as Arrow arrays, laid in memory by hand."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pravix.sources.coding import code_array, text_array


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
