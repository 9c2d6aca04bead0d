"""Names of tables, taken from the nouns of the columns that identify their rows."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from pravix.relation.words import noun, words


def table_names(keys: Sequence[Sequence[str]], header: Sequence[str]) -> list[str]:
    """Return a name for each primary key, all different (also where case is ignored).

    ``drum_no`` gives ``drum``; ``Loan No`` with ``Object No`` gives ``Loan Object``, in the naming
    style of the header. Where two would be equal the later one takes the full names of its columns,
    and then a number.
    """
    separator = _separator(header)
    taken: dict[str, None] = {}
    for key in keys:
        options = [separator.join(map(_stem, key)), separator.join(key)]
        options += [f"{options[0]}{separator}{number}" for number in range(2, len(keys) + 2)]
        free = (name for name in options if name and name.lower() not in map(str.lower, taken))
        taken[next(free)] = None
    return list(taken)


def free_name(wanted: str, taken: Iterable[str]) -> str:
    """Return a name that is not taken, case ignored: the one wanted, or that with a number."""
    used = {name.lower() for name in taken}
    name, number = wanted, 1
    while name.lower() in used:
        number += 1
        name = f"{wanted}_{number}"
    return name


def _stem(column: str) -> str:
    """Return a column name cut after the last word of its noun, spelled as in the header."""
    kept = noun(column)
    position = 0
    lowered = column.lower()
    for word in kept:
        found = lowered.find(word, position)
        if found < 0:
            return column
        position = found + len(word)
    return column[:position] if kept and words(column[:position]) == kept else column


def _separator(header: Sequence[str]) -> str:
    """Return what stands between words in most of the header's names of several words."""
    counts = {mark: sum(mark in name for name in header) for mark in ("_", " ", "-")}
    best = max(counts, key=lambda mark: counts[mark])
    if counts[best]:
        return best
    return "" if any(len(words(name)) > 1 for name in header) else "_"
