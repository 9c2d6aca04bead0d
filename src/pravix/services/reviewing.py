"""Designs made by hand, or in the catalogue of a database: read, and reviewed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from pravix.databases.known import database
from pravix.design.agreeing import Agreement, agreements
from pravix.design.by_hand import HandTable, catalogue_design, parsed_design
from pravix.design.critique import Objection, TableReview, objections, reviewed
from pravix.design.from_sentences import drafted
from pravix.design.sentences import Coverage, coverage
from pravix.errors import InputError
from pravix.ledger.ledger import read_ledger
from pravix.sources.connecting import inspecting, is_url
from pravix.sources.read import read_source
from pravix.sql.reserved import reserved_words
from pravix.writing import write_text

_DDL = (".sql", ".ddl")


@dataclass(frozen=True)
class Reviewed:
    """What is to be said of one design; ``rules`` and ``lacking`` of its agreement with rows, if asked."""

    tables: Sequence[TableReview]
    objections: Sequence[Objection]
    rules: Sequence[Agreement] = ()
    lacking: Sequence[str] = ()
    words: Coverage | None = None

    @property
    def sound(self) -> bool:
        """Whether every table is in third normal form, and no link or rule is broken."""
        return (
            all(one.form.third for one in self.tables)
            and not any(one.about == "broken link" for one in self.objections)
            and not any(one.broken for one in self.rules)
        )


def read_designs(places: Sequence[str]) -> dict[str, list[HandTable]]:
    """Return the designs in some files or databases, by name. Raises InputError."""
    return {
        place if is_url(place) else Path(place).name: _catalogue(place) if is_url(place) else _written(place)
        for place in places
    }


def review(
    tables: Sequence[HandTable],
    data: str | None = None,
    sentences: str | None = None,
    ledger: str | None = None,
) -> Reviewed:
    """Review a design, perhaps against the rows of a file and the sentences of another. Raises InputError.

    ``ledger`` is the file with the analyst's synonyms.
    """
    rules, lacking = agreements(list(tables), read_source(data).relation) if data else ([], [])
    words = coverage(_text(sentences), list(tables), read_ledger(ledger).synonyms) if sentences else None
    found = objections(list(tables), reserved_words())
    return Reviewed([reviewed(table) for table in tables], found, rules, lacking, words)


def write_sql(tables: Sequence[HandTable], kind: str, path: str, data: str | None = None) -> None:
    """Write what creates the tables of a design in a kind of database, with types as in the rows of a file.

    Raises InputError.
    """
    from pravix.sql.by_hand import statements_by_hand
    from pravix.sql.schema import script

    wanted = database(kind)
    rows = read_source(data).relation if data else None
    write_text(Path(path), script(statements_by_hand(tables, wanted, rows), wanted))


def drafted_design(sentences: str, path: str) -> list[HandTable]:
    """Write a first draft of a design from the sentences of a file; return its tables. Raises InputError.

    A file that is there already is left as it is.
    """
    draft = drafted(_text(sentences))
    if Path(path).exists():
        raise InputError(f"{path} is there already", "Give a new file.")
    write_text(Path(path), [draft])
    return parsed_design(draft, Path(path).name)


def _text(path: str) -> str:
    try:
        return Path(path).read_text(encoding="utf-8")
    except OSError as error:
        raise InputError(f"{path} cannot be read: {error.strerror}") from None
    except UnicodeDecodeError:
        raise InputError(f"{path} is no UTF-8 text", "Save it as UTF-8.") from None


def _written(path: str) -> list[HandTable]:
    if path.lower().endswith(_DDL):
        from pravix.sql.ddl import tables_of_ddl

        return tables_of_ddl(_text(path), Path(path).name)
    return parsed_design(_text(path), Path(path).name)


def _catalogue(url: str) -> list[HandTable]:
    with inspecting(url) as inspector:
        tables = catalogue_design(inspector)
    if not tables:
        raise InputError("the database has no tables", "Choose another database.")
    return tables
