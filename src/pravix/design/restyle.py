"""The last touch on names: one style, one number, the analyst's own names, and no reserved words."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from functools import partial

from pravix.design.model import ForeignKey, Table
from pravix.design.naming import free_name
from pravix.errors import InputError
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.relation.relation import Relation
from pravix.relation.words import words
from pravix.wording import joined, plural, shortened, singular

_COLUMN_INSTEAD = "value"


def restyled(tables: Sequence[Table], wishes: Wishes, reserved: Collection[str]) -> tuple[Table, ...]:
    """Return the tables with their names and those of their columns as wished.

    A table named in the ledger keeps that name. Others get the number and the style wished for, and a word
    more where the name is ``reserved`` (words in small letters). Columns are called as in the file, unless a
    style is wished for.
    """
    names = _table_names(tables, wishes, reserved)
    columns = {table.name: _column_names(table, wishes, reserved) for table in tables}
    return renamed(tables, names, columns)


def renamed(
    tables: Sequence[Table], names: Mapping[str, str], columns: Mapping[str, Mapping[str, str]]
) -> tuple[Table, ...]:
    """Return the tables under other names, and their columns, given by table, as well; without checks."""
    return tuple(_renamed(table, names, columns) for table in tables)


def _table_names(tables: Sequence[Table], wishes: Wishes, reserved: Collection[str]) -> dict[str, str]:
    names: dict[str, str] = {}
    wished: dict[str, Arrangement] = {}
    for table in tables:
        found = (wishes.about("name", columns) for columns in identifying(table))
        wish = next((one for one in found if one is not None), None)
        if wish is not None:
            wished[table.name] = wish
            names[table.name] = wish.name
            continue
        name = _styled(_in_number(table.name, wishes.number), wishes.style)
        if name.lower() in reserved:
            name = _not_reserved(name, wishes.style, reserved)
        taken = [other for own, other in names.items() if own not in wished]
        names[table.name] = free_name(name, taken)
    _check_wished(names, wished)
    return names


def _check_wished(names: Mapping[str, str], wished: Mapping[str, Arrangement], what: str = "table") -> None:
    """Raise InputError where a wish takes the name of another table, or column of a table."""
    for table, wish in wished.items():
        other = next((one for one in names if one != table and names[one].lower() == wish.name.lower()), None)
        if other is not None:
            raise InputError(
                f"{wish.place or 'name'}: another {what} is called {shortened(wish.name)} already",
                f"Wish for another name, or name that {what} otherwise as well.",
            )


def identifying(table: Table) -> list[frozenset[str]]:
    """Return the flat columns of the natural key, once for each role."""
    if not table.roles:
        flat = {name: column for column, name in table.flat_names.items()}
        return [frozenset(flat.get(name, name) for name in table.natural_key)]
    return [frozenset(dict(role.columns)[name] for name in table.natural_key) for role in table.roles]


def _column_names(table: Table, wishes: Wishes, reserved: Collection[str]) -> dict[str, str]:
    """Return the names of a table's columns: as was wished, or in the style that is wished for."""
    style = wishes.style
    flat: dict[str, list[str]] = {}
    for column, own in table.flat_names.items():
        flat.setdefault(own, []).append(column)
    wished = {
        own: wish
        for own in table.column_names
        for name in flat.get(own, ())
        if (wish := wishes.about("rename", frozenset({name}))) is not None
    }
    names: dict[str, str] = {own: wish.name for own, wish in wished.items()}
    _check_wished(names | {own: own for own in table.column_names if own not in names}, wished, "column")
    for column in table.column_names:
        if column in wished:
            continue
        name = _styled(column, style)
        if style != "file" and name.lower() in reserved:
            name = _with_word(name, _COLUMN_INSTEAD, style)
        names[column] = free_name(name, names.values())
    return names


def _styled(name: str, style: str) -> str:
    found = words(name)
    if style == "file" or not found:
        return name
    if style == "snake":
        return "_".join(found)
    return found[0] + "".join(word.capitalize() for word in found[1:])


def _not_reserved(name: str, style: str, reserved: Collection[str]) -> str:
    """Return a name in the plural, or with one more word, where databases have that word for themselves."""
    plural = _in_number(name, "plural")
    return plural if plural.lower() not in reserved else _with_word(name, "table", style)


def _with_word(name: str, word: str, style: str) -> str:
    if style == "camel":
        return name + word.capitalize()
    return f"{name}_{word}" if name.islower() or "_" in name else f"{name} {word}"


def _in_number(name: str, number: str) -> str:
    """Return a name with its last word in the singular or the plural, spelled as it was."""
    last = words(name)[-1:] if number != "found" else []
    if not last or not last[0].isalpha() or not name.lower().endswith(last[0]):
        return name
    turned = singular(last[0]) if number == "singular" else plural(singular(last[0]))
    kept, word = name[: -len(last[0])], name[-len(last[0]) :]
    return kept + (turned.upper() if word.isupper() and len(word) > 1 else _as_begun(word, turned))


def _as_begun(word: str, turned: str) -> str:
    return turned.capitalize() if word[:1].isupper() else turned


def _renamed(table: Table, names: Mapping[str, str], columns: Mapping[str, Mapping[str, str]]) -> Table:
    own = columns[table.name]
    rename: Callable[[Sequence[str]], tuple[str, ...]] = partial(_all_renamed, own)

    def link(old: ForeignKey) -> ForeignKey:
        references = _all_renamed(columns[old.table], old.references)
        return replace(old, columns=rename(old.columns), table=names[old.table], references=references)

    return replace(
        table,
        name=names[table.name],
        columns=tuple(replace(column, name=own[column.name]) for column in table.columns),
        keys=tuple(map(rename, table.keys)),
        foreign_keys=tuple(map(link, table.foreign_keys)),
        rows=Relation(
            tuple(replace(column, name=own[column.name]) for column in table.rows.columns),
            table.rows.row_numbers,
        ),
        roles=tuple(
            replace(role, columns=tuple((own[name], flat) for name, flat in role.columns))
            for role in table.roles
        ),
        apart_from=names.get(table.apart_from, ""),
        independent_of=names.get(table.independent_of, ""),
        surrogate=own.get(table.surrogate, ""),
    )


def _all_renamed(names: Mapping[str, str], columns: Sequence[str]) -> tuple[str, ...]:
    return tuple(names[column] for column in columns)


def policies_told(wishes: Wishes) -> str:
    """Return the policies that differ from what holds where nothing is said, as a list of words."""
    told = {
        "style": f"names in {wishes.style} style",
        "number": f"table names in the {wishes.number}",
        "surrogates": f"surrogate keys: {wishes.surrogates}",
        "numbering": "one series of numbers for all tables",
        "until": f"tables in {wishes.until.upper()}",
    }
    default = Wishes()
    return joined([text for key, text in told.items() if getattr(wishes, key) != getattr(default, key)])
