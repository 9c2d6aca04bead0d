"""The arrays that the inner loops work on."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Words = NDArray[np.uint64]
"""Sets of columns, a row of words each; the first column is the highest bit of the first word."""

Slots = NDArray[np.int64]
"""A power of two of slots; each holds the number of a set, counted from 1, or 0 where it is free."""

Rows = NDArray[np.int32]
"""Positions of rows."""

Bounds = NDArray[np.int64]
"""Where groups of rows begin and the last one ends."""

Codes = NDArray[np.int32]
"""The codes of a column's cells."""

Groups = NDArray[np.int32]
"""A group number for each row, dense from 0, numbered in the order of first appearance."""

CodeMatrix = NDArray[np.int32]
"""The codes of all columns, column by column or row by row."""

SmallCodes = NDArray[np.unsignedinteger]
"""The codes column by column, in as few bytes as they need."""

Keys = NDArray[np.int64]
Places = NDArray[np.int64]
Flags = NDArray[np.bool_]
Bytes = NDArray[np.uint8]

Planes = NDArray[np.uint8]
"""Of a row of sets one byte each, the first plane holds the first eight columns."""

Pairs = NDArray[np.int64]
"""For each dependent two rows that break the candidate, by position; -1 where it holds."""
