"""Folders of results made from a relation, as ``decompose --out`` makes them."""

from pravix.design.build import designed
from pravix.discovery.search import discover
from pravix.first_normal_form.repair import Repaired
from pravix.first_normal_form.repairing import repaired
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.judgement.judge import judge
from pravix.ledger.wishes import Wishes
from pravix.theory.dependency import parse_dependencies


def folder_of(relation, path, answers=(), accepted=(), wishes=None, meanings=(), tables_as="csv"):
    mended = repaired(relation, answers) if answers else Repaired(relation, relation)
    rules = [rule for text in accepted for rule in parse_dependencies(text)]
    judgement = judge(mended.relation, discover(mended.relation, largest=3), rules, opaque=mended.opaque)
    write_design(designed(mended, judgement, wishes or Wishes()), str(path), meanings, tables_as=tables_as)
    return open_folder(path)
