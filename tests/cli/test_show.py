"""The small pieces of the screen."""

import pytest

from pravix.cli.show import bar


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([(1, "#"), (1, "=")], "#####====="),
        ([(420, "#"), (0, "="), (0, ".")], "##########"),
        ([(1, "#"), (410, "="), (9, ".")], "#========."),
        ([(0, "#"), (0, "="), (5, ".")], ".........."),
    ],
)
def test_a_bar_fills_its_width_and_shows_every_part(parts, expected):
    assert bar(parts, 10).plain == expected
