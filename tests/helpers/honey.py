"""A small sheet of drums and keepers, and rules as they are written."""

from pravix.relation.relation import Relation
from pravix.theory.dependency import parse_dependencies


def rule(text):
    return parse_dependencies(text)[0]


def rules(*texts):
    return [one for text in texts for one in parse_dependencies(text)]


def sheet(names):
    """Twelve drums of four keepers in two villages; every other column counts on."""
    rows = []
    for place in range(24):
        drum, keeper = place % 12, place % 4
        cells = {
            "drum_no": f"{200 + drum}",
            "drum_kind": "steel plastic".split()[drum % 3 % 2],
            "keeper_no": f"K-{keeper}",
            "keeper": "Ada Milo Nora Petra".split()[keeper],
            "keeper_phone": f"0421 {30000 + keeper}",
            "village": "Kelder Moss".split()[keeper % 2],
            "crates": str(place % 7),
        }
        rows.append([cells[name] for name in names])
    return Relation.from_rows(names, rows)


TOGETHER = ("drum_no", "drum_kind", "keeper_no", "keeper", "keeper_phone", "village", "crates")
