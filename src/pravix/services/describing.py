"""What columns, codes and tables mean: checked, and recorded."""

from __future__ import annotations

from pravix.analysis import Analysis
from pravix.errors import InputError
from pravix.ledger.meanings import Meaning
from pravix.ledger.recording import record
from pravix.services.keeping import ledger_of
from pravix.wording import joined, meant, shortened


def meaning(
    analysis: Analysis,
    text: str,
    column: str | None = None,
    value: str | None = None,
    table: str | None = None,
) -> Meaning:
    """Return the meaning of a column, of one ``value`` of it, or of a table. Raises InputError."""
    if (column is None) == (table is None) or (value is not None and column is None):
        hint = "Give --column NAME, perhaps --value CODE, or --made-table NAME."
        raise InputError("say of what this is the meaning", hint)
    if column is not None:
        _check_column(analysis, column, value)
    elif table not in [one.name for one in analysis.design.tables]:
        tables = joined([one.name for one in analysis.design.tables])
        raise InputError(f"the design has no table {shortened(table or '')}", f"Its tables: {tables}.")
    return Meaning(text, table=table or "", column=column or "", value=value or "")


def record_meaning(analysis: Analysis, made: Meaning) -> str:
    """Record a meaning and return the ledger's path. Raises InputError."""
    path = ledger_of(analysis)
    record(path, meanings=[made])
    return path


def _check_column(analysis: Analysis, column: str, value: str | None) -> None:
    names, relation = analysis.source.relation.names, analysis.relation
    if column not in {*names, *relation.names}:
        name = analysis.source.account.name
        raise InputError(
            f"{name} has no column {shortened(column)}",
            f"{meant(column, names)}Its columns: {joined(names)}.",
        )
    known = relation.column(column).values if column in relation.names else [value]
    if value is not None and value not in known:
        raise InputError(f"{column} is nowhere {shortened(value)}", "Give a value that the rows have.")
