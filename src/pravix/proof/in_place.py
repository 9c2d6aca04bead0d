"""The proof of tables in a database: keys, references, and the flat rows given back, all counted there."""

from __future__ import annotations

from collections.abc import Iterator

from pravix.databases.database import Database
from pravix.databases.known import database
from pravix.engines.flat import Flat
from pravix.engines.place import Place
from pravix.engines.tables import flat_table
from pravix.errors import InputError
from pravix.folder.reader import Folder
from pravix.loading.in_place import rows_in_place
from pravix.proof.claim import Claim
from pravix.proof.proving import proved_by_algebra
from pravix.sources.reading import Reading
from pravix.sql.filling import rows_given_back
from pravix.sql.holding import claims
from pravix.sql.view import view_name
from pravix.wording import counted, joined


def prove_in_place(folder: Folder, url: str, reading: Reading) -> list[Claim]:
    """Return what was checked of tables in a database, each with whether it holds.

    ``reading`` names the flat table or query there that they were made from. Nothing is changed, and all is
    looked at in one state of the rows where the database keeps one. Raises InputError where the flat table
    cannot be read. Cost: a few passes over the tables, made there.
    """
    flat = flat_table(url, folder.read_alike(reading), written=True)
    try:
        kind = database(flat.place.adaptor.name)
        fitted = folder.fitted(kind)
        found = [_rules_told(fitted, flat.place, kind), _given_back(fitted, flat, kind)]
    finally:
        flat.place.close()
    return [*found, *proved_by_algebra(fitted.document)]


def _number(place: Place, query: str) -> int:
    return int(place.run(query)[0][0])


def _rules_told(folder: Folder, place: Place, kind: Database) -> Claim:
    """Return whether every key identifies and every reference is found, counted anew."""
    broken = list(_broken(folder, place, kind))
    if broken:
        return False, f"Not as the design says: {joined(broken)}."
    links = sum(len(table.foreign_keys) for table in folder.tables)
    told = f"{counted(len(folder.tables), 'table')}, {counted(links, 'link')}"
    return True, f"In {place.name} every key identifies a row, and every reference is found ({told})."


def _broken(folder: Folder, place: Place, kind: Database) -> Iterator[str]:
    for claim in claims(folder.design, kind):
        try:
            against = _number(place, claim.against)
        except InputError as refused:
            yield str(refused)
            return
        if against:
            yield f"{claim.told}, but for {against:,}"


def _given_back(folder: Folder, flat: Flat, kind: Database) -> Claim:
    """Return whether the view gives exactly the flat rows."""
    view, wanted = view_name(folder.design), flat.row_count
    told = rows_given_back(folder.design, kind, rows_in_place(folder.design, flat, kind), view)
    try:
        given = _number(flat.place, f"SELECT COUNT(*) FROM {kind.quoted(view)}")
        same = _number(flat.place, f"SELECT COUNT(*) FROM (\n{told.query}\n) q")
    except InputError as refused:
        return False, f"The view {view} cannot be asked: {refused}."
    complaint = told.complaint(view, given, same, wanted)
    if complaint:
        return False, f"{complaint[0].upper()}{complaint[1:]}."
    return True, f"The view {view} gives exactly the {counted(wanted, 'row')} of the flat table."
