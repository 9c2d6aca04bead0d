"""One design for several files: what is merged, what is kept apart, and that every file comes back."""

import csv
import json
import tempfile
from pathlib import Path

import pytest
from databases import sqlite_at
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from pravix.assembly import Assembly
from pravix.design.joint_telling import remarks_told
from pravix.errors import InputError
from pravix.folder.reader import open_folder
from pravix.loading.load import load_folder
from pravix.loading.side_by_side import recombined

VILLAGES = ["Cressing", "Esk Bridge", "Kelder", "Larkfield"]
DISTRICTS = ["North Moor", "Lower Vale", "North Moor", "Stone Ridge"]
KEEPERS = [
    {"no": f"K-{n}", "name": f"Keeper {n}", "phone": f"0423 {n * 731 % 900}", "village": VILLAGES[n % 4]}
    for n in range(100, 112)
]


def written(folder, **sheets):
    """Write sheets (lists of rows as mappings) as CSV files and return their assembly."""
    for name, rows in sheets.items():
        with (folder / f"{name}.csv").open("w", newline="", encoding="utf-8") as file:
            writer = csv.DictWriter(file, rows[0])
            writer.writeheader()
            writer.writerows(rows)
    return Assembly.of([str(folder / f"{name}.csv") for name in sheets])


def deliveries(count=90, keepers=KEEPERS):
    return [
        {
            "delivery_no": str(5000 + n),
            "gross_kg": f"{n * 37 % 500 / 10}",
            "keeper_no": one["no"],
            "keeper": one["name"],
            "village": one["village"],
            "district": DISTRICTS[VILLAGES.index(one["village"])],
        }
        for n in range(count)
        for one in [keepers[n * 5 % len(keepers)]]
    ]


def tables_of(joint):
    return {table.name: set(table.column_names) for table in joint.tables}


def flat_rows(folder, view):
    with sqlite_at(":memory:") as database:
        database.executescript((folder / "schema.sql").read_text(encoding="utf-8"))
        opened = open_folder(folder)
        for table in opened.tables:
            marks = ", ".join("?" * len(table.columns))
            database.executemany(f'INSERT INTO "{table.name}" VALUES ({marks})', opened.rows(table))
        assert database.execute("PRAGMA foreign_key_check").fetchall() == []
        rows = database.execute(f'SELECT * FROM "{view}"').fetchall()
    return sorted(tuple("" if cell is None else str(cell) for cell in row) for row in rows)


def test_a_register_and_a_sheet_share_one_table_of_keepers(tmp_path):
    assembly = written(tmp_path, deliveries=deliveries(), keepers=KEEPERS)
    joint = assembly.design
    assert tables_of(joint)["keeper"] == {"keeper_no", "keeper", "phone", "village"}
    keeper = next(table for table in joint.tables if table.name == "keeper")
    assert joint.sources_of("keeper") == ("deliveries", "keepers")
    assert [link.table for link in keeper.foreign_keys] == ["village"]
    assert joint.origins["keeper"]["keeper"] == ("deliveries.keeper", "keepers.name")
    files = assembly.write(tmp_path / "made")
    assert all(holds for holds, _ in assembly.proof)
    assert "keepers.csv" not in files
    wanted = sorted(tuple(row.values()) for row in KEEPERS)
    assert flat_rows(tmp_path / "made", "flat_keepers") == wanted


def test_a_register_that_lacks_some_keepers_stays_beside_the_merged_table(tmp_path):
    assembly = written(tmp_path, deliveries=deliveries(), keepers=KEEPERS[:9])
    joint = assembly.design
    assert tables_of(joint)["keeper"] == {"keeper_no", "keeper", "village"}
    assert tables_of(joint)["keepers"] == {"no", "phone"}
    own = next(table for table in joint.tables if table.name == "keepers")
    assert [(link.table, link.cardinality.value) for link in own.foreign_keys] == [("keeper", "one to one")]
    assert joint.merges[0].members == (("deliveries", ""), ("keepers", "keepers"))
    assembly.write(tmp_path / "made")
    assert flat_rows(tmp_path / "made", "flat_keepers") == sorted(tuple(row.values()) for row in KEEPERS[:9])


def test_a_keeper_whom_only_the_register_knows_has_blanks_where_it_says_nothing(tmp_path):
    assembly = written(tmp_path, deliveries=deliveries(keepers=KEEPERS[:9]), keepers=KEEPERS)
    keeper = next(table for table in assembly.design.tables if table.name == "keeper")
    assert keeper.rows.row_count == 12
    assembly.write(tmp_path / "made")


def test_what_differs_is_named_with_its_rows_and_merges_once_it_is_corrected(tmp_path):
    wrong = [{**KEEPERS[0], "village": "Kelder"}, *KEEPERS[1:]]
    joint = written(tmp_path, deliveries=deliveries(), keepers=wrong).design
    (differing,) = joint.merges[0].differing
    assert (differing.column, differing.other, differing.count) == ("village", "village_keepers", 1)
    (text,) = [text for about, _, text in remarks_told(joint) if about == "differing"]
    first = next(n for n, row in enumerate(deliveries(), 2) if row["keeper_no"] == "K-100")
    assert f"K-100 has Cressing in deliveries (row {first}) and Kelder in keepers (row 2)" in text
    right = written(tmp_path, deliveries=deliveries(), keepers=KEEPERS).design
    assert not right.merges[0].differing


def test_a_reference_is_made_between_files_and_refused_where_a_value_finds_nothing(tmp_path):
    hives = [{"hive_no": f"H{n}", "keeper": KEEPERS[n % 12]["no"], "frames": str(n % 9)} for n in range(40)]
    joint = written(tmp_path, keepers=KEEPERS, hives=hives).design
    hive = next(table for table in joint.tables if table.name == "hive")
    assert [(link.columns, link.table) for link in hive.foreign_keys] == [(("keeper",), "keepers")]
    hives[7]["keeper"] = "K-999"
    joint = written(tmp_path, keepers=KEEPERS, hives=hives).design
    assert not next(table for table in joint.tables if table.name == "hive").foreign_keys
    assert any(
        "no reference: 1 value finds nothing there (K-999)" in text for *_, text in remarks_told(joint)
    )


def test_a_register_by_name_is_merged_into_the_table_with_the_number(tmp_path):
    """The sheet knows number and name of a keeper, the register only the name."""
    (tmp_path / "deliveries.ledger.toml").write_text(
        '[[decision]]\nrule = "keeper_no -> keeper"\nstanding = "accepted"\n', encoding="utf-8"
    )
    sheet = [{**row, "phone": f"07 {row['keeper_no'][2:]}"} for row in deliveries()]
    register = [{"keeper": one["name"], "since": str(1990 + n)} for n, one in enumerate(KEEPERS)]
    joint = written(tmp_path, deliveries=sheet, register=register).design
    keeper = next(table for table in joint.tables if table.name == "keeper")
    assert {"keeper_no", "keeper", "village", "since"} <= set(keeper.column_names)
    assert joint.sources_of("keeper") == ("deliveries", "register")
    assert keeper.rows.row_count == 12


def test_rows_of_another_source_that_break_a_reference_or_a_rule_are_told(tmp_path):
    new = {**KEEPERS[0], "no": "K-200", "name": "Keeper 200", "village": "Garrick"}
    assembly = written(tmp_path, deliveries=deliveries(), keepers=[*KEEPERS, new])
    assert [(one.table, one.values) for one in assembly.design.unkept] == [("keeper", (("Garrick",),))]
    assert any(
        "keeper.village -> village.village is no reference" in t for *_, t in remarks_told(assembly.design)
    )
    assembly.write(tmp_path / "made")


def test_the_folder_is_loaded_whole_and_every_view_is_checked(tmp_path):
    assembly = written(tmp_path, deliveries=deliveries(), keepers=KEEPERS)
    assembly.write(tmp_path / "made")
    loaded = load_folder(open_folder(tmp_path / "made"), f"sqlite:///{tmp_path}/made.db")
    assert loaded.views == {"flat_deliveries": 90, "flat_keepers": 12}
    file = tmp_path / "made" / "keeper.csv"
    file.write_text(file.read_text().replace("0423 ", "0424 ", 1))
    with pytest.raises(InputError, match="flat_keepers"):
        load_folder(open_folder(tmp_path / "made"), f"sqlite:///{tmp_path}/other.db")


def test_the_account_counts_the_cells_of_all_files(tmp_path):
    assembly = written(tmp_path, deliveries=deliveries(), keepers=KEEPERS)
    account = assembly.document.account
    assert account.cells_before == 90 * 6 + 12 * 4
    saved = sum(one.saves for one in account.tables)
    part_cells = sum(one.stores for part in assembly.document.parts.values() for one in part.account.tables)
    merged = part_cells - account.cells_after
    by_steps = sum(step.cells_saved for part in assembly.document.parts.values() for step in part.steps)
    assert saved == merged + by_steps


def test_decisions_and_meanings_of_each_ledger_count(tmp_path):
    (tmp_path / "keepers.ledger.toml").write_text(
        '[[meaning]]\ncolumn = "phone"\ntext = "where the keeper is called"\n', encoding="utf-8"
    )
    assembly = written(tmp_path, deliveries=deliveries(), keepers=KEEPERS)
    keeper = next(table for table in assembly.document.tables if table.name == "keeper")
    phone = next(column for column in keeper.columns if column.name == "phone")
    assert phone.meaning == "where the keeper is called"
    assert phone.origins == ("keepers.phone",)


def test_a_register_of_what_a_sheet_refers_to_twice_is_merged_and_the_two_ways_are_named(tmp_path):
    depots = [{"depot": f"D{n}", "town": town, "gate": f"G{n}"} for n, town in enumerate(VILLAGES)]
    sheet = [
        {
            "delivery_no": str(5000 + n),
            "from_depot": f"D{n % 4}",
            "from_town": VILLAGES[n % 4],
            "to_depot": f"D{n // 4 % 4}",
            "to_town": VILLAGES[n // 4 % 4],
        }
        for n in range(60)
    ]
    assembly = written(tmp_path, deliveries=sheet, depots=depots)
    assert tables_of(assembly.design)["depot"] == {"depot", "town", "gate"}
    assembly.write(tmp_path / "made")
    assert flat_rows(tmp_path / "made", "flat_deliveries") == sorted(tuple(row.values()) for row in sheet)
    with pytest.raises(InputError, match="joined in several ways: by from_depot or by to_depot"):
        recombined(open_folder(tmp_path / "made").document, ["delivery_no", "gate"])


def test_tables_that_would_refer_in_a_circle_are_not_merged(tmp_path):
    """In one file a hive has one keeper, in the other a keeper has one hive."""
    one = [
        {"line": str(n), "hive_no": f"H{n % 9}", "frames": str(n % 9 + 4), "keeper_no": f"K{n % 9 % 5}",
         "phone": f"07{n % 9 % 5}"}
        for n in range(72)
    ]  # fmt: skip
    other = [
        {"visit": str(n), "keeper_no": f"K{n % 8}", "phone": f"07{n % 8}", "hive_no": f"H{n % 8 % 3}",
         "frames": str(n % 8 % 3 + 4)}
        for n in range(72)
    ]  # fmt: skip
    assembly = written(tmp_path, inspections=one, visits=other)
    order = [table.name for table in assembly.design.tables]
    for table in assembly.design.tables:
        assert all(order.index(link.table) < order.index(table.name) for link in table.foreign_keys)
    assembly.write(tmp_path / "made")
    assert flat_rows(tmp_path / "made", "flat_visits") == sorted(tuple(row.values()) for row in other)


cell = st.sampled_from(["", "a", "b", "c d", "7", "07", "x,y", 'q"'])


@st.composite
def sheets(draw):
    """Two or three sheets about things with codes of one pool: some facts shared, some contradicted."""
    found = {}
    for name in draw(st.sampled_from([("stock", "visits"), ("drum", "drums", "stock")])):
        codes = draw(st.lists(st.integers(0, 15), min_size=1, max_size=20))
        facts = draw(st.lists(st.sampled_from(["kind", "colour", "place"]), max_size=3, unique=True))
        register = name.startswith("drum")
        key = draw(st.sampled_from(["drum_no", "no"])) if register else "drum_no"
        fixed = {code: {fact: draw(cell) for fact in facts} for code in sorted(set(codes))}
        found[name] = [
            {**({} if register else {"line": str(n)}), key: f"D{code:02d}", **fixed[code]}
            for n, code in enumerate(sorted(set(codes)) if register else codes, 1)
        ]
    return found


@settings(max_examples=40, deadline=None)
@given(sheets())
def test_whatever_is_merged_every_file_comes_back(made):
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        assembly = written(folder, **made)
        assume(all(one.design.proof.holds for one in assembly.analyses.values()))
        assembly.write(folder / "made")
        assert all(holds for holds, _ in assembly.proof)
        document = json.loads((folder / "made" / "design.json").read_text(encoding="utf-8"))
        assert set(document["parts"]) == set(made)
