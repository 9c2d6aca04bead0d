"""How long judging takes beside discovery, on 100,000 rows of 20 columns, in one run.

python benchmarks/judging.py [--runs 3]
"""

from __future__ import annotations

import statistics
import time

import click
import tables

from pravix.discovery.search import discover
from pravix.judgement.judge import judge
from pravix.judgement.near import near_dependencies
from pravix.judgement.questions import open_questions
from pravix.judgement.weights import WEIGHED_TO


@click.command(help=__doc__.split("\n")[0])
@click.option("--runs", default=3, show_default=True)
def main(runs: int) -> None:
    """Print the median seconds of both and their ratio; the first run only compiles."""
    relation = tables.relation(tables.twenty_columns())
    discover(relation, largest=WEIGHED_TO)
    searching, judging = [], []
    for _ in range(runs):
        start = time.perf_counter()
        found = discover(relation, largest=WEIGHED_TO)
        between = time.perf_counter()
        judgement = judge(relation, found)
        near = near_dependencies(relation, judgement)
        open_questions(relation, judgement, near)
        searching.append(between - start)
        judging.append(time.perf_counter() - between)
    discovery, judged = statistics.median(searching), statistics.median(judging)
    click.echo(
        f"100,000 x 20: discovery {discovery:.2f} s, judging {judged:.2f} s, ratio {judged / discovery:.2f}"
    )


if __name__ == "__main__":
    main()
