"""What the header says: nouns that belong together, and nouns of other things."""

import pytest
from honey import TOGETHER, rule, sheet

from pravix.judgement.header import Header
from pravix.judgement.kinds import uses
from pravix.judgement.weights import ANOTHER_NOUN, SHARED_NOUN


def header(names):
    relation = sheet(names)
    return Header(names, uses(relation.columns))


@pytest.mark.parametrize(
    ("text", "bits"),
    [
        ("drum_no -> drum_kind", SHARED_NOUN),
        ("keeper_no -> keeper_phone", SHARED_NOUN),
        ("keeper_no -> drum_kind", ANOTHER_NOUN),
        ("drum_no -> keeper_phone", ANOTHER_NOUN),
        ("keeper_no -> village", 0.0),
        ("drum_no -> keeper_no", 0.0),
    ],
)
def test_names_speak_for_their_own_thing_and_against_others(text, bits):
    assert header(TOGETHER).names_bits(rule(text)) == bits
