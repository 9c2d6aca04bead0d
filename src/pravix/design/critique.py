"""What is to be said of a design made by hand: normal forms with their reasons, keys, links, names, types."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from pravix.design.by_hand import HandReference, HandTable
from pravix.relation.words import share_noun, words
from pravix.theory.dependency import in_order, written_in_order
from pravix.theory.keys import candidate_keys
from pravix.theory.normal_forms import Breach, Form, normal_form
from pravix.theory.synthesis import synthesise
from pravix.wording import counted, joined

_REASON = {
    Breach.PARTIAL: "a part of the key decides it (partial: breaks 2NF)",
    Breach.TRANSITIVE: "what decides it is no key (transitive: breaks 3NF)",
    Breach.PRIME: "what decides it is no key (breaks BCNF)",
}


@dataclass(frozen=True)
class TableReview:
    """What was found about one table: its candidate keys, its normal form, why, and how to split it."""

    table: HandTable
    keys: tuple[tuple[str, ...], ...]
    form: Form
    reasons: tuple[str, ...]
    parts: tuple[str, ...]


@dataclass(frozen=True)
class Objection:
    """One thing that is wrong or doubtful: what it is about, the table, and the sentence."""

    about: str
    table: str
    text: str


def reviewed(table: HandTable) -> TableReview:
    """Return the review of one table under its written rules. Cost: that of keys and normal form."""
    rules, names = table.all_rules, table.names
    found = normal_form(names, rules)
    keys = tuple(tuple(in_order(key, names)) for key in found.keys)
    reasons = tuple(f"{written_in_order(rule, names)}: {_REASON[breach]}" for rule, breach in found.offenders)
    parts: tuple[str, ...] = ()
    if not found.form.third:
        schemes = synthesise(names, rules, keys[0])
        parts = tuple(_written(in_order(one.columns, names), set(one.keys[0])) for one in schemes)
    return TableReview(table, keys, found.form, reasons, parts)


def _written(columns: Sequence[str], key: Collection[str]) -> str:
    return f"({', '.join(f'_{name}_' if name in key else name for name in columns)})"


def objections(tables: Sequence[HandTable], reserved: Collection[str] = ()) -> list[Objection]:
    """Return what is wrong between the tables and in their names, keys and types. Quadratic in the tables."""
    return [
        *(one for table in tables for one in _keys(table, tables)),
        *(one for table in tables for one in _links(table, tables)),
        *_doubles(tables),
        *(one for table in tables for one in _reserved(table, reserved)),
        *_styles(tables),
    ]


def _keys(table: HandTable, tables: Sequence[HandTable]) -> list[Objection]:
    found = []
    name, key = table.name, table.primary_key
    if not key:
        keys = [", ".join(in_order(one, table.names)) for one in candidate_keys(table.names, table.all_rules)]
        text = f"{name} has no primary key; by its rules {joined(keys, 'or')} could be one"
        found.append(Objection("primary key", name, text))
    blank = [column.name for column in table.columns if column.nullable and column.name in key]
    if blank:
        are = "is" if len(blank) == 1 else "are"
        text = f"{joined(blank)} {are} part of the key of {name}, but may be blank"
        found.append(Objection("nullable key", name, text))
    smaller = [one for one in candidate_keys(table.names, table.all_rules) if key and one < set(key)]
    if smaller:
        part = joined(in_order(smaller[0], table.names))
        found.append(Objection("key too large", name, f"{part} alone identifies a row of {name}"))
    referring = [other.name for other in tables for link in other.references if link.table == name]
    if len(key) > 1 and referring:
        refer = "refers" if len(set(referring)) == 1 else "refer"
        by = joined(list(dict.fromkeys(referring)))
        text = f"{by} {refer} to {name} by {counted(len(key), 'column')}: a surrogate key would make that one"
        found.append(Objection("composite key", name, text))
    return found


def _links(table: HandTable, tables: Sequence[HandTable]) -> list[Objection]:
    by_name = {one.name: one for one in tables}
    found = []
    for link in table.references:
        if link.elsewhere:
            continue  # What stands in another schema was not read.
        other = by_name.get(link.table)
        if other is None:
            text = f"{table.name} refers to {link.table}, which is no table"
            found.append(Objection("broken link", table.name, text))
            continue
        found += _broken(table, link, other)
    linked = {name for link in table.references for name in link.columns}
    for other in tables:
        if other is table or len(other.primary_key) != 1:
            continue
        (key,) = other.primary_key
        alike = [name for name in table.names if name not in linked and _means(name, other.name, key)]
        for name in alike:
            if (name,) != table.primary_key:
                like = f"{table.name}.{name} looks like the key {key} of {other.name}"
                found.append(Objection("missing link", table.name, f"{like}, but does not refer to it"))
    return found


def _means(name: str, table: str, key: str) -> bool:
    """Return whether a column is called like a table's key, or after the table and like its key's ending."""
    same = words(name) == words(key) and len(words(key)) > 1
    after = share_noun(table, name) and words(name)[-1:] == words(key)[-1:]
    return same or after


def _broken(table: HandTable, link: HandReference, other: HandTable) -> list[Objection]:
    found = []
    lacking = [name for name in link.key if name not in other.names]
    if lacking:
        text = f"{table.name} refers to {joined(lacking)} of {other.name}, which it has not"
        return [Objection("broken link", table.name, text)]
    if len(link.key) != len(link.columns):
        there = counted(len(link.key), "column")
        text = f"{table.name} refers to {there} of {other.name} by {len(link.columns)}"
        return [Objection("broken link", table.name, text)]
    keys = candidate_keys(other.names, other.all_rules)
    if frozenset(link.key) not in keys:
        text = f"{table.name} refers to {joined(link.key)} of {other.name}, which is no key there"
        found.append(Objection("broken link", table.name, text))
    types = {column.name: column.type for column in other.columns}
    for column, there in zip(link.columns, link.key, strict=True):
        mine = next(one.type for one in table.columns if one.name == column)
        if mine and types[there] and mine.lower() != types[there].lower():
            ends = f"{table.name}.{column} is {mine}, {other.name}.{there} is {types[there]}"
            found.append(Objection("types", table.name, f"{ends}: both ends of a link need one type"))
    return found


def _doubles(tables: Sequence[HandTable]) -> list[Objection]:
    found = []
    for number, one in enumerate(tables):
        for other in tables[:number]:
            if {tuple(words(name)) for name in one.names} == {tuple(words(name)) for name in other.names}:
                text = f"{other.name} and {one.name} differ only in name: one table with one column more?"
                found.append(Objection("same columns", one.name, text))
    return found


def _reserved(table: HandTable, reserved: Collection[str]) -> list[Objection]:
    names = [name for name in (table.name, *table.names) if name.lower() in reserved]
    if not names:
        return []
    are = "is a word" if len(names) == 1 else "are words"
    return [
        Objection(
            "reserved word", table.name, f"{joined(names)} in {table.name} {are} that databases reserve"
        )
    ]


def _styles(tables: Sequence[HandTable]) -> list[Objection]:
    """Say where names of several words are written in different ways."""
    found: dict[str, str] = {}
    for table in tables:
        for name in (table.name, *table.names):
            style = _style(name)
            if style:
                found.setdefault(style, name)
    if len(found) < 2:
        return []
    told = joined([f"{style} ({name})" for style, name in found.items()])
    return [Objection("naming styles", tables[0].name, f"names are written in several ways: {told}")]


def _style(name: str) -> str:
    if len(words(name)) < 2:
        return ""
    if "_" in name:
        return "with low lines"
    if " " in name:
        return "with spaces"
    return "with capitals" if any(mark.isupper() for mark in name[1:]) else ""
