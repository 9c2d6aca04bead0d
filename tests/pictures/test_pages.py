"""Diagrams that fill a page, and pages of A4 and A3."""

import re

import pytest

from pravix.pictures.diagram_layout import Box, Line, laid_out


def chain(count):
    boxes = [Box(f"t{n}", 170.0, 100.0, 1.0) for n in range(count)]
    return boxes, [Line(f"t{n}", 30.0, f"t{n + 1}", 30.0) for n in range(count - 1)]


@pytest.mark.parametrize("count", [2, 3, 7, 12, 40])
def test_a_chain_of_tables_fills_a_page(count):
    layout = laid_out(*chain(count))
    assert len(layout.boxes) == count
    assert len(layout.paths) == count - 1
    if count >= 7:
        assert 0.5 < layout.width / layout.height < 3
    places = sorted(layout.boxes.values())
    for one, (left, top, width, height) in enumerate(places):
        assert left >= 0
        assert top >= 0
        assert left + width <= layout.width
        assert top + height <= layout.height
        for x, y, w, h in places[one + 1 :]:
            assert x >= left + width or left >= x + w or y >= top + height or top >= y + h


def test_a_star_stays_as_it_is():
    boxes = [Box("fact", 200.0, 200.0, 10.0), *(Box(f"d{n}", 150.0, 80.0, 1.0) for n in range(6))]
    layout = laid_out(boxes, [Line("fact", 30.0 + 10 * n, f"d{n}", 30.0) for n in range(6)])
    assert len({left for left, *_ in layout.boxes.values()}) == 3


@pytest.mark.parametrize(("count", "page"), [(4, "A4"), (60, "A3")])
def test_a_pdf_is_a_page_to_hand_in(tmp_path, count, page):
    from pravix.pictures.diagram import _on_paper

    layout = laid_out(*chain(count))
    size, (left, bottom, width, height), scale = _on_paper((layout.width / 72, layout.height / 72))
    assert sorted(round(inches * 25.4) for inches in size) == {"A4": [210, 297], "A3": [297, 420]}[page]
    assert 0 < left < left + width < 1
    assert 0 < bottom < bottom + height < 1
    assert width * size[0] == pytest.approx(scale * layout.width / 72)


def test_the_demo_as_a_pdf_is_always_the_same_file(several, tmp_path):
    from pravix.pictures.diagram import write_diagram

    tables = several.document.tables
    for name in ("a.pdf", "b.pdf"):
        write_diagram(tables, str(tmp_path / name))
    made = (tmp_path / "a.pdf").read_bytes()
    assert made == (tmp_path / "b.pdf").read_bytes()
    assert len(re.findall(rb"/Type /Page\b", made)) == 1
