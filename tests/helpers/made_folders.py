"""Folders that the tests of outputs share: the rough demo sheet, one made to break things, one for several files."""

import csv
from pathlib import Path

import pytest
from folders import folder_of

import pravix.demo
from pravix.assembly import Assembly
from pravix.errors import InputError
from pravix.first_normal_form.answer import Answer
from pravix.first_normal_form.findings import findings
from pravix.first_normal_form.repairing import repaired
from pravix.folder.reader import open_folder
from pravix.ledger.wishes import Wishes
from pravix.relation.relation import Relation
from pravix.sources.read import read_source

LONG = "a" * 300
AWKWARD = [
    'drum "no"',
    "select",
    "x; DROP TABLE y;--",
    "../up",
    "=1+1",
    "<script>",
    "né, 50%",
    "Née, 50%",
    LONG,
    LONG + "b",
    "NÉE, 50%",
]


@pytest.fixture(scope="module")
def rough(tmp_path_factory):
    """The rough demo sheet with everything repaired that can be: lists, families, flags, computed columns."""
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries_rough.csv"))).relation
    answers = [
        Answer(one.id, one.answers[0], "treatment" if one.answers[0] == "merge" else "")
        for one in findings(relation)
        if one.answers and one.answers[0] in ("split", "merge", "leave out")
    ]
    kept = []
    for answer in answers:
        try:
            repaired(relation, [*kept, answer])
            kept.append(answer)
        except InputError:
            continue
    assert len(kept) >= 3
    return folder_of(relation, tmp_path_factory.mktemp("rough") / "made", kept)


@pytest.fixture(scope="module")
def awkward(tmp_path_factory):
    rows = [
        [
            f"{n}",
            f"K{n % 4}",
            f"n'{n % 4}\\",
            f"../{n}",
            "=cmd()" if n % 2 else "",
            "<b>;--",
            "é",
            "%s",
            f"{n % 3}:x",
            f'"{n % 5}"',
            "@a",
        ]
        for n in range(60)
    ]
    relation = Relation.from_rows(AWKWARD, rows)
    path = tmp_path_factory.mktemp("awkward") / "made"
    return folder_of(
        relation,
        path,
        accepted=['select -> "x; DROP TABLE y;--"'],
        wishes=Wishes(surrogates="always", numbering="shared"),
    )


@pytest.fixture(scope="module")
def several(tmp_path_factory):
    """One design for three files of the same things, with names and cells made to break things."""
    path = tmp_path_factory.mktemp("several")
    uses = [[f"K{n}", f"n'{n}\\", "=cmd()" if n % 2 else "<b>;--", '"é", %s'] for n in range(12)]
    sheets = {
        "x; DROP": (
            ["line", 'keeper "no"', "select", "note"],
            [[f"{n}", *uses[n % 12][:2], "@"] for n in range(60)],
        ),
        "keepers <b>": (["no", "name", "../up", "née"], uses),
        "Select": (['keeper "no"', "order"], [[one[0], f"{n}:x"] for n, one in enumerate(uses[:7])]),
    }
    for name, (header, rows) in sheets.items():
        with (path / f"{name}.csv").open("w", newline="", encoding="utf-8") as file:
            csv.writer(file).writerows([header, *rows])
    Assembly.of([str(path / f"{name}.csv") for name in sheets]).write(path / "made")
    folder = open_folder(path / "made")
    assert any(len(table.sources) == 2 for table in folder.tables)
    return folder
