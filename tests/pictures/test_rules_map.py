"""The map of the rules: every column stands once, boxes do not overlap, lines run from left to right."""

import pytest
from schemas import case

from pravix.discovery.search import discover
from pravix.errors import InputError
from pravix.judgement.judge import judge
from pravix.pictures.rules_map import boxes_of, doubted_rules, leads, write_rules_map
from pravix.relation.relation import Relation


@pytest.fixture(params=["star", "snowflake", "chain", "rate", "roles"])
def judged(request):
    made = case(request.param, 2)
    relation = Relation.from_rows(made.header, made.rows)
    return made.header, judge(relation, discover(relation, largest=3))


def test_boxes_hold_every_column_and_stand_apart(judged):
    header, judgement = judged
    boxes = boxes_of(header, judgement)
    assert {name for box in boxes for name in (*box.decides, *frozenset().union(*box.keys))} == set(header)
    for one in boxes:
        for other in boxes:
            if one is not other:
                beside = one.x + one.width < other.x or other.x + other.width < one.x
                above = one.y + one.height < other.y or other.y + other.height < one.y
                assert beside or above
            if leads(one, other):
                assert one.x + one.width < other.x


@pytest.mark.parametrize("suffix", [".png", ".svg"])
def test_the_map_is_drawn_with_the_doubted_rules(judged, tmp_path, suffix):
    header, judgement = judged
    assert all(found.standing.value == "doubtful" for found in doubted_rules(judgement))
    write_rules_map(header, judgement, "made <up> $x$ & so on", str(tmp_path / f"map{suffix}"))
    assert (tmp_path / f"map{suffix}").stat().st_size > 5_000
    assert len(list(tmp_path.iterdir())) == 1


def test_another_kind_of_file_is_refused(judged, tmp_path):
    with pytest.raises(InputError, match="neither PNG, SVG nor PDF"):
        write_rules_map(*judged, "x", str(tmp_path / "map.jpg"))
