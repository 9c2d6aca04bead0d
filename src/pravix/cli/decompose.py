"""The command that splits a file into third normal form and tells how."""

from __future__ import annotations

import click

from pravix.cli.analysis import CommandAnalysis
from pravix.cli.options import (
    blanks_option,
    budget_options,
    json_option,
    largest_option,
    ledger_option,
    policy_options,
    reading_options,
    source_argument,
)
from pravix.cli.show import Screen, print_json
from pravix.cli.story import show_story, show_summary
from pravix.discovery.budget import Budget
from pravix.document.design_document import design_document
from pravix.document.entry import as_data
from pravix.engines.staying import Staying
from pravix.folder.formats import FORMATS
from pravix.folder.writer import write_design
from pravix.sources.reading import Reading


@click.command("decompose")
@source_argument
@reading_options
@click.option(
    "--out", metavar="DIR", help="Write design.json, a file for each table and schema.sql into DIR."
)
@click.option(
    "--tables-as",
    type=click.Choice([*FORMATS, "none"]),
    help="The format of the tables in DIR; none writes the design alone.  [default: csv; parquet for a file "
    "larger than memory, none for a table of a database that is]",
)
@click.option(
    "--harmless/--exact",
    default=False,
    help="Put an apostrophe before cells that a spreadsheet could run as a formula.  [default: exact]",
)
@click.option("--full", is_flag=True, help="Tell every step, link and check, with rows of the file.")
@blanks_option
@largest_option("4, as far as rules are weighed; less where there are very many")
@budget_options
@ledger_option
@policy_options
@json_option
@click.pass_context
def command(
    context: click.Context,
    source: str,
    reading: Reading,
    out: str | None,
    tables_as: str | None,
    harmless: bool,
    full: bool,
    blanks: str,
    largest: int | None,
    budget: Budget,
    ledger: str | None,
    policies: dict[str, str | None],
    as_json: bool,
) -> None:
    """Split the file into tables in third normal form, tell every step, and prove that nothing is lost.

    The exit status is 1 where the proof fails; then nothing is written.
    """

    analysis = CommandAnalysis(source, reading, ledger, blanks, largest, budget=budget, policies=policies)
    design = analysis.design
    screen = Screen()
    if as_json:
        print_json(as_data(design_document(design, analysis.ledger.meanings, elsewhere=analysis.elsewhere)))
    else:
        (show_story if full else show_summary)(screen, analysis)
    if not design.proof.holds:
        if out and not as_json:
            screen.line(f"Nothing was written to {out}: first mend the rows named above, or the ledger.")
        context.exit(1)
    if out:
        files, filled = _written(analysis, out, harmless, tables_as)
        if not as_json:
            screen.heading("Written")
            screen.line(f"{out}: {', '.join(files)}", indent=2)
            if not filled:
                screen.line("The rows stay where they are. To fill the tables beside the flat table:")
                screen.line(f"pravix load {out} URL --from TABLE", indent=2)


def _written(
    analysis: CommandAnalysis, out: str, harmless: bool, tables_as: str | None
) -> tuple[list[str], bool]:
    """Write the folder; return its files, and whether the tables are among them."""
    source, elsewhere = analysis.source, analysis.elsewhere
    meanings, basis = analysis.ledger.meanings, analysis.basis
    if elsewhere is None and tables_as != "none":
        return write_design(analysis.design, out, meanings, basis, harmless, tables_as or "csv"), True
    if elsewhere is None:
        raise click.UsageError("--tables-as none is for rows that stay outside memory: see --memory")
    landed = isinstance(source, Staying) and not (elsewhere.table or elsewhere.query)
    if landed and tables_as in (None, "parquet") and isinstance(source, Staying):
        from pravix.folder.outside import write_outside

        document = design_document(analysis.design, meanings, basis, elsewhere)
        return write_outside(document, source.flat, out), True
    if tables_as not in (None, "none"):
        raise click.UsageError(f"rows that stay outside memory are not written as {tables_as}")
    return write_design(analysis.design, out, meanings, basis, elsewhere=elsewhere), False
