"""Diagram, dictionary, report, workbook, README and recombination: read back, with awkward names and cells."""

import re
from itertools import combinations, pairwise
from pathlib import Path
from xml.etree import ElementTree

import openpyxl
import pytest
from folders import folder_of
from hypothesis import given, settings
from hypothesis import strategies as st

import pravix.demo
from pravix.errors import InputError
from pravix.folder.dictionary import as_csv, as_markdown, entries, evidence_of, lacking_meaning
from pravix.folder.guide import guide
from pravix.folder.harmless import harmless
from pravix.folder.workbook import sheet_names, write_workbook
from pravix.ledger.meanings import Meaning
from pravix.loading.side_by_side import recombined, run, told
from pravix.pictures.diagram import alternative_text, diagram_layout, write_diagram
from pravix.pictures.diagram_layout import Box, Line, crossings, laid_out
from pravix.pictures.diagram_text import graphviz, mermaid, relations_html, relations_text
from pravix.pictures.drawing import width_of
from pravix.pictures.drawn import around, keys_only
from pravix.relation.relation import Relation
from pravix.reports.report import report_html, report_markdown
from pravix.sources.read import read_source


@pytest.fixture(scope="module")
def demo(tmp_path_factory):
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    return folder_of(relation, tmp_path_factory.mktemp("demo") / "made")


def overlap(one, other):
    return (
        one[0] < other[0] + other[2] and other[0] < one[0] + one[2]
        and one[1] < other[1] + other[3] and other[1] < one[1] + one[3]
    )  # fmt: skip


def check_geometry(layout, lines):
    for one, other in combinations(layout.boxes.values(), 2):
        assert not overlap(one, other)
    for box in layout.boxes.values():
        assert box[0] >= 0
        assert box[0] + box[2] <= layout.width
        assert box[1] >= 0
        assert box[1] + box[3] <= layout.height
    for line, points in zip(lines, layout.paths, strict=True):
        for (x, y), name in ((points[0], line.source), (points[-1], line.target)):
            left, top, width, height = layout.boxes[name]
            assert x in (pytest.approx(left), pytest.approx(left + width))
            assert top <= y <= top + height
        for (x1, y1), (x2, y2) in pairwise(points):
            assert x1 == pytest.approx(x2) or y1 == pytest.approx(y2)
            thin = (min(x1, x2) + 0.01, min(y1, y2) + 0.01, abs(x1 - x2) - 0.02, abs(y1 - y2) - 0.02)
            for name, box in layout.boxes.items():
                if overlap((thin[0], thin[1], max(thin[2], 0.001), max(thin[3], 0.001)), box):
                    raise AssertionError(f"a line from {line.source} to {line.target} runs through {name}")


@given(st.integers(1, 40), st.randoms(use_true_random=False))
@settings(max_examples=60, deadline=None)
def test_no_box_overlaps_another_and_no_line_runs_through_one(count, draw):
    boxes = [Box(f"t{n}", draw.uniform(60, 240), draw.uniform(40, 260), draw.random()) for n in range(count)]
    lines = []
    for n in range(1, count):
        for _ in range(draw.choice([0, 1, 1, 2, 3])):
            there = draw.randrange(n + 1)
            lines.append(
                Line(
                    f"t{n}",
                    draw.uniform(20, boxes[n].height),
                    f"t{there}",
                    draw.uniform(20, boxes[there].height),
                )
            )
    check_geometry(laid_out(boxes, lines), lines)


def test_the_lines_of_the_demo_do_not_cross_and_its_tables_fill_a_page(demo):
    layout, links = diagram_layout(demo.document.tables)
    assert len(links) == 8
    segments = [
        (number, *sorted(pair)) for number, path in enumerate(layout.paths) for pair in pairwise(path)
    ]
    crossing = 0
    for (one, (x1, y1), (x2, y2)), (other, (x3, y3), (x4, y4)) in combinations(segments, 2):
        if one != other and (x1 == x2) != (x3 == x4):
            across = (x3 < x1 < x4 and y1 < y3 < y2) if x1 == x2 else (x1 < x3 < x2 and y3 < y1 < y4)
            crossing += across
    assert crossing == crossings(layout) == 0
    assert 1 < layout.width / layout.height < 2.5


@pytest.mark.parametrize("ending", ["svg", "png"])
def test_a_diagram_is_drawn_with_its_keys_in_words_and_an_alternative_text(demo, awkward, ending, tmp_path):
    for number, (folder, dark) in enumerate([(demo, False), (awkward, True)]):
        path = tmp_path / f"{number}.{ending}"
        write_diagram(folder.document.tables, str(path), dark)
        if ending == "png":
            assert path.read_bytes().startswith(b"\x89PNG")
            continue
        root = ElementTree.parse(path).getroot()
        assert root.attrib["role"] == "img"
        assert root.attrib["aria-label"] == alternative_text(folder.document.tables)
        words = "".join(root.itertext())
        assert "PK" in words
        if folder is demo:
            assert {"delivery_drum", "keeper_no", "FK"} <= set(re.findall(r"\w+", words))


def test_letters_that_the_font_lacks_come_from_others(tmp_path, capfd):
    """Chinese letters are as wide as two; a font of this machine is taken where one has them."""
    from matplotlib import font_manager

    rows = [[str(5000 + n), f"K-{n % 7}", f"蜂{n % 7}"] for n in range(60)]
    folder = folder_of(Relation.from_rows(["配送番号", "养蜂人编号", "النحال"], rows), tmp_path / "made")
    assert width_of("养蜂 a") == 6
    for ending in ("svg", "png", "pdf"):
        write_diagram(folder.document.tables, str(tmp_path / f"drawn.{ending}"))
    assert capfd.readouterr().err == ""
    known = [one for one in font_manager.fontManager.ttflist if "Last Resort" not in one.name]
    has = {one.name for one in known if ord("蜂") in font_manager.get_font(one.fname).get_charmap()}
    drawn = (tmp_path / "drawn.svg").read_text(encoding="utf-8")
    assert "养蜂人编号" in drawn
    assert any(name in drawn for name in has) == bool(has)


def test_a_table_with_those_beside_it_and_keys_alone(demo, tmp_path):
    tables = demo.document.tables
    near = around(tables, "delivery")
    assert [table.name for table in near] == ["depot", "delivery", "delivery_drum"]
    assert [len(table.foreign_keys) for table in near] == [0, 2, 1]
    folded = keys_only(tables)
    assert [column.name for column in folded[0].columns] == ["depot"]
    assert sum(len(table.foreign_keys) for table in folded) == 8
    for number, shown in enumerate((near, folded, keys_only(near))):
        write_diagram(shown, str(tmp_path / f"{number}.svg"))
        told = "".join(ElementTree.parse(tmp_path / f"{number}.svg").getroot().itertext())
        assert ("driver" in told) == (shown is near)
        assert all(make(shown) for make in (mermaid, graphviz, relations_text, relations_html))
    with pytest.raises(InputError, match="there is no table delivry"):
        around(tables, "delivry")


def test_the_design_as_text(demo, awkward):
    assert "delivery(_delivery_no_, delivered_on, driver, from_depot, to_depot)" in relations_text(
        demo.document.tables
    )
    assert "    to_depot refers to depot(depot)" in relations_text(demo.document.tables)
    assert "<li><b>keeper</b>(<u>keeper_no</u>, keeper, phone, <i>village</i>)</li>" in relations_html(
        demo.document.tables
    )
    assert 't4 }o--|| t2 : "village"' in mermaid(demo.document.tables)
    assert graphviz(demo.document.tables).count("->") == 8
    for made in (mermaid, graphviz, relations_html):
        assert "<script>" not in made(awkward.document.tables)
    for line in mermaid(awkward.document.tables).splitlines()[1:]:
        assert re.fullmatch(
            r' {4}(t\d+\["[^"]*"\] \{|\}|t\d+ \S+ t\d+ : "[^"]*")| {8}\w+ \w+( \w+(, \w+)*)?( "[^"]*")?', line
        ), line


def test_the_dictionary_has_every_column_with_its_meaning(demo, tmp_path):
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    meanings = [
        Meaning("weight of the empty drum", column="tare_kg"),
        Meaning("as it came", column="treatment", value="raw"),
        Meaning("where drums are kept", table="depot"),
        Meaning("a town with a depot", column="to_town"),
    ]
    folder = folder_of(relation, tmp_path / "made", meanings=meanings)
    found = {
        (entry.table, entry.column): entry for entry in entries(folder.tables, evidence_of(folder.document))
    }
    assert len(found) == sum(len(table.columns) for table in folder.tables)
    assert found["drum", "tare_kg"].meaning == "weight of the empty drum"
    assert found["drum", "tare_kg"].values == "17.5 to 22.5"
    assert found["drum", "treatment"].values == "one of filtered, raw: as it came"
    assert found["depot", "town"].meaning == "a town with a depot"
    assert found["depot", "town"].origin == "from_town and to_town"
    assert found["keeper", "village"].key == "refers to village"
    assert found["honey", "honey"].key == "unique"
    assert "tare_kg" not in lacking_meaning(folder.document)
    assert "driver" in lacking_meaning(folder.document)
    assert "where drums are kept" in as_markdown(folder.document)
    assert as_csv(folder.document).count("\n") == len(found) + 1
    assert "where drums are kept; 5 rows, one for each depot" in guide(folder.document, safe_cells=False)


def test_nothing_of_a_file_is_a_mark_in_the_report(awkward, demo):
    page = report_html(awkward.document, "<b>name</b>")
    assert page.count("<script>") == 1
    assert "<b>name</b>" not in page
    assert "&lt;b&gt;;--" in page
    text = report_markdown(awkward.document, "x")
    assert "<script>" not in text
    assert "&lt;script&gt;" in text
    page = report_html(demo.document, "Deliveries")
    for step in demo.document.steps:
        assert step.text.split(":")[0] in page
    for one in demo.document.proof_told:
        assert one.claim in page
    assert {address.split("/")[2] for address in re.findall(r"https?://[^\"' ]+", page)} == {"www.w3.org"}


@pytest.mark.parametrize(
    ("cell", "safe"),
    [
        ("=1+1", "'=1+1"),
        ("-5.2", "-5.2"),
        ("+49", "+49"),
        ("-a", "'-a"),
        ("@x", "'@x"),
        ("a=1", "a=1"),
        ("", ""),
        ("\tx", "'\tx"),
    ],
)
def test_what_a_spreadsheet_could_run_is_made_harmless(cell, safe):
    assert harmless(cell) == safe


def test_a_workbook_has_every_table_with_its_cells(demo, awkward, tmp_path):
    for folder in (demo, awkward):
        path = tmp_path / "made.xlsx"
        write_workbook(folder, str(path))
        book = openpyxl.load_workbook(path)
        assert len(book.sheetnames) == len(folder.tables)
        for sheet, table in zip(book.worksheets, folder.tables, strict=True):
            rows = list(sheet.iter_rows(values_only=True))
            assert [str(cell).lstrip("'") for cell in rows[0]] == [c.name.lstrip("'") for c in table.columns]
            assert len(rows) == table.rows + 1
            assert sheet.freeze_panes == "A2"
            assert sheet["A1"].font.underline == (
                "single" if table.columns[0].name in table.primary_key else None
            )
            for written, row in zip(rows[1:], folder.rows(table), strict=True):
                for cell, text in zip(written, row, strict=True):
                    plain = "" if cell is None else str(cell)
                    same = plain in (text or "", f"'{text}") or float(plain) == float(text)
                    assert same, (cell, text)
            assert all(cell.data_type != "f" for row in sheet.iter_rows() for cell in row)
        path.unlink()


def test_sheets_have_names_that_a_workbook_takes():
    names = sheet_names(["a/b", "A_B", "x" * 40, "x" * 40, "''", "History"])
    assert names == ["a_b", "A_B 2", "x" * 31, "x" * 29 + " 2", "table", "History 2"]


def test_columns_side_by_side_take_only_the_joins_they_need(demo):
    query = recombined(demo.document, ["keeper", "district"])
    assert (query.joins, query.path) == (1, ("keeper", "village"))
    assert recombined(demo.document, ["keeper_no", "phone"]).joins == 0
    flat = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    wanted = ["delivery_no", "drum_no", "honey", "to_town", "district"]
    query = recombined(demo.document, wanted)
    assert "depot (to)" in query.path
    assert "depot (from)" not in query.path
    found = sorted(tuple(map(str, row)) for row in run(demo, query))
    assert found == sorted(flat.project(wanted).rows())
    assert told(query).startswith(f"{query.joins} joins: delivery_drum - ")


def test_every_pair_of_columns_joins_to_what_the_flat_rows_say(demo):
    flat = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    for one, other in combinations(flat.names, 2):
        query = recombined(demo.document, [one, other])
        there = (
            {tuple("" if cell is None else str(cell) for cell in row) for row in run(demo, query)}
            if one < other
            else None
        )
        if there is not None and not query.multiplied:

            def plain(cell):
                try:
                    return repr(float(cell))
                except ValueError:
                    return cell

            assert {tuple(map(plain, row)) for row in there} == {
                tuple(map(plain, row)) for row in flat.project([one, other]).rows()
            }


@pytest.mark.parametrize(
    ("column", "message"),
    [("depot.town", "stands in several roles"), ("nothing", "no table has a column nothing")],
)
def test_what_cannot_be_put_side_by_side_is_told(demo, column, message):
    with pytest.raises(InputError, match=message):
        recombined(demo.document, ["keeper", column])


def test_a_computed_column_is_not_stored(rough):
    with pytest.raises(
        InputError, match="net_kg is stored in no table: it is put together from gross_kg and tare_kg"
    ):
        recombined(rough.document, ["net_kg"])
