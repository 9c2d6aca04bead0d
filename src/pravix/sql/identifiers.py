"""Names made to fit a database: not too long, and different in all that it tells apart."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TypeVar

from msgspec.structs import replace

from pravix.databases.database import Database
from pravix.document.model import (
    Document,
    JointDocument,
    LinkDocument,
    PartDocument,
    Reference,
    TableDocument,
)
from pravix.first_normal_form.rebuilt import FromChild, Rebuilt
from pravix.wording import unused

_Part = TypeVar("_Part", bound=PartDocument)


class _Renaming:
    """Other names for the tables of a design and, in each, for its columns."""

    def __init__(self, tables: Mapping[str, str], columns: Mapping[str, Mapping[str, str]]) -> None:
        self._tables = tables
        self._columns = columns

    def of_part(self, part: _Part) -> _Part:
        """Return the design of a source with the names."""
        return replace(
            part,
            main=self._tables[part.main],
            tables=tuple(map(self.of_table, part.tables)),
            rebuild=tuple(map(self._of_rebuilt, part.rebuild)),
        )

    def of_table(self, table: TableDocument) -> TableDocument:
        """Return a table with the names."""
        own = self._columns[table.name]
        return replace(
            table,
            name=self._tables[table.name],
            columns=tuple(
                replace(column, name=own[column.name], stands_for=column.flat) for column in table.columns
            ),
            primary_key=tuple(own[name] for name in table.primary_key),
            candidate_keys=tuple(tuple(own[name] for name in key) for key in table.candidate_keys),
            foreign_keys=tuple(self._of_link(link, own) for link in table.foreign_keys),
            checks=tuple(replace(check, column=own[check.column]) for check in table.checks),
            roles=tuple(
                replace(role, columns={own[name]: flat for name, flat in role.columns.items()})
                for role in table.roles
            ),
            surrogate=own[table.surrogate] if table.surrogate else "",
            apart_from=self._tables[table.apart_from] if table.apart_from else "",
            independent_of=self._tables[table.independent_of] if table.independent_of else "",
        )

    def _of_link(self, link: LinkDocument, own: Mapping[str, str]) -> LinkDocument:
        there = self._columns[link.references.table]
        return replace(
            link,
            columns=tuple(own[name] for name in link.columns),
            references=Reference(
                table=self._tables[link.references.table],
                columns=tuple(there[name] for name in link.references.columns),
            ),
        )

    def _of_rebuilt(self, entry: Rebuilt) -> Rebuilt:
        if not isinstance(entry, FromChild):
            return entry
        position = self._columns[entry.table][entry.position]
        return replace(entry, table=self._tables[entry.table], position=position)


def fitted(document: Document, database: Database) -> Document:
    """Return a design whose names fit a database; where all do, it says the same as it did."""
    tables = _names([table.name for table in document.tables], database, database.key_ending, relations=True)
    columns = {table.name: _names(table.column_names, database) for table in document.tables}
    renaming = _Renaming(tables, columns)
    if isinstance(document, JointDocument):
        parts = {name: _fitted(part, renaming, database) for name, part in document.parts.items()}
        return replace(document, tables=tuple(map(renaming.of_table, document.tables)), parts=parts)
    return _fitted(document, renaming, database)


def _fitted(part: _Part, renaming: _Renaming, database: Database) -> _Part:
    """Return the design of one source with other names, those of its flat view included."""
    needed = [name for entry in part.rebuild for name in entry.needs]
    view = _names(dict.fromkeys([*part.source.columns, *needed]), database)
    return replace(renaming.of_part(part), view_columns=view)


def renamed(document: Document, tables: Mapping[str, str]) -> Document:
    """Return a design whose tables have other names, by their names; columns keep theirs."""
    columns = {table.name: {name: name for name in table.column_names} for table in document.tables}
    renaming = _Renaming(tables, columns)
    if isinstance(document, JointDocument):
        parts = {name: renaming.of_part(part) for name, part in document.parts.items()}
        return replace(document, tables=tuple(map(renaming.of_table, document.tables)), parts=parts)
    return renaming.of_part(document)


def _names(
    names: Iterable[str], database: Database, spare: int = 0, relations: bool = False
) -> dict[str, str]:
    """Return a name for each: cut to what the database allows, numbered where it would meet another.

    ``spare`` letters are left for what the database puts behind it.
    """
    free = Names(database, relations=relations)
    return {name: free.free(name, spare) for name in names}


class Names:
    """The names that are taken in a database, where names must differ in all that it tells apart.

    Those of ``relations`` are the names of tables, views and indexes.
    """

    def __init__(self, database: Database, taken: Iterable[str] = (), relations: bool = False) -> None:
        self._database = database
        self._relations = relations
        self._taken = set(map(database.folded, taken))

    def free(self, name: str, spare: int = 0) -> str:
        """Return a name that fits, with room for ``spare`` letters, and is not taken; and take it."""
        database = self._database

        def numbered(number: int) -> str:
            ending = f"_{number}"
            return database.fit(name, spare + len(ending), self._relations) + ending

        fit = database.fit(name, spare, self._relations)
        fit = unused(fit, lambda one: database.folded(one) in self._taken, numbered)
        self._taken.add(database.folded(fit))
        return fit
