"""Next month's file: every planted fault found once, none invented, and good rows loaded once."""

import csv
from pathlib import Path

import pytest
from databases import MARIADB, POSTGRES, new_database, sqlite_at
from folders import folder_of

import pravix.demo
from pravix.errors import InputError
from pravix.ledger.wishes import Arrangement, Wishes
from pravix.loading.load import load_folder
from pravix.relation.relation import Relation
from pravix.sources.read import read_source
from pravix.validation.finding import About
from pravix.validation.inserting import opened_store
from pravix.validation.new_rows import arrived_rows, stored_rows
from pravix.validation.restanding import changed_standings
from pravix.validation.violations import row_key, violations_of

HERE = Path(pravix.demo.__file__)
NEXT = HERE.with_name("deliveries_september.csv")


@pytest.fixture(scope="module", params=["never", "always"])
def folder(request, tmp_path_factory):
    relation = read_source(str(HERE.with_name("deliveries.csv"))).relation
    wishes = Wishes(surrogates=request.param, numbering="shared", style="snake")
    return folder_of(relation, tmp_path_factory.mktemp(request.param) / "made", wishes=wishes)


@pytest.fixture(scope="module")
def arrived(folder):
    new = arrived_rows(folder.document, read_source(str(NEXT)).relation, NEXT.name)
    stored = stored_rows(folder)
    return stored, new, violations_of(folder.document, stored, new)


def test_each_of_the_twelve_planted_faults_is_found_once_and_none_invented(folder, arrived):
    stored, new, found = arrived
    assert (len(stored), len(new)) == (420, 63)
    counted = {about: sum(one.about is about for one in found) for about in About}
    assert counted == {
        About.CHANGED: 4, About.CONTRADICTION: 2, About.CONFLICT: 1, About.KNOWN: 1, About.LIST: 1,
        About.TYPE: 1, About.LENGTH: 1, About.RANGE: 0, About.BLANK: 1, About.ORPHAN: 0, About.REFUSED: 0,
        About.COMPUTED: 0,
    }  # fmt: skip
    told = " ".join(one.told for one in found)
    for part in ("0499 10101", "8.1", "creamed", "12,5", "Marrowfield", "honey_code is blank", "K-301", "row 62",
                 "199.9", "comes 2 times", "district", "Garick"):  # fmt: skip
        assert told.count(part) == 1, part


def test_the_rows_named_are_those_that_say_so(arrived):
    _, new, found = arrived
    with NEXT.open(encoding="utf-8", newline="") as file:
        lines = dict(enumerate(csv.DictReader(file), 2))
    assert [row.number for row in new] == list(lines)
    phones = next(one for one in found if "0499 10101" in one.told)
    assert [number for number, row in lines.items() if row["phone"] == "0499 10101"] == list(phones.rows)
    assert all(
        row["honey_code"] == ""
        for number, row in lines.items()
        for one in found
        if one.about is About.BLANK and number in one.rows
    )


def good(arrived):
    _, new, found = arrived
    return new.numbered({row for one in found for row in one.rows}, others=True)


def append_rows(folder, url, rows):
    with opened_store(folder, url) as store:
        added, refused = store.add(rows)
    assert refused == []
    return added


def view(url):
    with sqlite_at(url.removeprefix("sqlite:///")) as database:
        database.execute("PRAGMA foreign_keys = ON")
        assert database.execute("PRAGMA foreign_key_check").fetchall() == []
        return database.execute("SELECT * FROM flat").fetchall()


def counted_rows(url, folder):
    with sqlite_at(url.removeprefix("sqlite:///")) as database:
        names = [table.name for table in folder.tables]
        return {name: database.execute(f"SELECT COUNT(*) FROM {name}").fetchone()[0] for name in names}


def test_good_rows_are_loaded_once(folder, arrived, tmp_path):
    url = f"sqlite:///{tmp_path}/made.db"
    load_folder(folder, url)
    before, counts = view(url), counted_rows(url, folder)
    added = append_rows(folder, url, good(arrived))
    after = view(url)
    assert len(after) == len(before) + len(good(arrived)) == 469
    assert added == {name: rows - counts[name] for name, rows in counted_rows(url, folder).items()}
    assert (added["delivery_drum"], added["depot"]) == (49, 0)
    new = {tuple(row.cells) for row in good(arrived)}
    plain = {tuple("" if cell is None else str(cell) for cell in row) for row in set(after) - set(before)}
    drum, keeper = (folder.document.source.columns.index(name) for name in ("drum_no", "keeper"))
    assert {(row[drum], row[keeper]) for row in plain} == {(row[drum], row[keeper]) for row in new}
    again = append_rows(folder, url, good(arrived))
    assert set(again.values()) == {0}
    assert view(url) == after


@pytest.mark.parametrize("server", [POSTGRES, MARIADB], ids=["postgresql", "mariadb"])
def test_good_rows_are_loaded_into_a_server(server, folder, arrived):
    with new_database(server) as url:
        load_folder(folder, url)
        assert sum(append_rows(folder, url, good(arrived)).values()) > 100
        assert sum(append_rows(folder, url, good(arrived)).values()) == 0


def test_a_database_without_the_tables_is_refused(folder, arrived, tmp_path):
    with pytest.raises(InputError, match="there is no file"):
        append_rows(folder, f"sqlite:///{tmp_path}/empty.db", good(arrived))
    assert not (tmp_path / "empty.db").exists()
    (tmp_path / "empty.db").touch()
    with pytest.raises(InputError, match="has no table"):
        append_rows(folder, f"sqlite:///{tmp_path}/empty.db", good(arrived))


def test_the_file_itself_has_nothing_new(folder):
    relation = read_source(str(HERE.with_name("deliveries.csv"))).relation
    rows = arrived_rows(folder.document, relation, "deliveries.csv")
    found = violations_of(folder.document, stored_rows(folder), rows)
    assert [one.about for one in found] == [About.KNOWN]
    assert len(found[0].rows) == 420


def test_repaired_columns_are_repaired_again(rough):
    relation = read_source(str(HERE.with_name("deliveries_rough.csv"))).relation
    rows = arrived_rows(rough.document, relation, "deliveries_rough.csv")
    stored = stored_rows(rough)
    assert {tuple(sorted(row.values.items())) for row in rows} == {
        tuple(sorted(row.values.items())) for row in stored
    }
    assert [one.about for one in violations_of(rough.document, stored, rows)] == [About.KNOWN]


def test_a_rule_that_new_rows_break_is_believed_no_more(folder, arrived):
    stored, new, _ = arrived
    told = changed_standings(folder.document, stored, new)
    assert any(text.startswith("keeper_no -> phone was believed") for text in told)
    assert changed_standings(folder.document, stored, good(arrived)) == []


def test_a_range_is_checked_where_it_is_wished_for(tmp_path):
    rows = [[str(n), f"D{n % 6}", str(10 + n % 6), str(n % 9)] for n in range(60)]
    names = ["line_no", "drum_no", "drum_tare", "crates"]
    wishes = Wishes(arrangements=(Arrangement("check", ("drum_tare",), check="range"),))
    made = folder_of(
        Relation.from_rows(names, rows), tmp_path / "made", accepted=["drum_no -> drum_tare"], wishes=wishes
    )
    assert row_key(made.document) == ("line_no",)
    new = arrived_rows(made.document, Relation.from_rows(names, [["99", "D9", "40", "1"]]), "x")
    (found,) = violations_of(made.document, stored_rows(made), new)
    assert (found.about, found.told) == (About.RANGE, "drum_tare 40 lies not between 10 and 15 (row 2)")


def test_another_file_is_refused(folder):
    with pytest.raises(
        InputError, match=r"x.csv is no file of this design: it lacks delivery_no.* and has 1 column more: c"
    ):
        arrived_rows(folder.document, Relation.from_rows(["driver", "c"], [["a", "b"]]), "x.csv")


def test_rows_without_a_key_of_their_own_are_not_loaded(tmp_path):
    rows = [["Ada", "3"], ["Milo", "4"], ["Ada", "3"]] * 5
    names = ["keeper", "crates"]
    made = folder_of(Relation.from_rows(names, rows), tmp_path / "made")
    assert row_key(made.document) == ("row_no",)
    new = arrived_rows(made.document, Relation.from_rows(names, [["Pia", "9"], ["Ada", "3"]]), "x")
    found = violations_of(made.document, stored_rows(made), new)
    assert [(one.about, one.rows) for one in found] == [(About.KNOWN, (3,))]
    with pytest.raises(InputError, match="no key of their own"):
        append_rows(made, f"sqlite:///{tmp_path}/made.db", new[:1])
