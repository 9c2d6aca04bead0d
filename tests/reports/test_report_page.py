"""The report in a real browser: links, folding, search, narrow windows, and nothing fetched."""

import os
import shutil
from pathlib import Path

import pytest
from folders import folder_of

import pravix.demo
from pravix.reports.report import report_html
from pravix.sources.read import read_source

CHROMIUM = os.environ.get("PRAVIX_TEST_CHROMIUM") or shutil.which("chromium")


@pytest.fixture(scope="module")
def browser():
    if CHROMIUM is None:
        pytest.skip("no Chromium: install one, or set PRAVIX_TEST_CHROMIUM to where it is")
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        yield opened
        opened.close()


@pytest.fixture(scope="module")
def report(tmp_path_factory):
    relation = read_source(str(Path(pravix.demo.__file__).with_name("deliveries.csv"))).relation
    folder = folder_of(relation, tmp_path_factory.mktemp("page") / "made")
    path = folder.path.parent / "report.html"
    path.write_text(report_html(folder.document, "Deliveries"), encoding="utf-8")
    return path


@pytest.fixture
def page(browser, report):
    """The report in a window, with all that it asked for or complained about in ``page.heard``."""
    opened = browser.new_page(viewport={"width": 1280, "height": 800})
    opened.heard = []
    opened.on("console", lambda message: opened.heard.append(message.text))
    opened.on("pageerror", lambda error: opened.heard.append(str(error)))
    opened.on("request", lambda request: opened.heard.append(request.url))
    opened.goto(report.as_uri())
    yield opened
    opened.close()


def test_nothing_is_fetched_and_nothing_complains(page, report):
    assert page.heard == [report.as_uri()]


def test_every_link_leads_to_a_part(page):
    links = page.locator("nav a")
    assert links.count() == 6
    for place in range(links.count()):
        target = links.nth(place).get_attribute("href")
        links.nth(place).click()
        assert page.evaluate("location.hash") == target
        assert page.locator(target).count() == 1


def test_steps_unfold(page):
    first = page.locator("details").first
    assert not first.locator("table").first.is_visible()
    first.locator("summary").click()
    assert first.locator("table").first.is_visible()
    page.locator("summary").nth(1).focus()
    page.keyboard.press("Enter")
    assert page.locator("details").nth(1).locator("table").first.is_visible()


def test_a_table_of_the_drawing_tells_of_itself(page):
    shown = page.locator(".about:visible")
    assert shown.count() == 0
    boxes = page.locator("figure a.box")
    assert boxes.count() == 8
    drum = page.locator('a.box[aria-label="drum, 230 rows"]')
    drum.click()
    assert shown.count() == 1
    told = shown.inner_text()
    assert "partial dependency" in told
    assert page.evaluate("document.activeElement.id") == shown.get_attribute("id")
    page.locator('a.box[aria-label="depot, 5 rows"]').focus()
    page.keyboard.press("Enter")
    assert shown.count() == 1
    assert "town" in shown.inner_text()
    page.locator(".about:visible a").first.click()
    assert page.evaluate("location.hash").startswith("#step-")
    assert page.locator(page.evaluate("location.hash")).count() == 1


def test_without_scripts_every_table_tells_of_itself(browser, report):
    context = browser.new_context(java_script_enabled=False)
    page = context.new_page()
    page.goto(report.as_uri())
    assert page.locator(".about:visible").count() == 8
    for place in range(8):
        target = page.locator("a.box").nth(place).get_attribute("href")
        assert page.locator(target).count() == 1
    context.close()


def test_the_dictionary_is_searched(page):
    rows = page.locator("#entries tbody tr")
    total = rows.count()
    page.fill("#find", "TARE_kg")
    shown = [place for place in range(total) if rows.nth(place).is_visible()]
    assert len(shown) == 1
    assert "tare_kg" in rows.nth(shown[0]).inner_text()
    assert page.locator("#found").inner_text() == f"1 of {total}"
    page.fill("#find", "")
    assert all(rows.nth(place).is_visible() for place in range(total))


@pytest.mark.parametrize("width", [360, 768, 1280])
def test_no_window_is_too_narrow(page, width):
    page.set_viewport_size({"width": width, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= width


def test_it_prints_and_speaks(page):
    assert page.pdf(format="A4").startswith(b"%PDF")
    assert (
        page.locator("svg[role=group]")
        .get_attribute("aria-label")
        .startswith("Entity-relationship diagram of 8 tables")
    )
    unnamed = page.evaluate(
        "[...document.querySelectorAll('section')].filter(s => !document.getElementById(s.getAttribute('aria-labelledby'))).length"
    )
    assert unnamed == 0
    assert page.evaluate("document.documentElement.lang") == "en"
