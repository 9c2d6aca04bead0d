"""The rules as a map: what each thing decides, which things lead to others, and what is doubted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from pravix.judgement.decisions import Confidence, surely
from pravix.judgement.judgement import Judgement
from pravix.judgement.standing import JudgedRule, Standing
from pravix.judgement.weights import SURE_FROM
from pravix.pictures.drawing import check_figure_path, save_figure, width_of
from pravix.theory.dependency import Dependency, in_order
from pravix.theory.rule_set import RuleSet
from pravix.theory.synthesis import synthesise_cover
from pravix.wording import shortened

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_WIDEST = 26
_MOST_DOUBTED = 8
_DOUBTED_FROM = -4.0
_LEGEND = (
    "bold: the key of a thing, and below what it decides",
    "solid: leads to",
    "dashed, ?: doubted",
    "(likely ...): how sure, where it is not",
)
_LINE = 0.24
_CHARACTER = 0.093
_BETWEEN, _ABOVE = 1.0, 0.45
_INK, _PAPER, _HEAD, _DOUBT = "#22313a", "#fffdf7", "#dfe8e4", "#9a4a1c"


@dataclass(frozen=True)
class RuleBox:
    """A thing on the map: its keys, what they decide directly, and where it is drawn (in inches)."""

    keys: tuple[frozenset[str], ...]
    head: tuple[str, ...]
    decides: tuple[str, ...]
    x: float = 0.0
    y: float = 0.0

    @property
    def lines(self) -> list[str]:
        """The lines of text in the box."""
        return [shortened(line, _WIDEST) for line in (*self.head, *self.decides)]

    @property
    def width(self) -> float:
        """The width of the box."""
        return _CHARACTER * max(map(width_of, self.lines)) + 0.3

    @property
    def height(self) -> float:
        """The height of the box."""
        return _LINE * len(self.lines) + 0.18


def boxes_of(names: Sequence[str], judgement: Judgement, sure: Confidence | None = None) -> list[RuleBox]:
    """Return a box for each thing that the trusted rules know, placed in layers without overlap.

    What leads to others stands to the left of them. With ``sure`` each that is not sure says so.
    """
    rules = judgement.foundation
    key = judgement.row_key or frozenset(names)
    cover = RuleSet.covering(rules, judgement.rank)
    found = []
    for scheme in synthesise_cover(names, cover, key, judgement.rank):
        keys = cover.keys_of(scheme)
        decided = [name for name in names if name in scheme.columns.difference(*keys)]
        probability = sure.table(scheme.columns) if sure is not None else 1.0
        if probability < SURE_FROM:
            decided.append(f"({surely(probability)})")
        head = tuple(" + ".join(in_order(one, names)) for one in keys)
        found.append(RuleBox(keys, head, tuple(decided)))
    return _placed(found)


def _placed(boxes: Sequence[RuleBox]) -> list[RuleBox]:
    layers: dict[int, list[int]] = {}
    for number, depth in _depths(boxes).items():
        layers.setdefault(depth, []).append(number)
    placed: dict[int, RuleBox] = {}
    x = 0.0
    for _, members in sorted(layers.items()):
        widest = max(boxes[number].width for number in members)
        leading = {number: _height_of_leading(number, boxes, placed) for number in members}
        y = 0.0
        for number in sorted(members, key=lambda number: leading[number]):
            box = boxes[number]
            placed[number] = RuleBox(box.keys, box.head, box.decides, x, y)
            y += box.height + _ABOVE
        x += widest + _BETWEEN
    return [placed[number] for number in sorted(placed)]


def leads(one: RuleBox, other: RuleBox) -> bool:
    """Return whether a thing leads to another: it holds a key of the other."""
    held = set(one.decides).union(*one.keys)
    return one is not other and any(key <= held for key in other.keys) and not set(one.keys) & set(other.keys)


def _depths(boxes: Sequence[RuleBox]) -> Mapping[int, int]:
    """Return for each box the length of the longest path that leads to it."""
    depths = dict.fromkeys(range(len(boxes)), 0)
    for _ in boxes:
        for number, box in enumerate(boxes):
            for other in range(len(boxes)):
                if leads(box, boxes[other]) and depths[other] <= depths[number] < len(boxes):
                    depths[other] = depths[number] + 1
    return depths


def _height_of_leading(number: int, boxes: Sequence[RuleBox], placed: Mapping[int, RuleBox]) -> float:
    heights = [
        _height_held(box, boxes[number])
        for before, box in placed.items()
        if leads(boxes[before], boxes[number])
    ]
    return sum(heights) / len(heights) if heights else 0.0


def _height_held(one: RuleBox, other: RuleBox) -> float:
    """Return the height of the line in which a thing holds a key of another."""
    key = next(key for key in other.keys if key <= set(one.decides).union(*one.keys))
    held = [place for place, line in enumerate((*one.head, *one.decides)) if set(line.split(" + ")) & key]
    return one.y + 0.08 + _LINE * (held[0] + 0.5)


def doubted_rules(judgement: Judgement) -> list[JudgedRule]:
    """Return the doubtful rules of one column that come nearest to being believed."""
    weighed = [
        judged
        for judged in judgement.rules.of(Standing.DOUBTFUL)
        if judged.weighing is not None
        and len(judged.rule.determinant) == 1
        and judged.weighing.total >= _DOUBTED_FROM
    ]
    weighed.sort(key=lambda judged: -judgement.rules.bits(judged.rule))
    return weighed[:_MOST_DOUBTED]


def write_rules_map(
    names: Sequence[str], judgement: Judgement, title: str, path: str, sure: Confidence | None = None
) -> None:
    """Draw the map into a PNG or SVG file.

    A trusted link is a solid line, a doubted rule a dashed one with a question mark. Raises InputError
    where the file is neither PNG nor SVG or cannot be written.
    """
    check_figure_path(path)
    from matplotlib.figure import Figure

    boxes = boxes_of(names, judgement, sure)
    width = max(box.x + box.width for box in boxes) + 0.6
    height = max(box.y + box.height for box in boxes) + 1.5
    figure = Figure(figsize=(max(6.5, width), height), facecolor="white")
    axes = figure.add_axes((0, 0, 1, 1))
    axes.set_xlim(-0.3, max(6.5, width) - 0.3)
    axes.set_ylim(height - 0.95, -0.55)
    axes.axis("off")
    heading = f"What decides what in {shortened(title)}"
    axes.text(0, -0.3, heading, fontsize=13, color=_INK, parse_math=False)
    for box in boxes:
        _draw_box(axes, box)
    for one in boxes:
        for other in boxes:
            if leads(one, other):
                _draw_link(axes, one, other)
    for judged in doubted_rules(judgement):
        _draw_doubt(axes, boxes, judged.rule)
    legend = "    ".join(_LEGEND)
    axes.text(0, height - 1.15, legend, fontsize=8.5, color=_INK)
    save_figure(figure, path)


def _draw_box(axes: Axes, box: RuleBox) -> None:
    from matplotlib.patches import Rectangle

    top = _LINE * len(box.head) + 0.1
    axes.add_patch(Rectangle((box.x, box.y), box.width, box.height, fc=_PAPER, ec=_INK, lw=1.2, zorder=3))
    axes.add_patch(Rectangle((box.x, box.y), box.width, top, fc=_HEAD, ec=_INK, lw=1.2, zorder=3))
    for number, line in enumerate(box.lines):
        head = number < len(box.head)
        y = box.y + 0.06 + _LINE * (number + 0.5) + (0 if head else 0.05)
        weight = "bold" if head else "normal"
        text = axes.text(box.x + 0.12, y, line, va="center", weight=weight, family="monospace", fontsize=9.0)
        text.set(color=_INK, zorder=4, parse_math=False)


def _draw_link(axes: Axes, one: RuleBox, other: RuleBox) -> None:
    """Draw a solid line from what a thing holds of another to the head of that."""
    look = {"arrowstyle": "-|>", "color": _INK, "lw": 1.3, "shrinkA": 0, "shrinkB": 0}
    start, end = (one.x + one.width, _height_held(one, other)), (other.x, other.y + 0.17)
    axes.annotate("", end, start, arrowprops=look, zorder=2)


def _draw_doubt(axes: Axes, boxes: Sequence[RuleBox], rule: Dependency) -> None:
    """Draw a dashed line between the lines of two columns, with a question mark."""
    from_line, to_line = _line_of(boxes, min(rule.determinant)), _line_of(boxes, rule.dependent)
    if from_line is None or to_line is None:
        return
    (one, y), (other, there) = from_line, to_line
    upright = one.x == other.x
    leftwards = other.x < one.x
    start = (one.x if leftwards else one.x + one.width, y)
    end = (other.x + other.width if upright or leftwards else other.x, there)
    bend = "arc3,rad=-0.6" if upright and there > y else "arc3,rad=0.6" if upright else "arc3,rad=0.12"
    look = {
        "arrowstyle": "->",
        "color": _DOUBT,
        "lw": 1.2,
        "linestyle": (0, (4, 3)),
        "connectionstyle": bend,
    }
    axes.annotate("", end, start, arrowprops=look, zorder=2)
    middle = ((start[0] + end[0]) / 2 + 0.3 * abs(there - y) * upright, (y + there) / 2)
    axes.text(*middle, "?", color=_DOUBT, fontsize=10, weight="bold", ha="center", va="center", zorder=5)


def _line_of(boxes: Sequence[RuleBox], name: str) -> tuple[RuleBox, float] | None:
    """Return the box in which a column is described, and the height of its line."""
    for part in ("head", "decides"):
        for box in boxes:
            if name in getattr(box, part):
                place = [*box.head, *box.decides].index(name)
                return box, box.y + 0.08 + _LINE * (place + 0.5)
    return None
