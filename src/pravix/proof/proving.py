"""The proof of a design repeated from its folder alone, by code of its own, by algebra, and in SQLite.

Everything is worked out anew from the rows and the document. No statement of the folder is carried out.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from pravix.document.design_file import read_plain
from pravix.document.model import Document, JointDocument, PartDocument, RuleDocument, TableDocument
from pravix.errors import InputError
from pravix.folder.reader import Folder, open_folder
from pravix.folder.writer import SCHEMA_FILE, schema_script
from pravix.proof.claim import Claim
from pravix.proof.files import looked_through
from pravix.proof.in_sqlite import in_sqlite
from pravix.theory.decomposition import is_lossless, lost_dependencies
from pravix.theory.dependency import Dependency, written_dependency
from pravix.theory.normal_forms import normal_form
from pravix.wording import counted, joined

_NAMED = 3


def prove_folder(folder: Path) -> list[Claim]:
    """Return what was checked of a folder of results, each with whether it holds.

    Raises InputError where a file is missing, cannot be read, or is no design. Linear in the rows.
    """
    opened = open_folder(folder)
    looked = looked_through(opened)
    claims = [_rows_told(looked.broken, opened.tables), _schema_told(opened)]
    claims += [(holds, _said_of(source, told)) for source, (holds, told) in looked.given_back.items()]
    claims.append(in_sqlite(opened))
    return [*claims, *proved_by_algebra(opened.document)]


def proved_by_algebra(document: Document) -> list[Claim]:
    """Return the claims that need no rows, each with whether it holds."""
    algebra = {source: _by_algebra(part) for source, part in document.parts.items()}
    return [*_together(algebra), *_merged_forms(document)]


def _rows_told(broken: Sequence[str], documents: Sequence[TableDocument]) -> Claim:
    if broken:
        more = f" and {len(broken) - _NAMED:,} more" if len(broken) > _NAMED else ""
        return False, f"Not as the design says: {joined(broken[:_NAMED])}{more}."
    links = sum(len(table.foreign_keys) for table in documents)
    told = f"{counted(len(documents), 'table')}, {counted(links, 'link')}"
    return True, f"All rows obey the keys, the references, the types and the checks ({told})."


def _schema_told(folder: Folder) -> Claim:
    """Return whether the script of the folder is the one that its design gives; it is read, never run."""
    try:
        there = read_plain(folder.path / SCHEMA_FILE).decode()
    except (OSError, UnicodeDecodeError) as error:
        reason = getattr(error, "strerror", None) or error
        raise InputError(f"{SCHEMA_FILE} in {folder.path} cannot be read: {reason}") from None
    if there.split() == schema_script(folder.document).split():
        return True, f"{SCHEMA_FILE} creates these tables with these constraints."
    return False, f"{SCHEMA_FILE} is not the script of this design: write the folder again."


def _said_of(source: str, claim: str) -> str:
    return f"{source}: {claim}" if source else claim


def _together(algebra: Mapping[str, Sequence[Claim]]) -> list[Claim]:
    """Return the claims about several sources, those that hold for all of them once."""
    found: list[Claim] = []
    for claims in zip(*algebra.values(), strict=True):
        if all(holds for holds, _ in claims) and len({told for _, told in claims}) == 1:
            sources = f"each of the {len(claims)} sources" if len(claims) > 1 else ""
            found.append((True, _said_of(sources, claims[0][1])))
        else:
            pairs = zip(algebra, claims, strict=True)
            found += [(holds, _said_of(source, told)) for source, (holds, told) in pairs]
    return found


def _merged_forms(document: Document) -> list[Claim]:
    """Return whether the merged tables of a design for several sources are in third normal form."""
    if not isinstance(document, JointDocument) or not document.rules:
        return []
    columns = {table.name: table.column_names for table in document.tables}
    low = [
        name
        for name, rules in document.rules.items()
        if not normal_form(columns[name], _dependencies(rules)).form.third
    ]
    return [
        (not low, f"Not in 3NF: {joined(low)}." if low else "The merged tables are in third normal form.")
    ]


def _dependencies(rules: Sequence[RuleDocument]) -> list[Dependency]:
    return [Dependency(frozenset(rule.determinant), rule.dependent) for rule in rules]


def _by_algebra(document: PartDocument) -> list[Claim]:
    """Return the claims that need no rows: the chase, preserved rules, and each table's normal form.

    The rows of the file and the parts of each list and family are proved each by their own rules.
    """
    lossless, lost, low = True, list[Dependency](), list[str]()
    for schemes, told in _scopes(document):
        rules, stored = _dependencies(told), frozenset[str]().union(*schemes.values())
        kept = [rule for rule in rules if rule.columns <= stored]
        lossless = lossless and is_lossless(stored, list(schemes.values()), kept)
        lost += lost_dependencies(list(schemes.values()), kept)
        low += [name for name, scheme in schemes.items() if not normal_form(scheme, kept).form.third]
    wished = set(document.proof.wished_below)
    below = [name for name in low if name not in wished]
    form = "Every table is in third normal form."
    if low:
        form = f"Below third normal form as was wished: {joined(low)}; every other table is in it."
    told_lost = joined([written_dependency(sorted(rule.determinant), [rule.dependent]) for rule in lost])
    return [
        (lossless, "The chase shows that the join is lossless."),
        (not lost or document.proof.lost_as_wished, _kept_told(told_lost, document.proof.lost_as_wished)),
        (not below, f"Not in 3NF: {joined(below)}." if below else form),
    ]


def _kept_told(lost: str, as_wished: bool) -> str:
    if not lost:
        return "Each rule can be checked in one table."
    return f"No single table can check {lost}{', the price of what was wished' if as_wished else ''}."


def _scopes(
    document: PartDocument,
) -> Iterator[tuple[dict[str, frozenset[str]], Sequence[RuleDocument]]]:
    """Yield the flat columns of each table (in each role) and the rules: of the file, then of each child.

    Tables with independent lists of one thing count as the one that they make together: that their rows are
    all combinations is no dependency, and is seen when they are joined.
    """
    by_name = document.by_name
    own: dict[str, dict[str, frozenset[str]]] = {of: {} for of in ("", *_bundles(document))}
    for table in document.tables:
        if table.repairs is not None and not table.part_of:
            continue
        for role in table.role_names:
            scheme = _scheme(table, role, by_name)
            parts = [child.of for child in document.made_parts if role and scheme <= {*child.columns}]
            of = own[table.part_of or next(iter(parts), "")]
            name = table.independent_of or f"{table.name} {role}".strip()
            of[name] = of.get(name, frozenset()) | scheme
    yield own[""], document.dependencies
    for child in document.made_parts:
        yield own[child.of], child.dependencies


def _bundles(document: PartDocument) -> list[str]:
    return [child.of for child in document.made_parts]


def _scheme(table: TableDocument, role: str, by_name: Mapping[str, TableDocument]) -> frozenset[str]:
    """Return the flat columns that a table states: its own, and those that its numbers stand for."""
    flat = table.flat_columns(role)
    added = set(table.column_names) - set(flat.values()) - {table.surrogate}
    return frozenset(flat) | _stood_for(table, role, sorted(added), by_name)


def _stood_for(
    table: TableDocument, role: str, columns: Sequence[str], by_name: Mapping[str, TableDocument]
) -> frozenset[str]:
    """Return the flat columns that some columns of a table state, numbers by the key that they lead to."""
    flat = {name: column for column, name in table.flat_columns(role).items()}
    stated = {flat[name] for name in columns if name in flat}
    for link in table.foreign_keys:
        other = by_name[link.references.table]
        if set(link.columns) <= set(columns) and link.references.columns == (other.surrogate,):
            stated |= _stood_for(other, link.role or role, other.natural_key, by_name)
    return frozenset(stated)
