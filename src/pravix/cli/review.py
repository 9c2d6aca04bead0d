"""The command that reviews designs made by hand, or the catalogue of a database."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import click

from pravix.cli import helped
from pravix.cli.options import json_option
from pravix.cli.show import Screen, print_json
from pravix.databases.known import DATABASES
from pravix.design.comparing import DesignSummary, compared
from pravix.design.critique import Objection, TableReview
from pravix.design.sentences import Coverage
from pravix.services.reviewing import drafted_design, read_designs, review, write_sql
from pravix.wording import counted, joined


@helped.command("review")
@click.argument("designs", metavar="[FILE_OR_URL]...", nargs=-1)
@click.option("--data", metavar="FILE", help="Say whether the rows of FILE agree with the rules.")
@click.option("--sentences", metavar="FILE", help="Say which words of FILE the tables cover, and which not.")
@click.option("--draft", metavar="FILE", help="Write a first draft from the sentences into a new FILE.")
@click.option("--sql", "sql_file", metavar="FILE", help="Write what creates the tables into FILE.")
@click.option(
    "--for", "kind", type=click.Choice(DATABASES), default="sqlite", show_default=True, help="Whose SQL."
)
@click.option(
    "--ledger", metavar="FILE", help="The file with your synonyms: [synonyms] beekeeper = 'keeper'."
)
@json_option
@click.pass_context
def command(
    context: click.Context,
    designs: tuple[str, ...],
    data: str | None,
    sentences: str | None,
    draft: str | None,
    sql_file: str | None,
    kind: str,
    ledger: str | None,
    as_json: bool,
) -> None:
    """Review relations written by hand, the SQL that creates tables, or the tables of a database.

    Told are keys, normal forms, links, names and types.

    Several designs of one thing are set side by side. The exit status is 1 where a table is below third
    normal form, a link or a rule is broken. With --draft the sentences become a first design to edit. With
    --sql a design becomes SQL; its columns have the types that it says, or those of the rows of --data.
    """
    if draft is not None:
        if sentences is None or designs or data or as_json:
            raise click.UsageError("--draft needs --sentences, and nothing beside it")
        written = drafted_design(sentences, draft)
        click.echo(
            f"Written: {draft}, {counted(len(written), 'table')}. Edit it, then: pravix review {draft}"
        )
        return
    if not designs:
        raise click.UsageError("Missing argument '[FILE_OR_URL]...'.")
    read = read_designs(designs)
    if len(read) > 1:
        accounts = compared(read)
        if as_json:
            told = [
                {**vars(one), "repeated": one.repeated, "cannot_store": one.cannot_store} for one in accounts
            ]
            print_json({"format": "pravix.comparison", "version": 1, "designs": told})
        else:
            _show_compared(Screen(), accounts)
        return
    (tables,) = read.values()
    if sql_file is not None:
        write_sql(tables, kind, sql_file, data)
    done = review(tables, data, sentences, ledger)
    reviews, found, rules, lacking, words = done.tables, done.objections, done.rules, done.lacking, done.words
    if as_json:
        document = _document(reviews, found)
        if data:
            broken = [{"rule": str(one.rule), "rows": list(one.broken)} for one in rules]
            document |= {"rules_in_the_rows": broken, "columns_not_in_the_rows": lacking}
        if words is not None:
            document |= {"words": {"covered": dict(words.covered), "missing": dict(words.missing)}}
            document |= {"needless_tables": list(words.needless)}
        print_json(document)
    else:
        screen = Screen()
        _show(screen, reviews, found)
        if sql_file is not None:
            screen.line(f"Written: {sql_file}")
        if data:
            screen.heading(f"In the rows of {Path(data).name}")
            for one in rules:
                screen.check(not one.broken, f"{one.text}.")
            if lacking:
                screen.line(f"The rows have no {joined(lacking)}.", indent=2)
        if words is not None:
            _show_words(screen, words)
    if not done.sound:
        context.exit(1)


def _document(reviews: Sequence[TableReview], found: Sequence[Objection]) -> dict[str, object]:
    return {
        "format": "pravix.review",
        "version": 1,
        "tables": [
            {
                "name": one.table.name,
                "candidate_keys": [list(key) for key in one.keys],
                "normal_form": one.form.value,
                "reasons": list(one.reasons),
                "split_into": list(one.parts),
            }
            for one in reviews
        ],
        "objections": [{"about": one.about, "table": one.table, "text": one.text} for one in found],
    }


def _show(screen: Screen, reviews: Sequence[TableReview], found: Sequence[Objection]) -> None:
    rows = [
        [one.table.name, joined([", ".join(key) for key in one.keys], "or"), one.form.value]
        for one in reviews
    ]
    screen.table(["Table", "Candidate keys", "Form"], rows)
    for one in reviews:
        if not one.reasons:
            continue
        screen.heading(f"{one.table.name} is in {one.form.value} because")
        for text in one.reasons:
            screen.line(text, indent=2, mark="- ")
        if one.parts:
            screen.line(f"Split it: {' '.join(one.parts)}", indent=2)
    if found:
        screen.heading("Worth a look")
    for objection in found:
        screen.line(f"{objection.text}.".replace("?.", "?"), indent=2, mark="- ")
    if not found and not any(one.reasons for one in reviews):
        screen.line()
        screen.line("Nothing to object to.")


def _show_words(screen: Screen, words: Coverage) -> None:
    screen.heading("Words of the sentences")
    rows = [[word, joined(places)] for word, places in words.covered.items()]
    rows += [[word, f"nowhere (line {', '.join(map(str, lines))})"] for word, lines in words.missing.items()]
    screen.table(["Word", "Where it is"], rows)
    if words.needless:
        screen.line(f"No sentence needs {joined(words.needless)}.", indent=2)


def _show_compared(screen: Screen, accounts: list[DesignSummary]) -> None:
    rows = [
        [one.name, str(one.tables), str(one.columns), str(one.joins), str(len(one.repeated))]
        for one in accounts
    ]
    headings = ["Design", "Tables", "Columns", "References", "Repeats"]
    screen.table(headings, rows, numbers=headings[1:])
    for one in accounts:
        if one.repeated:
            screen.heading(f"{one.name} repeats")
        for text in one.repeated:
            screen.line(text, indent=2, mark="- ")
        if one.cannot_store:
            screen.heading(f"{one.name} cannot store")
        for text in one.cannot_store:
            screen.line(text, indent=2, mark="- ")
