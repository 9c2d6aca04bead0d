"""What is found in new rows is what the definition says, on random rows stored and new."""

import tempfile
from pathlib import Path

from folders import folder_of
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from pravix.relation.relation import Relation
from pravix.validation.finding import About
from pravix.validation.new_rows import arrived_rows, stored_rows
from pravix.validation.violations import always_filled, row_key, violations_of

NAMES = ["delivery", "keeper", "village", "honey", "kg", "phone"]
RULES = ["delivery -> keeper, village, honey, kg, phone", "keeper -> village, phone", "honey, village -> kg"]


@st.composite
def months(draw):
    """Rows that obey the rules, and others that may not; some cells are blank."""
    village, phone = st.sampled_from(["Ash", "Birch"]), st.sampled_from(["11", "12", ""])
    honey = st.sampled_from(["clover", "lime"])
    homes = {f"K{n}": draw(village) for n in range(4)}
    phones = {keeper: draw(phone) for keeper in homes}
    weights = {(place, kind): draw(st.sampled_from(["5", "7.5", "10"])) for place in homes.values() for kind in ("clover", "lime")}  # fmt: skip
    stored = []
    for n in range(draw(st.integers(12, 24))):
        keeper, kind = draw(st.sampled_from(sorted(homes))), draw(honey)
        stored.append([f"D{n}", keeper, homes[keeper], kind, weights[homes[keeper], kind], phones[keeper]])
    new = []
    for n in range(draw(st.integers(1, 14))):
        known = draw(st.sampled_from(stored))
        row = [draw(st.sampled_from([known[0], f"N{n % 9}"])), *known[1:]]
        for place, cells in enumerate(
            [["K0", "K7", "K8"], ["Ash", "Elm", ""], ["lime", ""], ["5", "5.0", "9", ""], ["11", "13", ""]], 1
        ):
            if draw(st.integers(0, 3)) == 0:
                row[place] = draw(st.sampled_from(cells))
        new.append(row)
    return stored, new


def compared(row):
    """The cells of a row as they count: 5.0 is 5."""
    return [*row[:4], row[4].removesuffix(".0"), row[5]]


def defined(document, stored, new):
    """Return which new rows, by number, are there already, say otherwise, and break or contradict a rule."""
    filled, key = always_filled(document), [NAMES.index(name) for name in row_key(document)]
    identity = {tuple(row[place] for place in key): row for row in stored}
    found = {about: set() for about in (About.KNOWN, About.CONFLICT, About.CHANGED, About.CONTRADICTION)}
    fresh = []
    for number, row in new:
        old = identity.get(tuple(row[place] for place in key))
        if old is None:
            fresh.append((number, row))
        else:
            found[About.KNOWN if old == row else About.CONFLICT].add(number)
    for number, row in fresh:
        cells = [row[place] for place in key]
        if all(cells) and any(n != number and [r[place] for place in key] == cells for n, r in fresh):
            found[About.CONTRADICTION].add(number)
    for rule in document.dependencies:
        left, right = [NAMES.index(name) for name in rule.determinant], NAMES.index(rule.dependent)
        if set(left) == set(key):
            continue
        telling = [(n, r) for n, r in fresh if r[right] or rule.dependent not in filled]
        for number, row in telling:
            cells = [row[place] for place in left]
            before = [r[right] for r in stored if [r[place] for place in left] == cells]
            others = [r[right] for _, r in telling if [r[place] for place in left] == cells]
            if all(cells) and before and row[right] != before[0]:
                found[About.CHANGED].add(number)
            if all(cells) and not before and len(set(others)) > 1:
                found[About.CONTRADICTION].add(number)
    return found


@given(months())
@settings(max_examples=40, deadline=None)
def test_what_is_found_is_what_the_definition_says(given_rows):
    stored, new = given_rows
    with tempfile.TemporaryDirectory() as made:
        folder = folder_of(Relation.from_rows(NAMES, stored), Path(made) / "made", accepted=RULES)
        document = folder.design
        assume(set(row_key(document)) <= set(NAMES))
        there = stored_rows(folder)
        arrived = arrived_rows(document, Relation.from_rows(NAMES, new), "new.csv")
        found = violations_of(document, there, arrived)
    told = {about: {n for one in found if one.about is about for n in one.rows} for about in About}
    rows = [(number, compared(row)) for number, row in enumerate(new, 2)]
    wanted = defined(document, list(map(compared, stored)), rows)
    conflicts = wanted.pop(About.CONFLICT)
    assert {about: told[about] for about in wanted} == wanted
    assert told[About.CONFLICT] <= conflicts
    assert bool(told[About.CONFLICT]) == bool(conflicts)
    assert sorted(tuple(row.values[name] for name in NAMES) for row in there) == sorted(
        map(tuple, map(compared, stored))
    )
