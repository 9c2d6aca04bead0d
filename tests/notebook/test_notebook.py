"""The Python API: the page in the documentation runs, and data frames are read as files are."""

import re
import shutil
from pathlib import Path

import pytest

import pravix
import pravix.demo
from pravix.errors import InputError

PAGE = Path(__file__).parents[2] / "docs" / "notebook.md"
SHEET = Path(pravix.demo.__file__).with_name("deliveries.csv")


def test_the_page_in_the_documentation_runs(tmp_path, monkeypatch, capsys):
    shutil.copy(SHEET, tmp_path / "deliveries.csv")
    monkeypatch.chdir(tmp_path)
    (code,) = re.findall(r"```python\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL)
    exec(compile(code, str(PAGE), "exec"), {})
    out = capsys.readouterr().out
    assert "420 rows, 23 columns" in out
    assert "holds" in out
    for name in ("tables/design.json", "honey.db", "tables.svg", "report.html"):
        assert (tmp_path / name).stat().st_size > 1000


@pytest.fixture(scope="module")
def sheet():
    return pravix.read(str(SHEET))


def test_a_data_frame_gives_what_the_file_gives(sheet):
    pandas = pytest.importorskip("pandas")
    frame = pandas.read_csv(SHEET, dtype=str)
    other = pravix.read(frame)
    assert set(other.keys) == set(sheet.keys)
    assert repr(other.design) == repr(sheet.design)
    assert other.design.tables["keeper"].frame().shape == (24, 4)
    with pytest.raises(InputError, match="no names of their own"):
        pravix.read(pandas.DataFrame([[1, 2]], columns=["a", "a"]))


def test_decisions_return_another_sheet_and_write_nothing(sheet, tmp_path):
    decided = sheet.reject("village -> district")
    assert "village" in sheet.design.tables
    assert "village" not in decided.design.tables
    assert ("village -> district", "rejected") in [row[:2] for row in decided.dependencies()]
    assert "depots" in sheet.wish(number="plural").design.tables
    with pytest.raises(InputError, match="has no column nothing"):
        sheet.accept("nothing -> keeper")


def test_objects_show_as_tables(sheet):
    shown = sheet.design._repr_html_()
    assert shown.startswith("<table>")
    assert "<th>Primary key</th>" in shown
    text = repr(sheet.dependencies())
    assert re.search(r"[\d,]+ more rows; \.frame\(\) has all\.$", text)
    assert repr(sheet.design.proof).splitlines()[2].startswith("holds")
    assert sheet.findings.headings == ("Finding", "What was found", "Answers")
    assert len(sheet.near_dependencies) == 0
    assert sheet.design.steps[0][0] == "delivery"


def test_a_mistake_is_an_input_error():
    with pytest.raises(InputError, match="no wish about reading"):
        pravix.read(str(SHEET), colour="red")
    with pytest.raises(InputError):
        repr(pravix.read("no such file.csv"))
    with pytest.raises(AttributeError):
        pravix.__getattr__("nothing")


def test_several_files_are_linked_and_designed_together(tmp_path):
    here = SHEET.parent
    sheets = pravix.read_all(SHEET, here / "register_keepers.csv", here / "register_hives.csv")
    assert "register_keepers: 24 rows" in repr(sheets)
    assert ("deliveries.keeper_no", "register_keepers.no", "+19.0", "0") in sheets.links
    design = sheets.design
    assert design.tables["keeper"].headings == ("keeper_no", "keeper", "phone", "village", "rank")
    assert "<th>Primary key</th>" in design._repr_html_()
    assert [row[1] for row in design.remarks if row[0] == "merged"] == ["keeper"]
    assert design.query("rank", "district").count("JOIN") == 1
    assert "keeper.csv" in design.write(tmp_path / "all")
    assert design.load(f"sqlite:///{tmp_path}/all.db").views["flat_deliveries"] == 420
    design.diagram(tmp_path / "all.svg")
    design.report(tmp_path / "all.html", title="All")
    assert "3 files with 564 rows" in (tmp_path / "all.html").read_text(encoding="utf-8")
