"""The made-up sets for one joint design: what they share is known, and foreign registers are among them."""

from joint_sets import joint_set, score


def test_a_set_has_a_sheet_registers_visits_and_foreign_registers():
    made = joint_set("star", 5)
    kinds = {name.rsplit("_", 1)[-1] for name in made.sources}
    assert kinds == {"sheet", "register", "visits", "elsewhere"}
    for name, relation in made.sources.items():
        assert set(made.columns[name]) == set(relation.names)
    register = next(name for name in made.sources if name.endswith("register"))
    shared = set(made.columns[register].values()) & set(made.columns["sheet"].values())
    assert shared, "a register speaks of columns of the sheet"


def test_a_set_is_scored_against_what_it_shares(tmp_path):
    right, found, wanted, proved, details = score(joint_set("chain", 102), tmp_path)
    assert wanted >= 3
    assert (right, found) == (wanted, wanted)
    assert proved
    assert details == []
