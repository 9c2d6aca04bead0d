"""The metadata of a folder, held against the public validators of both formats."""

import csv
import json
from pathlib import Path

import pytest


@pytest.fixture
def folder(pravix, tmp_path):
    """The demo's tables, with words for a table and a column."""
    pravix("demo", "honey")
    data = "honey/deliveries.csv"
    pravix("describe", data, "weight of the empty drum", "--column", "tare_kg")
    pravix("describe", data, "a barrel that is filled once", "--made-table", "drum")
    assert pravix("decompose", data, "--out", "made").status == 0
    return tmp_path / "made"


@pytest.mark.filterwarnings("default")
def test_the_data_package_is_valid_and_so_are_its_tables(folder, monkeypatch):
    frictionless = pytest.importorskip("frictionless")
    monkeypatch.chdir(folder)
    report = frictionless.validate("datapackage.json")
    assert report.valid, report.flatten(["type", "message"])
    design = json.loads((folder / "design.json").read_text())
    assert len(report.tasks) == len(design["tables"])
    package = json.loads((folder / "datapackage.json").read_text())
    links = [key for one in package["resources"] for key in one["schema"].get("foreignKeys", [])]
    assert len(links) == sum(len(table["foreign_keys"]) for table in design["tables"]) > 0
    drum = next(one for one in package["resources"] if one["name"] == "drum")
    assert drum["description"] == "a barrel that is filled once"
    assert "weight of the empty drum" in [field.get("description") for field in drum["schema"]["fields"]]


@pytest.mark.filterwarnings("default")
def test_a_row_that_breaks_the_tables_is_seen_by_the_data_package(folder, monkeypatch):
    frictionless = pytest.importorskip("frictionless")
    monkeypatch.chdir(folder)
    lines = (folder / "drum.csv").read_text().splitlines()
    (folder / "drum.csv").write_text("\n".join([*lines, lines[-1]]) + "\n")
    report = frictionless.validate("datapackage.json")
    assert not report.valid
    assert "primary-key" in [kind for (kind,) in report.flatten(["type"])]


@pytest.mark.filterwarnings("default")
def test_the_metadata_for_the_web_are_valid_and_give_the_rows(folder):
    csvw = pytest.importorskip("csvw")
    metadata = csvw.CSVW(str(folder / "csv-metadata.json"), validate=True)
    assert metadata.is_valid, metadata.warnings
    design = json.loads((folder / "design.json").read_text())
    group = csvw.TableGroup.from_file(folder / "csv-metadata.json")
    assert [table.local_name for table in group.tables] == [table["file"] for table in design["tables"]]
    assert group.check_referential_integrity()
    assert [len(list(table)) for table in group.tables] == [table["rows"] for table in design["tables"]]


@pytest.mark.filterwarnings("default")
def test_names_of_any_kind_make_valid_metadata(pravix, tmp_path, monkeypatch):
    frictionless, csvw = pytest.importorskip("frictionless"), pytest.importorskip("csvw")
    names = ["Drum No", "metadata", "registry", "Preis %", "Column No", 'the "Column"', "a;b"]
    rows = [
        [n, f"m{n % 6}", f"r{n % 6}", f"{n % 6 * 3}.50", f"K{n % 7}", f'Ke "{n % 7}"', n % 3]
        for n in range(60)
    ]
    with (tmp_path / "a w.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([names, *rows])
    assert pravix("decompose", "a w.csv", "--out", "made").status == 0
    monkeypatch.chdir(tmp_path / "made")
    report = frictionless.validate("datapackage.json")
    assert report.valid, report.flatten(["type", "message"])
    assert csvw.CSVW("csv-metadata.json", validate=True).is_valid
    titles = [one["title"] for one in json.loads(Path("datapackage.json").read_text())["resources"]]
    assert titles == [table["name"] for table in json.loads(Path("design.json").read_text())["tables"]]
    assert any(title != title.lower() for title in titles)


def test_tables_that_are_no_csv_files_have_no_such_metadata(pravix, tmp_path):
    (tmp_path / "a.csv").write_text("drum_no,honey\n1,Heather\n2,Linden\n3,Linden\n")
    for more in (["--tables-as", "parquet"], ["--harmless"]):
        assert pravix("decompose", "a.csv", "--out", "made", *more).status == 0
        assert not (tmp_path / "made" / "datapackage.json").exists()
        assert "datapackage" not in (tmp_path / "made" / "README.md").read_text()
