"""Millions of rules as JSON: those that were not weighed are written many at a time.

What is said of a small one depends on its determinant and its standing only; what is said of a larger one on
the number of its columns and its standing, and it is written from the words of its set.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from pravix.discovery.columnsets import ColumnSets, sizes
from pravix.document.rules import rule_document
from pravix.judgement.decisions import Confidence
from pravix.judgement.judgement import Judgement
from pravix.judgement.weights import WEIGHED_TO
from pravix.kernels.arrays import Words
from pravix.sources.coding import code_array, text_array

BETWEEN = ",\n  "
"""What stands between two entries of a document."""

_FEW = 5_000
_AT_ONCE = 100_000
_DEPENDENT = "\0"
"""Stands for the dependent; no column is called so."""


def rules_as_json(
    judgement: Judgement, names: Sequence[str], confidence: Confidence, write: Callable[[object], str]
) -> Iterator[str]:
    """Yield the entries of all rules as JSON, one or many at a time, ``BETWEEN`` between those of one text.

    ``write`` returns an object as JSON. Linear in the text, some tenths of a microsecond for a rule.
    """
    rules = judgement.rules
    known: dict[tuple[bytes, int], list[str]] = {}
    for dependent, sets, states in rules.by_dependent:
        special = rules.special(dependent, sets, judgement.blank)
        small = len(sets)
        if small > _FEW:
            small = int(np.searchsorted(sizes(sets.words), WEIGHED_TO, side="right"))
        told = write(dependent)
        for place in range(small):
            of = sets.words[place].tobytes(), int(states[place])
            if special[place] or of not in known:
                judged = rules.one(dependent, sets, states, place)
                document = rule_document(judged, judgement, names, confidence)
                if special[place]:
                    yield write(document)
                    continue
                document["dependent"] = _DEPENDENT
                known[of] = write(document).split(write(_DEPENDENT))
            yield told.join(known[of])
        start = small
        for place in (*(np.flatnonzero(special[small:]) + small).tolist(), len(sets)):
            for first in range(start, place, _AT_ONCE):
                some = slice(first, min(first + _AT_ONCE, place))
                templates = _templates(judgement, names, confidence, write, dependent, sets, states, some)
                yield _written(sets.words[some], names, *templates, write)
            if place < len(sets):
                judged = rules.one(dependent, sets, states, place)
                yield write(rule_document(judged, judgement, names, confidence))
            start = place + 1


def _templates(
    judgement: Judgement,
    names: Sequence[str],
    confidence: Confidence,
    write: Callable[[object], str],
    dependent: str,
    sets: ColumnSets,
    states: NDArray[np.int8],
    some: slice,
) -> tuple[list[str], NDArray[np.intp]]:
    """Return what stands after the determinants of some rules, and which of these each has."""
    of = np.column_stack((sizes(sets.words[some]), states[some]))
    _, first, which = np.unique(of, axis=0, return_index=True, return_inverse=True)
    ends = []
    for place in (first + some.start).tolist():
        judged = judgement.rules.one(dependent, sets, states, place)
        document = rule_document(judged, judgement, names, confidence)
        document["determinant"] = []
        ends.append(write(document).removeprefix('{"determinant": [') + BETWEEN)
    return ends, which.reshape(-1)


def _written(
    sets: Words,
    names: Sequence[str],
    ends: Sequence[str],
    which: NDArray[np.intp],
    write: Callable[[object], str],
) -> str:
    from pyarrow import compute

    rows = np.ascontiguousarray(sets.astype(">u8")).view(np.uint8).reshape(len(sets), -1)
    parts = []
    begun = np.zeros(len(sets), dtype=np.bool_)
    for start in range(0, len(names), 8):
        eight, bytes_ = [write(name) for name in names[start : start + 8]], rows[:, start // 8]
        texts = [
            ", ".join(text for bit, text in enumerate(eight) if byte >> 7 - bit & 1) for byte in range(256)
        ]
        texts += [f", {text}" if text else "" for text in texts]
        parts.append(text_array(texts).take(code_array(bytes_ + 256 * begun.astype(np.int32))))
        begun |= bytes_ > 0
    begin, nothing = text_array(['{"determinant": [', ""])
    end = text_array(ends).take(code_array(which.astype(np.int32)))
    made = compute.binary_join_element_wise(begin, *parts, end, nothing)
    text: str = made.buffers()[2].to_pybytes().decode()
    return text.removesuffix(BETWEEN)
