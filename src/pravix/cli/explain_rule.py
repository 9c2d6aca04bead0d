"""How the account of one rule looks: for and against, in bits, with rows of the file."""

from __future__ import annotations

from collections.abc import Sequence

from pravix.cli.analysis import CommandAnalysis
from pravix.cli.show import Screen, print_json
from pravix.cli.show_rows import show_odd_cells, show_rows
from pravix.document.rules import near_document, rule_document
from pravix.judgement.judged import Judged
from pravix.judgement.rule_account import RuleAccount, verdict, weighing_lines
from pravix.judgement.telling import reason
from pravix.judgement.weights import BELIEVED_FROM
from pravix.theory.dependency import in_order, written_in_order
from pravix.theory.inference import inference_steps

_ROWS_NAMED = 8


def explain_rules(analysis: CommandAnalysis, accounts: Sequence[RuleAccount], as_json: bool) -> None:
    """Show the account of each of some rules."""
    if as_json:
        documents = [_document(analysis, account) for account in accounts]
        print_json({"format": "pravix.explanation", "version": 1, "rules": documents})
        return
    screen = Screen()
    screen.line(str(analysis.source.account))
    for account in accounts:
        screen.line()
        _show(screen, analysis.rows_of(account.rule.columns), account)


def _document(analysis: CommandAnalysis, account: RuleAccount) -> dict[str, object]:
    rows = analysis.rows_of(account.rule.columns)
    names, judgement, sure = rows.relation.names, rows.judgement, rows.confidence
    document: dict[str, object] = {
        "rule": written_in_order(account.rule, names),
        "verdict": verdict(account, names),
        "broken_by_rows": list(account.broken),
        "follows_from": [written_in_order(rule, names) for rule in account.chain],
        "inference": [step.by.value for step in inference_steps(account.rule, account.chain)],
        "alternatives": [rule_document(judged, judgement, names, sure) for judged in account.alternatives],
    }
    if account.judged is not None:
        document["judged"] = rule_document(account.judged, judgement, names, sure)
    if account.near is not None:
        document["near"] = near_document(account.near, judgement, names)
    return document


def _show(screen: Screen, rows: Judged, account: RuleAccount) -> None:
    names, judged = rows.relation.names, account.judged
    screen.line(f"{verdict(account, names)}.", style="bold")
    if account.broken:
        named = ", ".join(map(str, account.broken[:_ROWS_NAMED]))
        more = " ..." if len(account.broken) > _ROWS_NAMED else ""
        screen.line(f"Rows that go against the rest of their group: {named}{more}.")
    if account.near is not None:
        show_odd_cells(screen, account.near.odd)
    if judged is not None:
        screen.line(f"Why: {reason(judged, rows.judgement, names)}.")
        _show_weighing(screen, rows, account)
    if account.chain or account.alternatives:
        screen.line()
    if account.chain:
        screen.line("It follows from what is trusted:")
        for step in inference_steps(account.rule, account.chain):
            used, conclusion = (written_in_order(rule, names) for rule in (step.used, step.conclusion))
            also = "" if step.used == step.conclusion else f" gives {conclusion}"
            screen.line(f"{used}{also} ({step.by.value})", indent=2, mark="- ")
    for other in account.alternatives:
        bits = f"{other.weighing.total:+.1f} bits" if other.weighing else ""
        screen.line(f"Instead of it: {written_in_order(other.rule, names)} ({other.standing.value}, {bits}).")


def _show_weighing(screen: Screen, judged_rows: Judged, account: RuleAccount) -> None:
    judged = account.judged
    lines = weighing_lines(judged, judged_rows.relation.names) if judged is not None else []
    if judged is None or judged.weighing is None or judged.evidence is None or not lines:
        return
    rows = [[word, f"{bits:+.1f}", why] for word, bits, why in lines]
    rows.append(["together", f"{judged.weighing.total:+.1f}", f"believed from {BELIEVED_FROM:+.1f} bits on"])
    screen.line()
    screen.table(["", "Bits", "What speaks for and against"], rows, numbers=["Bits"])
    if judged.evidence.example:
        relation = judged_rows.relation
        shown = [*in_order(judged.rule.determinant, relation.names), judged.rule.dependent]
        screen.line()
        screen.line("Two rows that agree, of those that speak most for it:")
        show_rows(screen, relation, judged.evidence.example, shown)
