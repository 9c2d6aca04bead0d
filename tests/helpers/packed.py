"""Texts laid in one piece of memory."""

import numpy as np
from hypothesis import strategies as st

from pravix.relation.texts import Texts

CELLS = st.lists(st.text(st.characters(exclude_categories=["Cs"]), max_size=5), max_size=12)


def packed(cells):
    encoded = [cell.encode() for cell in cells]
    bounds = np.cumsum([0, *map(len, encoded)], dtype=np.int64)
    return Texts(np.frombuffer(b"".join(encoded), dtype=np.uint8), bounds)
