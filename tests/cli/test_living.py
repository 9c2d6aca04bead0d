"""Several files and designs made by hand, with the installed program."""

import shutil
from pathlib import Path

import openpyxl
import pytest

import pravix.demo

HERE = Path(pravix.demo.__file__).parent
REGISTERS = [f"register_{name}.csv" for name in ("keepers", "apiaries", "hives", "inspections")]


@pytest.fixture
def registers(tmp_path):
    for name in [*REGISTERS, "whiteboard.txt"]:
        shutil.copy(HERE / name, tmp_path / name)
    return REGISTERS


def make_workbook(registers, folder):
    """Write the registers as the sheets of book.xlsx."""
    book = openpyxl.Workbook()
    for place, name in enumerate(registers):
        page = book.active if place == 0 else book.create_sheet()
        page.title = name.removeprefix("register_").removesuffix(".csv")
        for line in (folder / name).read_text().splitlines():
            page.append(line.split(","))
    book.save(folder / "book.xlsx")


def test_files_are_connected(pravix, registers, tmp_path):
    shown = pravix("connect", *registers, "--diagram", "d.svg")
    assert shown.status == 0
    assert "register_apiaries.keeper -> register_keepers.no" in shown.out
    assert "K-900 (row 9)" in " ".join(shown.out.split())
    assert (tmp_path / "d.svg").stat().st_size > 1000
    document = pravix("connect", *registers, "--json").document
    assert document["format"] == "pravix.connections"
    assert {(link["here"], link["there"]) for link in document["links"]} == {
        ("register_hives.apiary_no", "register_apiaries.apiary_no"),
        ("register_inspections.hive", "register_hives.hive_no"),
        ("register_apiaries.keeper", "register_keepers.no"),
        ("register_inspections.inspector", "register_keepers.no"),
    }


def test_sheets_and_database_tables_are_connected(pravix, registers, tmp_path, sheet):
    make_workbook(registers, tmp_path)
    document = pravix("connect", "book.xlsx", "--json").document
    assert ("apiaries.keeper", "keepers.no") in {(link["here"], link["there"]) for link in document["links"]}
    pravix("decompose", sheet, "--out", "made")
    pravix("load", "made", "sqlite:///made.db")
    document = pravix("connect", "sqlite:///made.db", "--json").document
    assert ("drum.keeper_no", "keeper.keeper_no") in {
        (link["here"], link["there"]) for link in document["links"]
    }
    assert pravix("review", "sqlite:///made.db").status == 0


def test_the_files_of_a_folder_are_connected(pravix, registers, tmp_path):
    (tmp_path / "registers").mkdir()
    for name in registers:
        (tmp_path / name).rename(tmp_path / "registers" / name.removeprefix("register_"))
    (tmp_path / "registers" / "notes.txt").write_text("no table")
    document = pravix("connect", "registers", "--json").document
    assert [table["name"] for table in document["tables"]] == ["apiaries", "hives", "inspections", "keepers"]
    assert len(document["links"]) == 4


def test_one_table_has_no_links(pravix, registers):
    done = pravix("connect", registers[0])
    assert done.status == 2
    assert "links need at least two tables" in done.err


def test_a_whiteboard_is_reviewed(pravix, registers):
    shown = pravix("review", "whiteboard.txt")
    assert shown.status == 1
    assert "Order refers to Keepers, which is no table." in shown.out
    document = pravix("review", "whiteboard.txt", "--json").document
    assert [table["normal_form"] for table in document["tables"]] == ["2NF", "BCNF", "1NF", "BCNF"]


def test_the_notation_that_is_written_is_read_again(pravix, sheet, tmp_path):
    pravix("decompose", sheet, "--out", "made")
    pravix("diagram", "made", "made.txt")
    done = pravix("review", "made.txt")
    assert done.status == 0
    assert "Nothing to object to." in done.out


@pytest.mark.parametrize("design", ["nothing.txt", "sqlite:///no/such/place.db"])
def test_a_design_that_is_not_there_is_one_line(pravix, design):
    done = pravix("review", design)
    assert done.status == 2
    assert len(done.err.splitlines()) <= 2


def test_designs_are_set_side_by_side(pravix, registers, tmp_path):
    (tmp_path / "other.txt").write_text("Drum(_drum_no_, honey_code)\nPhone(_keeper_no_, _phone_)\n")
    shown = pravix("review", "whiteboard.txt", "other.txt")
    assert shown.status == 0
    assert "keeper_no 1 with both phone 1 and phone 2" in shown.out
    document = pravix("review", "whiteboard.txt", "other.txt", "--json").document
    assert [design["tables"] for design in document["designs"]] == [4, 2]


def test_a_design_is_held_against_rows_and_sentences(pravix, sheet, tmp_path):
    (tmp_path / "mine.txt").write_text("Drum(_drum_no_, keeper_no)\nKeeper(_keeper_no_, keeper)\n")
    (tmp_path / "needs.txt").write_text("A beekeeper fills drums.\n")
    (tmp_path / "words.toml").write_text('[synonyms]\nbeekeeper = "keeper"\n')
    options = ["--data", sheet, "--sentences", "needs.txt", "--ledger", "words.toml"]
    shown = pravix("review", "mine.txt", *options)
    assert shown.status == 0
    assert "drum_no -> keeper_no holds in all 48 rows." in shown.out
    document = pravix("review", "mine.txt", *options, "--json").document
    assert list(document["words"]["missing"]) == ["fill"]
    assert document["rules_in_the_rows"] == [
        {"rule": "drum_no -> keeper_no", "rows": []}, {"rule": "keeper_no -> keeper", "rows": []},
    ]  # fmt: skip
    (tmp_path / "wrong.txt").write_text("Keeper(_keeper_no_, drum_no)\n")
    broken = pravix("review", "wrong.txt", "--data", sheet)
    assert broken.status == 1
    assert "keeper_no -> drum_no is broken by" in broken.out
    (tmp_path / "words.toml").write_text("[synonyms]\nbeekeeper = 3\n")
    assert "beekeeper must be a text in quotes" in pravix("review", "mine.txt", *options).err


@pytest.fixture
def joint(pravix, registers, tmp_path):
    shutil.copy(HERE / "deliveries.csv", tmp_path / "deliveries.csv")
    return pravix("connect", *registers, "deliveries.csv", "--out", "all")


def test_one_design_is_written_for_all_files(pravix, joint, tmp_path):
    told = " ".join(joint.out.split())
    assert joint.status == 0
    assert "register_keepers.no = deliveries.keeper_no" in told
    assert "A36 has K-900 in register_apiaries (row 9) and K-132 in deliveries (row 11)" in told
    assert "no reference: 1 value finds nothing there (H999)" in told
    assert "FAILS" not in told
    assert "deliveries: The tables join back to exactly the 420 rows as read, cell by cell" in told
    assert (tmp_path / "all" / "keeper.csv").read_text().startswith("keeper_no,keeper,phone,village,rank\n")
    assert "register_keepers (24 rows)" in (tmp_path / "all" / "README.md").read_text().replace("\\_", "_")


def test_a_folder_for_several_files_is_handed_over_like_any_other(pravix, joint, tmp_path):
    assert pravix("prove", "all").status == 0
    loaded = pravix("load", "all", "sqlite:///all.db", "--json").document
    assert loaded["views"]["flat_deliveries"] == 420
    assert len(loaded["views"]) == 5
    sql = pravix("sql", "all", "--rows", "--for", "mysql").out
    assert sql.count("CREATE VIEW") == 5
    assert sql.rindex("INSERT INTO") < sql.index("CREATE VIEW")
    assert "| rank |" in pravix("dictionary", "all").out
    assert "keeper(_keeper_no_, keeper, phone, village, rank)" in pravix("diagram", "all", "-").out
    assert pravix("report", "all", "all.html").status == pravix("report", "all", "all.md").status == 0
    page, text = (tmp_path / "all.html").read_text(), (tmp_path / "all.md").read_text()
    assert "5 files with 904 rows" in page
    assert "5 files with 904 rows" in text
    assert "deliveries: delivered_on, driver" in page
    assert pravix("workbook", "all", "all.xlsx").status == 0
    assert openpyxl.load_workbook(tmp_path / "all.xlsx")["keeper"]["E1"].value == "rank"


def test_columns_of_several_files_are_put_side_by_side(pravix, joint):
    done = pravix("recombine", "all", "rank", "district", "--json", "--run")
    assert done.document["path"] == ["keeper", "village"]
    assert len(done.document["rows"]) == 24
    asked = pravix("recombine", "all", "keeper")
    assert asked.status == 2
    assert "keeper.keeper or apiary.keeper" in asked.err
    assert "from_town or to_town" in pravix("recombine", "all", "town").err
    assert "keeper.rank" in pravix("recombine", "all", "nothing").err


def test_a_new_file_is_held_against_the_folder_of_one_file_only(pravix, joint):
    done = pravix("check", "all", "deliveries.csv")
    assert done.status == 2
    assert "one design for several files" in done.err


def test_sheets_of_a_workbook_become_one_design(pravix, registers, tmp_path):
    make_workbook(registers, tmp_path)
    done = pravix("connect", "book.xlsx", "--out", "made", "--json")
    assert done.status == 0
    assert all(claim["holds"] for claim in done.document["proof"])
    assert "design.json" in done.document["written"]
    again = pravix("connect", "book.xlsx", "--out", "made")
    assert again.status == 0
