"""New rows that stay outside memory, held against what is stored: the findings are those in memory."""

import re

import pytest
from flat_tables import ALL_ENGINES, database_of, put
from large import NAMES, csv_text, deliveries

from pravix.analysis import Analysis
from pravix.databases.known import database
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.folder.writer import write_design
from pravix.loading.in_place import load_in_place
from pravix.loading.load import load_folder
from pravix.services.checking import check_file
from pravix.sources.reading import Reading

STORED = 1_500


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("stored")
    (made / "deliveries.csv").write_text(csv_text(deliveries(STORED)), encoding="utf-8")
    write_design(Analysis(str(made / "deliveries.csv")).design, str(made / "out"))
    return open_folder(made / "out")


def next_month():
    """Return new rows with all that can be wrong with them."""
    rows = [list(row) for row in deliveries(STORED + 400)]
    old, new = rows[:STORED], rows[STORED:]
    place = {name: NAMES.index(name) for name in NAMES}
    new[5] = list(old[7])
    new[6] = [*old[9][: place["kg"]], "99.9", *old[9][place["kg"] + 1 :]]
    new[10][place["keeper"]] = "Bea"
    new[11][place["kg"]] = "n/a"
    new[12][0] = new[13][0]
    for n, name in ((20, "Bo"), (21, "Ida")):
        new[n][place["keeper_no"]], new[n][place["keeper"]] = "K-9999", name
        new[n][place["village"]], new[n][place["district"]] = (
            new[22][place["village"]],
            new[22][place["district"]],
        )
    new[30][place["day"]] = ""
    return new


def told(checked):
    """Return what findings are about, without the numbers of rows and what is said of them."""
    found = set()
    for one in checked.violations:
        text = re.sub(r" \(rows? [^)]*\)|: row .*| in [\d,]+ (row|rows)\b| \(\d+ rows?\)", "", one.told)
        text = re.sub(r" \(rows? [^)]*\)", "", text).replace("1 row is there already", "1 row there already")
        found.add((one.about, text))
    return found


@pytest.fixture(scope="module")
def in_memory(folder, tmp_path_factory):
    path = tmp_path_factory.mktemp("new") / "new.csv"
    path.write_text(csv_text(next_month()), encoding="utf-8")
    return path, told(check_file(folder, str(path)).checked)


def test_a_large_file_is_checked_as_one_that_fits(folder, in_memory):
    path, wanted = in_memory
    held = check_file(folder, str(path), Reading(memory=1))
    assert told(held.checked) == wanted
    assert held.checked.rows == 400
    assert not held.checked.unseen
    assert len(wanted) >= 7


@pytest.mark.parametrize("engine", ALL_ENGINES)
def test_new_rows_in_a_database_are_checked_there(engine, folder, in_memory, tmp_path):
    _, wanted = in_memory
    with database_of(engine, tmp_path) as url:
        if engine == "spark":
            before = put(url, NAMES, [[cell or None for cell in row] for row in deliveries(STORED)], "before")
            load_in_place(folder.fitted(database(engine)), url, Reading(table=before))
        else:
            load_folder(folder, url)
        new = put(url, NAMES, [[cell or None for cell in row] for row in next_month()], "new rows")
        held = check_file(folder, url, Reading(table=new, memory=1))
        assert told(held.checked) == wanted


def test_many_findings_of_one_rule_are_counted(folder, tmp_path):
    new = [list(row) for row in deliveries(STORED + 400)[STORED:]]
    for n, row in enumerate(new):
        row[NAMES.index("keeper")] = f"Ada {n}"
    (tmp_path / "new.csv").write_text(csv_text(new), encoding="utf-8")
    texts = [
        one.told
        for one in check_file(folder, str(tmp_path / "new.csv"), Reading(memory=1)).checked.violations
    ]
    (more,) = [one for one in texts if one.endswith("more like these")]
    assert len([one for one in texts if "now has keeper" in one]) == 20
    number, known = NAMES.index("keeper_no"), {row[NAMES.index("keeper_no")] for row in deliveries(STORED)}
    assert more == f"{len([row for row in new if row[number] in known]) - 20:,} more like these"


def test_what_does_not_go_together_is_told(folder, tmp_path):
    (tmp_path / "new.csv").write_text(csv_text(deliveries(STORED)), encoding="utf-8")
    new = str(tmp_path / "new.csv")
    for wishes in ({"url": "sqlite:///a.db"}, {"keep": str(tmp_path / "kept.csv")}, {"rejudge": True}):
        with pytest.raises(
            InputError, match="does not fit into memory: its rows are looked at where they are"
        ):
            check_file(folder, new, Reading(memory=1), **wishes)
    held = check_file(folder, new, Reading(memory=1)).checked
    assert [one.told for one in held.violations] == [f"{STORED:,} rows there already"]
    url = f"sqlite:///{tmp_path}/only.db"
    put(url, NAMES, deliveries(STORED))
    with pytest.raises(InputError, match="has no view flat of the tables of"):
        check_file(folder, url, Reading(table="flat rows", memory=1))
    put(url, ["a"], [("1",)])
    load_folder(folder, url)
    with pytest.raises(InputError, match="is no file of this design: it lacks"):
        check_file(folder, url, Reading(table="flat rows", memory=1))
