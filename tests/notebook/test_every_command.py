"""The Python API can do all that the commands can, and its page says which call is which command."""

import json
import re
from importlib.resources import files
from pathlib import Path

import pytest
from databases import sqlite_at

import pravix
from pravix.cli.main import pravix as commands
from pravix.errors import InputError

PAGE = Path(__file__).parents[2] / "docs" / "notebook.md"


@pytest.fixture
def place(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    for entry in files("pravix.demo").iterdir():
        if entry.name.endswith((".csv", ".txt")):
            (tmp_path / entry.name).write_bytes(entry.read_bytes())
    return tmp_path


def test_the_page_names_every_command_and_only_calls_that_are_there():
    rows = re.findall(r"^\| `(\w+)` \| (.+) \|$", PAGE.read_text(encoding="utf-8"), re.MULTILINE)
    assert {command for command, _ in rows} == set(commands.list_commands(None))
    owners = {
        "sheet": pravix.Sheet,
        "design": pravix.SheetDesign,
        "sheets": pravix.Sheets,
        "pravix": pravix,
    }
    calls = [call for _, told in rows for call in re.findall(r"\b(sheet|design|sheets|pravix)\.(\w+)", told)]
    assert len(calls) > 30
    assert [call for call in calls if not hasattr(owners[call[0]], call[1])] == []


def test_what_was_decided_is_kept_when_it_is_recorded(place):
    sheet = pravix.read("deliveries.csv")
    made = sheet.reject("village -> district", why="two of one name").describe("its weight", column="tare_kg")
    made = made.arrange("check", "tare_kg:range").wish(style="camel").not_key("gross_kg", why="by chance")
    assert not (place / "deliveries.ledger.toml").exists()
    assert made.record() == "deliveries.ledger.toml"
    again = pravix.read("deliveries.csv")
    assert again.meanings.rows == (("", "tare_kg", "", "its weight"),)
    assert "village" not in again.design.tables
    assert "deliveryDrum" in again.design.tables
    before = (place / "deliveries.ledger.toml").read_text(encoding="utf-8")
    again.accept("from_depot -> from_town").record()
    after = (place / "deliveries.ledger.toml").read_text(encoding="utf-8")
    assert set(before.splitlines()) <= set(after.splitlines())
    assert after.count("[[decision]]") == before.count("[[decision]]") + 1


def test_findings_are_answered_and_corrections_written(place):
    sheet = pravix.read("deliveries_rough.csv")
    assert ("from_depot", "code A9") in [row[:2] for row in sheet.survey]
    lines = sheet.write_patch("patch.csv")
    assert len((place / "patch.csv").read_text(encoding="utf-8").splitlines()) == lines + 1
    (asked,) = [row[0] for row in sheet.findings if row[0].startswith("one fact") and "merge" in row[2]]
    made = sheet.repair("raw", "merge", name="treatment")
    assert "treatment" in [name for table in made.design.tables.values() for name in table.headings]
    with pytest.raises(InputError, match="nothing is to be decided about tare_kg"):
        sheet.repair("tare_kg", "split")
    assert "raw" in asked


def test_a_wish_that_cannot_be_carried_out_is_refused(place):
    sheet = pravix.read("deliveries.csv")
    assert any(row[0] == "Tables" for row in sheet.choices)
    with pytest.raises(InputError, match="no column nowhere"):
        sheet.arrange("together", "nowhere")


@pytest.mark.parametrize(
    "what", ["district", "village -> district", "table keeper", "key drum", "phone in drum"]
)
def test_explanations_name_what_was_asked(place, what):
    lines = [line for (line,) in pravix.read("deliveries.csv").explain(what)]
    assert re.split(r"\W+", what)[-1] in " ".join(lines)


def test_a_folder_gives_what_the_sheet_gives(place):
    design = pravix.read("deliveries.csv").design
    design.write("tables")
    folder = pravix.open_folder("tables")
    assert folder.overview == design.overview
    assert folder.tables["keeper"] == design.tables["keeper"]
    assert folder.prove() == design.prove()
    assert {holds for holds, _ in folder.prove()} == {"holds"}
    assert folder.sql("postgresql", rows=True) == design.sql("postgresql", rows=True)
    assert folder.models("postgresql") == design.models("postgresql")
    assert "class Drum(Base)" in design.models()
    assert folder.side_by_side("keeper", "phone")[0] in folder.side_by_side("keeper", "phone").rows
    assert "JOIN" in folder.query("keeper", "honey", database="mysql")
    folder.load("sqlite:///made.db")
    with sqlite_at("made.db") as there:
        assert there.execute("SELECT count(*) FROM flat").fetchone() == (420,)
    assert "design.json" in folder.write("copy")
    assert {holds for holds, _ in pravix.open_folder("copy").prove()} == {"holds"}
    (place / "tables" / "keeper.csv").unlink()
    (place / "tables" / "keeper.csv").symlink_to("/etc/passwd")
    with pytest.raises(InputError, match=r"keeper\.csv in tables cannot be copied"):
        folder.write("stolen")
    assert not (place / "stolen").exists()
    with pytest.raises(InputError, match="copy is there already"):
        folder.write("copy")


@pytest.mark.parametrize(
    ("method", "file", "within"),
    [
        ("diagram", "a.svg", "<svg"),
        ("diagram", "a.mmd", "erDiagram"),
        ("report", "a.html", "<!DOCTYPE html>"),
        ("report", "a.md", "# Tables"),
        ("dictionary", "a.md", "# Data dictionary"),
        ("dictionary", "a.csv", "Table,Column,Meaning"),
        ("dictionary", "a.json", '{\n "format": "pravix.dictionary"'),
    ],
)
def test_pages_and_pictures(place, method, file, within):
    getattr(pravix.read("deliveries.csv").design, method)(file)
    assert within.lower() in (place / file).read_text(encoding="utf-8").lower()


def test_next_month_and_a_design_by_hand(place):
    pravix.read("deliveries.csv").design.write("tables")
    found = pravix.open_folder("tables").check("deliveries_september.csv", keep="bad.csv", rejudge=True)
    assert len((place / "bad.csv").read_text(encoding="utf-8").splitlines()) == len(found.checked.bad) + 1
    review = pravix.review("whiteboard.txt", data="deliveries.csv")
    assert not review.sound
    assert ("Drum", "drum_no", "2NF") in [row[:3] for row in review.tables]
    assert "broken link" in [row[0] for row in review.objections]
    assert "honey_code -> honey" in " ".join(row[1] for row in review.agreements)
    (place / "other.txt").write_text("Keeper(_keeper_no_, keeper)\n", encoding="utf-8")
    assert [row[0] for row in pravix.review("whiteboard.txt", "other.txt").side_by_side] == [
        "whiteboard.txt",
        "other.txt",
    ]


def test_several_files_and_the_demo(place):
    path = pravix.write_demo("honey")
    sheets = pravix.read_all(path / "registers", path / "deliveries.csv")
    assert "orphans" in [row[0] for row in sheets.remarks]
    sheets.diagram("links.svg")
    assert "keepers" in (place / "links.svg").read_text(encoding="utf-8")
    assert {holds for holds, _ in sheets.design.proof} == {"holds"}
    document = json.loads((path / "tables" / "design.json").read_text(encoding="utf-8"))
    assert document["format"] == "pravix.design"
