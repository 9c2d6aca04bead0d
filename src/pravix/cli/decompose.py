"""The command that splits a file into third normal form and tells how."""

from __future__ import annotations

import click

from pravix.cli import helped
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
from pravix.design.costs import repeats_by_column
from pravix.discovery.budget import Budget
from pravix.document.design_document import design_document
from pravix.document.entry import as_data
from pravix.folder.formats import FORMATS
from pravix.pictures.drawing import check_figure_path
from pravix.pictures.figure import write_repeats_figure
from pravix.sources.reading import Reading


@helped.command("decompose")
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
@click.option("--figure", metavar="FILE", help="Draw what repeats, before and after (PNG, SVG or PDF).")
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
    figure: str | None,
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
    if figure is not None:
        check_figure_path(figure)
    analysis = CommandAnalysis(source, reading, ledger, blanks, largest, budget=budget, policies=policies)
    if out:
        from pravix.services.handing_over import foresee, write_results

        foresee(analysis)
    design = analysis.design
    repeats = repeats_by_column(design) if figure is not None else []
    screen = Screen()
    if as_json:
        print_json(as_data(design_document(design, analysis.ledger.meanings, elsewhere=analysis.elsewhere)))
    else:
        (show_story if full else show_summary)(screen, analysis)
    if figure is not None:
        write_repeats_figure(repeats, analysis.source.account.name, figure)
    if not design.proof.holds:
        if out and not as_json:
            screen.line(f"Nothing was written to {out}: first mend the rows named above, or the ledger.")
        context.exit(1)
    if out:
        made = write_results(analysis, out, harmless, tables_as)
        if not as_json:
            screen.heading("Written")
            screen.line(f"{out}: {', '.join(made.files)}", indent=2)
            if not made.filled:
                screen.line("The rows stay where they are. To fill the tables beside the flat table:")
                screen.line(f"pravix load {out} URL --from TABLE", indent=2)
