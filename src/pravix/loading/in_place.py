"""The tables of a design made where the flat table is: created, filled by INSERT ... SELECT, and proved
there.

No row comes to the client. The flat table is only read.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec.structs import replace

from pravix.databases.database import Database
from pravix.databases.known import database
from pravix.document.model import DesignDocument
from pravix.engines.flat import Flat
from pravix.engines.tables import flat_table
from pravix.errors import InputError
from pravix.first_normal_form.elsewhere import gives, replayed
from pravix.folder.reader import Folder
from pravix.loading.load import Loaded, make_room, session_of
from pravix.loading.sessions import RefusedError, Session
from pravix.progress import Progress
from pravix.sources.connecting import connected
from pravix.sources.reading import Reading
from pravix.sql.filling import FlatRows, fill_statements, rows_given_back
from pravix.sql.flat_rows import flat_rows, rows_by_name
from pravix.sql.holding import claims
from pravix.sql.schema import beyond, held_otherwise, schema_statements
from pravix.sql.view import view_name
from pravix.wording import counted, joined, shortened


def load_in_place(
    folder: Folder, url: str, reading: Reading, instead: bool = False, progress: Progress | None = None
) -> Loaded:
    """Create the tables of a design beside its flat table, fill them from it, and prove them there.

    ``reading`` names the table or the query. All or nothing, as ``load_folder`` does it. What is proved:
    every reference finds its row, and every flat row is what the view puts together for it, with as many
    rows. Raises InputError, with nothing changed, where the flat table has other columns, the database
    refuses, or the proof fails.
    """
    flat = flat_table(url, folder.read_alike(reading), written=True)
    try:
        kind = database(flat.place.adaptor.name)
        rows = rows_in_place(folder.design, flat, kind)
        count, taken = flat.row_count, "" if getattr(flat.source, "schema", "") else str(flat.source.name)
    finally:
        flat.place.close()
    target = connected(url)
    fitted = folder.fitted(kind)
    lacking = beyond(fitted.document, kind)
    if lacking:
        raise InputError(
            f"{target.name} cannot do this exactly: {lacking}", "Keep that column: pravix repair --keep"
        )
    told = progress or (lambda table, done: None)
    names, view = [table.name for table in fitted.tables], view_name(fitted.design)
    _check_apart(names, view, taken)
    try:
        with session_of(kind)(target, kind) as session:
            make_room(session, (names, [view]), target.name, instead)
            built = session.staged(_with_late_references(fitted))
            statements = schema_statements(built.document, kind, filled=True)
            for statement in statements.tables:
                session.execute(statement)
            told(f"filling {counted(len(names), 'table')} from {counted(count, 'row')}", 0)
            for statement in fill_statements(built.design, kind, rows):
                session.execute(statement)
            counts = [session.count(kind.quoted(table.name)) for table in built.tables]
            for statement in (*statements.indexes, *statements.references):
                session.execute(statement)
            told("holding the view against the flat table", 0)
            session.shown(fitted, {view: schema_statements(fitted.document, kind).views[0]})
            _prove(session, fitted.design, kind, rows, count)
    except RefusedError as refused:
        raise InputError(f"{target.name} could not be loaded: {refused}", "Nothing was changed.") from None
    return Loaded(
        target.name,
        dict(zip(names, counts, strict=True)),
        {view: count},
        held_otherwise(_with_late_references(fitted).document, kind),
        kind.keeps_rules,
    )


def _with_late_references(folder: Folder) -> Folder:
    """Return a folder whose tables refer to themselves only when all rows are in: they come in no order."""
    tables = tuple(
        replace(
            table,
            foreign_keys=tuple(
                replace(link, circular=True) if link.references.table == table.name else link
                for link in table.foreign_keys
            ),
        )
        for table in folder.design.tables
    )
    return Folder(folder.path, replace(folder.design, tables=tables))


def _check_apart(names: Sequence[str], view: str, flat: str) -> None:
    """Raise InputError where a table, or the view, would have the name of the flat table."""
    if flat.lower() in {name.lower() for name in names}:
        raise InputError(
            f"the design has a table {shortened(flat)}, which is the name of the flat table",
            "Rename it: pravix arrange SOURCE --rename, and decompose again.",
        )
    if flat.lower() == view.lower():
        raise InputError(
            f"the view of the flat rows is called {shortened(view)}, which is the name of the flat table",
            "Load from a view of it under another name: --from.",
        )


def _prove(session: Session, design: DesignDocument, kind: Database, rows: FlatRows, wanted: int) -> None:
    """Raise InputError where a reference finds no row, or the view does not give back exactly the flat
    rows.
    """
    if not session.verified(design.tables, {}).references_hold:
        raise InputError("a reference finds no row", "Nothing was changed.")
    for claim in claims(design, kind) if not kind.keeps_rules else ():
        if session.number(claim.against):
            raise InputError(f"it is not so that {claim.told}", "Nothing was changed.")
    view = view_name(design)
    given, told = session.count(kind.quoted(view)), rows_given_back(design, kind, rows, view)
    same = session.count(f"(\n{told.query}\n) q")
    complaint = told.complaint(view, given, same, wanted)
    if complaint:
        raise InputError(
            complaint,
            "Nothing was changed. If the table changed since it was decomposed, decompose it again.",
        )


def rows_in_place(design: DesignDocument, flat: Flat, kind: Database) -> FlatRows:
    """Return the flat rows as SQL, repaired as the design repairs them.

    Raises InputError where they have other columns than the design's source.
    """
    lacking = [name for name in design.source.columns if name not in flat.names]
    if lacking:
        raise InputError(
            f"the flat table lacks {joined(list(map(shortened, lacking)))}",
            "Give the table that was decomposed.",
        )
    return flat_rows(flat, replayed(flat, design.rebuild), kind)


def script_in_place(folder: Folder, kind: Database, reading: Reading) -> Iterator[str]:
    """Yield the statements of a script that does what ``load_in_place`` does, to be run by hand; it takes
    the spaces around cells away.

    The last one counts the flat rows, and those that the view gives back. Raises InputError where columns
    were repaired in their place: which values there are only the database can tell.
    """
    fitted = _with_late_references(folder.fitted(kind))
    design = fitted.design
    repaired = [one.column for one in design.rebuild if gives(one, design.source.columns)]
    split = {one.column for one in design.children()}
    repaired = [name for name in repaired if name not in split]
    if repaired:
        raise InputError(
            f"{joined(list(map(shortened, repaired)))} was repaired value by value: no script can say it",
            "Let Pravix fill the tables: pravix load DIR URL --from TABLE",
        )
    rows = rows_by_name(folder.read_alike(reading), design.source.columns, kind)
    statements = schema_statements(design, kind, filled=True)
    yield from statements.tables
    yield from fill_statements(design, kind, rows)
    yield from (*statements.indexes, *statements.references, *statements.views)
    told = rows_given_back(design, kind, rows, view_name(design))
    name = "given_back" if told.alike else "kinds_of_rows_that_differ"
    yield (
        f"SELECT (SELECT COUNT(*) FROM {rows.sql}) AS flat_rows,\n"
        f"(SELECT COUNT(*) FROM (\n{told.query}\n) q) AS {name}"
    )
