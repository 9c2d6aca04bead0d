"""The command that finds which columns of several tables refer to which keys of others."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import click

from pravix.assembly import Assembly
from pravix.cli import helped
from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import json_option
from pravix.cli.show import Screen, print_json
from pravix.cli.story import referred
from pravix.design.joint import Joint
from pravix.design.joint_telling import remarks_told
from pravix.discovery.inclusions import Columns
from pravix.document.connections import ConnectionsDocument, connections_document
from pravix.document.entry import as_data
from pravix.judgement.link_remarks import LinkRemark, link_remarks
from pravix.judgement.linking import Link, Linked, linked
from pravix.pictures.diagram import write_diagram
from pravix.proof.claim import Claim
from pravix.relation.relation import Relation
from pravix.wording import counted, joined


@helped.command("connect")
@click.argument("sources", metavar="SOURCE...", nargs=-1, required=True)
@click.option(
    "--diagram", metavar="FILE", help="Draw the tables and their links into FILE (SVG, PNG or PDF)."
)
@click.option("--out", metavar="DIR", help="Decompose each and write one design for all into DIR.")
@json_option
def command(sources: tuple[str, ...], diagram: str | None, out: str | None, as_json: bool) -> None:
    """Find the links among several tables: files, folders of them, sheets of a workbook, a database.

    For each link: how sure it is and why, how many rows refer to one, and which values refer to nothing.
    With --out, tables that hold one kind of thing are merged in one design for all; what a file says stays
    as it is, and the rows of each file are proved to come back.
    """
    assembly = Assembly.of(sources, CommandAnalysis)
    relations = assembly.relations
    found = linked(relations)
    remarks = link_remarks(relations, found)
    document = connections_document(relations, found, remarks)
    if diagram is not None:
        write_diagram(document.tables, diagram)
    files = assembly.write(out) if out is not None else []
    if as_json:
        more = {"written": files, "proof": assembly.document.proof_told} if out is not None else {}
        print_json({"format": "pravix.connections", "version": 1, **as_data(document), **more})
        return
    screen = Screen()
    _show(screen, relations, found, remarks, document)
    if out is not None:
        _show_design(screen, assembly.design, assembly.proof)
        screen.heading("Written")
        screen.line(f"{out}: {', '.join(files)}", indent=2)


def _show_design(screen: Screen, joint: Joint, claims: Sequence[Claim]) -> None:
    screen.heading("One design for all")
    rows = []
    for table in joint.tables:
        refers = ", ".join(map(referred, table.foreign_keys))
        key, others = ", ".join(table.primary_key), ", ".join(table.described)
        sources = ", ".join(joint.sources_of(table.name))
        rows.append([table.name, f"{table.rows.total:,}", key, others, refers, sources])
    screen.table(["Table", "Rows", "Primary key", "Other columns", "Refers to", "From"], rows, ["Rows"])
    told = remarks_told(joint)
    if told:
        screen.heading("Merged and linked")
    for _, _, text in told:
        screen.line(text, indent=2, mark="- ")
    screen.heading("Proof")
    for holds, text in claims:
        screen.check(holds, text)


def _show(
    screen: Screen,
    relations: Mapping[str, Relation],
    found: Linked,
    remarks: list[LinkRemark],
    document: ConnectionsDocument,
) -> None:
    screen.heading("Tables")
    rows = []
    for name, relation in relations.items():
        keys = found.keys[name]
        key = ", ".join(keys[0]) if keys else "none"
        rows.append([name, f"{relation.total:,}", key, ", ".join(relation.names)])
    screen.table(["Table", "Rows", "Key", "Columns"], rows, numbers=["Rows"])
    screen.heading("Links")
    told = {(entry.here, entry.there): entry.told for entry in document.links}
    for link in found.links:
        here, there = link.inclusion.here, link.inclusion.there
        screen.line(f"{here} -> {there}", indent=2, style="bold")
        screen.line(f"{told[str(here), str(there)]}. {_why(link)}", indent=5)
        others = found.others.get(here, ())[:2]
        if others:
            screen.line(f"Less likely: {joined([_named(other) for other in others], 'or')}.", indent=5)
    if not found.links:
        screen.line("None was found.", indent=2)
    if found.doubtful:
        screen.heading("Not sure")
    for link in found.doubtful:
        one = link.inclusion
        screen.line(f"{one.here} -> {one.there}? {_why(link)}", indent=2, mark="- ")
    if remarks:
        screen.heading("Worth a look")
    for remark in remarks:
        screen.line(f"{remark.text}.".replace("?.", "?"), indent=2, mark="- ")


def _why(link: Link) -> str:
    one = link.inclusion
    all_of = "All" if one.exact else f"{one.found:,} of"
    parts = [("values", link.values), ("names", link.names), ("kinds", link.kinds), ("orphans", link.orphans)]
    bits = ", ".join(f"{word} {bits:+.1f}" for word, bits in parts if bits)
    return f"{all_of} {counted(one.values, 'value')} are among its {counted(one.keys, 'key')} ({bits} bits)."


def _named(link: Link) -> str:
    there: Columns = link.inclusion.there
    return f"{there} ({link.total:+.1f} bits)"
