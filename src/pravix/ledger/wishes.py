"""What the analyst wishes of the design: how things are called, what is kept together, what is set apart.

In the ledger these are one table of policies and an entry for each arrangement::

    [design]
    style = "snake"
    surrogates = "referred"

    [[arrange]]
    do = "together"
    columns = ["village"]
    why = "districts change every few years, and then all of them"
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace
from typing import Any

from pravix.errors import InputError
from pravix.wording import joined, meant, shortened

POLICIES: Mapping[str, tuple[str, ...]] = {
    "style": ("file", "snake", "camel"),
    "number": ("found", "singular", "plural"),
    "surrogates": ("never", "referred", "always"),
    "numbering": ("table", "shared"),
    "until": ("3nf", "2nf", "bcnf", "4nf"),
}
"""The policies with what each may be; the first is what holds where nothing is said."""

CHECKS = ("values", "range", "pattern", "unique", "default")
"""The kinds of column checks that can be wished for."""

RULES = ("restrict", "cascade", "set null")
"""What may happen to the referring rows when a referred row is deleted or its key changed."""

DOINGS: Mapping[str, tuple[str, ...]] = {
    "name": ("name",),
    "together": (),
    "apart": (),
    "list": (),
    "table": (),
    "link": (),
    "check": ("check",),
    "same": (),
    "different": (),
    "key": (),
    "rename": ("name",),
    "type": ("type",),
}
"""What can be arranged, with the keys that each needs beside ``columns``."""

_TEXTS = ("do", "name", "on_delete", "on_update", "check", "type", "why")


@dataclass(frozen=True)
class Arrangement:
    """One wish about some columns of the file; ``place`` says where it stands.

    ``do`` says what: ``name`` calls the table with this primary key, ``together`` leaves the facts about
    these columns where they are, ``apart`` gives them a table of their own, ``list`` and ``table`` say
    what becomes of a column with a few values, ``link`` sets the rules of a reference, ``check`` wishes
    for a check. ``same`` says that two columns hold one kind of thing, ``different`` that they do not.
    ``key`` chooses the primary key of a table, ``rename`` calls a column otherwise, ``type`` says its type.
    """

    do: str
    columns: tuple[str, ...]
    name: str = ""
    on_delete: str = ""
    on_update: str = ""
    check: str = ""
    type: str = ""
    why: str = ""
    place: str = ""


@dataclass(frozen=True)
class Wishes:
    """The policies of a design and its arrangements, in the order of the ledger."""

    style: str = "file"
    number: str = "found"
    surrogates: str = "never"
    numbering: str = "table"
    until: str = "3nf"
    arrangements: tuple[Arrangement, ...] = ()

    def of(self, do: str) -> tuple[Arrangement, ...]:
        """Return the arrangements of one kind."""
        return tuple(wish for wish in self.arrangements if wish.do == do)

    def about(self, do: str, columns: frozenset[str]) -> Arrangement | None:
        """Return the last arrangement of one kind about exactly these columns; None where there is none."""
        return next((wish for wish in reversed(self.of(do)) if set(wish.columns) == columns), None)

    def within(self, names: Collection[str], owner: Collection[str] = ()) -> Wishes:
        """Return the wishes about some columns; those about the ``owner`` columns alone are not meant."""
        own = [
            wish
            for wish in self.arrangements
            if set(wish.columns) <= set(names) and not set(wish.columns) <= set(owner)
        ]
        return replace(self, arrangements=tuple(own))

    def with_policies(self, policies: Mapping[str, str | None]) -> Wishes:
        """Return the wishes with some policies set; one that is None stays as it is."""
        known: dict[str, Any] = {key: value for key, value in policies.items() if value is not None}
        return replace(self, **known)

    def with_arrangements(self, made: tuple[Arrangement, ...]) -> Wishes:
        """Return the wishes with arrangements added; each takes the place of an earlier one like it."""
        kept = [old for old in self.arrangements if not any(alike(old, new) for new in made)]
        return replace(self, arrangements=(*kept, *made))

    def check_columns(self, names: Collection[str], source: str) -> None:
        """Raise InputError where an arrangement names a column that the source does not have."""
        for wish in self.arrangements:
            for column in wish.columns:
                if column not in names:
                    raise InputError(
                        f"{wish.place or wish.do}: {source} has no column {shortened(column)}",
                        f"{meant(column, names)}Use the names of the header.",
                    )


def alike(one: Arrangement, other: Arrangement) -> bool:
    """Return whether two arrangements answer the same question about the same columns.

    A column is either a list or a table, and facts are kept together or moved.
    """
    instead = ({"list", "table"}, {"same", "different"})
    same = one.do == other.do or {one.do, other.do} in instead
    return same and set(one.columns) == set(other.columns) and one.check == other.check


def checked_arrangement(wish: Arrangement) -> Arrangement:
    """Return an arrangement that can be carried out; InputError, with its place, where it cannot."""
    place = wish.place or wish.do
    if wish.do not in DOINGS:
        raise InputError(f"{place}: do must be {joined(list(DOINGS), 'or')}")
    if not wish.columns:
        raise InputError(f"{place}: {wish.do} needs columns", 'For example: columns = ["village"]')
    for key in DOINGS[wish.do]:
        if not getattr(wish, key):
            raise InputError(f"{place}: {wish.do} needs {key}")
    if wish.do == "check" and wish.check not in CHECKS:
        raise InputError(f"{place}: check must be {joined(CHECKS, 'or')}")
    if wish.do in ("list", "table", "check", "rename", "type") and len(wish.columns) > 1:
        raise InputError(f"{place}: {wish.do} is about one column")
    if wish.do in ("same", "different") and len(wish.columns) != 2:
        raise InputError(f"{place}: {wish.do} is about two columns", 'For example: "from_depot, to_depot"')
    for key in ("on_delete", "on_update"):
        if getattr(wish, key) not in ("", *RULES):
            raise InputError(f"{place}: {key} must be {joined(RULES, 'or')}")
    if wish.do == "link" and not (wish.on_delete or wish.on_update):
        raise InputError(f"{place}: link needs on_delete or on_update")
    return wish


def parsed_wishes(content: Mapping[str, Any], name: str, line: Callable[[str, int, str], int]) -> Wishes:
    """Return the wishes of a ledger's content; ``line`` tells where a key of an entry stands.

    Raises InputError, with the line, where a key is unknown or a value is none of those possible.
    """
    policies = content.get("design", {})
    for key, value in policies.items():
        place = f"{name}, line {line('design', 1, key)}"
        if key not in POLICIES:
            raise InputError(f"{place}: unknown key {shortened(key)}", f"Known are {', '.join(POLICIES)}.")
        if value not in POLICIES[key]:
            raise InputError(f"{place}: {key} must be {joined(POLICIES[key], 'or')}")
    entries = enumerate(content.get("arrange", []), 1)
    made = tuple(_arrangement(entry, name, number, line) for number, entry in entries)
    return Wishes(**policies, arrangements=made)


def _arrangement(entry: Any, name: str, number: int, line: Callable[[str, int, str], int]) -> Arrangement:
    if not isinstance(entry, dict):
        raise InputError(f"{name}: an arrangement must be an [[arrange]] entry")
    for key, value in entry.items():
        place = f"{name}, line {line('arrange', number, key)}"
        if key == "columns":
            if not isinstance(value, list) or not all(isinstance(column, str) for column in value):
                raise InputError(f"{place}: columns must be a list of names", 'For example: ["village"]')
        elif key not in _TEXTS:
            known = joined(["columns", *_TEXTS])
            raise InputError(f"{place}: unknown key {shortened(key)}", f"Known are {known}.")
        elif not isinstance(value, str):
            raise InputError(f"{place}: {key} must be a text in quotes")
    texts = {key: entry[key] for key in _TEXTS if key in entry}
    place = f"{name}, line {line('arrange', number, 'do')}"
    return checked_arrangement(
        Arrangement(**{"do": "", **texts}, columns=tuple(entry.get("columns", ())), place=place)
    )
