"""The command that finds which columns of several tables refer to which keys of others."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import click

from pravix.cli.options import json_option
from pravix.cli.show import Screen, print_json
from pravix.discovery.inclusions import Columns
from pravix.handover.connections import connections_document
from pravix.handover.diagram import write_diagram
from pravix.judgement.link_remarks import LinkRemark, link_remarks
from pravix.judgement.linking import Link, Linked, linked
from pravix.relation.relation import Relation
from pravix.sources.several import read_several
from pravix.wording import counted, joined


@click.command("connect")
@click.argument("sources", metavar="SOURCE...", nargs=-1, required=True)
@click.option("--diagram", metavar="FILE", help="Draw the tables and their links into an SVG or PNG file.")
@json_option
def command(sources: tuple[str, ...], diagram: str | None, as_json: bool) -> None:
    """Find the links among several tables: files, folders of them, sheets of a workbook, a database.

    For each link: how sure it is and why, how many rows refer to one, and which values refer to nothing.
    """
    read = read_several(sources)
    relations = {name: source.relation for name, source in read.items()}
    found = linked(relations)
    remarks = link_remarks(relations, found)
    document = connections_document(relations, found, remarks)
    if diagram is not None:
        write_diagram(document, diagram)
    if as_json:
        print_json(document)
    else:
        _show(Screen(), relations, found, remarks, document)


def _show(
    screen: Screen,
    relations: Mapping[str, Relation],
    found: Linked,
    remarks: list[LinkRemark],
    document: Mapping[str, Any],
) -> None:
    screen.heading("Tables")
    rows = []
    for name, relation in relations.items():
        keys = found.keys[name]
        key = ", ".join(keys[0]) if keys else "none"
        rows.append([name, f"{relation.row_count:,}", key, ", ".join(relation.names)])
    screen.table(["Table", "Rows", "Key", "Columns"], rows, numbers=["Rows"])
    screen.heading("Links")
    told = {(entry["here"], entry["there"]): entry["told"] for entry in document["links"]}
    for link in found.links:
        here, there = link.inclusion.here, link.inclusion.there
        screen.line(f"{here} -> {there}", indent=2, style="bold")
        screen.line(f"{told[str(here), str(there)]}. {_why(link)}", indent=5)
        others = found.others.get(here, ())[:2]
        if others:
            screen.line(f"Less likely: {joined([_named(other) for other in others], 'or')}.", indent=5)
    if not found.links:
        screen.line("None was found.", indent=2)
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
