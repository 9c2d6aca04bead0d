"""Where the boxes of an entity-relationship diagram stand and how its lines run; no drawing here.

Boxes stand in columns by their distance from the central one, its branches shared out between left and right.
Their order within a column follows the barycentre of what they are joined to, their height a least-squares
fit. (Source: K. Sugiyama, S. Tagawa and M. Toda, "Methods for visual understanding of hierarchical system
structures", IEEE Trans. SMC 11(2), 1981.) Lines run horizontally and, each in a lane of its own, vertically
between the columns; through a column they pass between its boxes. A long row of columns is folded.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

GAP = 26.0
LANE = 12.0
MARGIN = 30.0
_PASSAGE = 12.0
_SWEEPS = 12
_ASPECT = 1.4
_A_CROSSING = 0.05


@dataclass(frozen=True)
class Box:
    """A box to be placed: its size, and the weight that decides which one is central."""

    name: str
    width: float
    height: float
    weight: float


@dataclass(frozen=True)
class Line:
    """A line from the side of one box to that of another; the heights are from the top of the box."""

    source: str
    source_height: float
    target: str
    target_height: float


@dataclass
class Layout:
    """Left, top, width and height of each box, the points of each line, and the whole size.

    The vertical axis points down.
    """

    boxes: dict[str, tuple[float, float, float, float]] = field(default_factory=dict)
    paths: list[list[tuple[float, float]]] = field(default_factory=list)
    width: float = 0.0
    height: float = 0.0


@dataclass
class _Node:
    """A box, or the passage of a line through a column; ``top`` is decided last."""

    name: str
    column: int
    height: float
    width: float = 0.0
    top: float = 0.0

    @property
    def middle(self) -> float:
        return self.top + self.height / 2


def laid_out(boxes: Sequence[Box], lines: Sequence[Line]) -> Layout:
    """Return a layout that fills a page: of several foldings the one that may be drawn largest.

    Quadratic in boxes and lines, for each of a few sweeps and foldings.
    """
    columns = _columns(boxes, lines)
    layouts = [_in_columns(boxes, lines, folded) for folded in _foldings(columns)]
    return min(layouts, key=_page)


def _page(layout: Layout) -> float:
    """Return how large a page a layout asks for; each crossing of two lines makes it dearer."""
    return max(layout.width / _ASPECT, layout.height) * (1 + _A_CROSSING * crossings(layout))


def crossings(layout: Layout) -> int:
    """Return how often a line runs across another. Quadratic in their parts."""
    across: list[tuple[int, float, float, float]] = []
    down: list[tuple[int, float, float, float]] = []
    for number, path in enumerate(layout.paths):
        for (x, y), (end_x, end_y) in pairwise(path):
            if y == end_y:
                across.append((number, y, min(x, end_x), max(x, end_x)))
            else:
                down.append((number, x, min(y, end_y), max(y, end_y)))
    return sum(
        one != other and x1 < x < x2 and y1 < y < y2 for one, y, x1, x2 in across for other, x, y1, y2 in down
    )


def _foldings(columns: Mapping[str, int]) -> list[Mapping[str, int]]:
    """Return the columns as they are, and folded like a screen into fewer: neighbours stay neighbours."""
    first = min(columns.values(), default=0)
    count = max(columns.values(), default=0) - first + 1
    found = [columns]
    for fewer in range(count - 1, 1, -1):
        period = 2 * (fewer - 1)
        places = {name: (column - first) % period for name, column in columns.items()}
        found.append({name: min(place, period - place) for name, place in places.items()})
    return found


def _in_columns(boxes: Sequence[Box], lines: Sequence[Line], columns: Mapping[str, int]) -> Layout:
    nodes = {box.name: _Node(box.name, columns[box.name], box.height, box.width) for box in boxes}
    chains = [_chain(number, line, nodes) for number, line in enumerate(lines)]
    neighbours: dict[str, list[str]] = {name: [] for name in nodes}
    for chain in chains:
        for one, other in pairwise(chain):
            neighbours[one].append(other)
            neighbours[other].append(one)
    order = _ordered(nodes, _ends(nodes, lines, chains))
    _set_heights(order, nodes, neighbours)
    return _routed(order, nodes, lines, chains)


def _columns(boxes: Sequence[Box], lines: Sequence[Line]) -> dict[str, int]:
    """Return the column of each box: its distance from the centre, below 0 on the left.

    Boxes that nothing joins to the centre get a centre of their own in the same columns.
    """
    joined: dict[str, list[str]] = {box.name: [] for box in boxes}
    for line in lines:
        if line.source != line.target:
            joined[line.source].append(line.target)
            joined[line.target].append(line.source)
    sizes = {box.name: box.height for box in boxes}
    columns: dict[str, int] = {}
    for centre in sorted(boxes, key=lambda box: (-box.weight, box.name)):
        if centre.name not in columns:
            columns |= _branches(centre.name, joined, sizes)
    return columns


def _branches(centre: str, joined: Mapping[str, Sequence[str]], sizes: Mapping[str, float]) -> dict[str, int]:
    branch = {centre: centre}
    distance = {centre: 0}
    queue = [centre]
    for name in queue:
        for other in dict.fromkeys(joined[name]):
            if other not in distance:
                distance[other] = distance[name] + 1
                branch[other] = other if name == centre else branch[name]
                queue.append(other)
    heights: dict[str, float] = {}
    for name in queue[1:]:
        heights[branch[name]] = heights.get(branch[name], 0.0) + sizes[name] + GAP
    sides = {1: 0.0, -1: 0.0}
    side: dict[str, int] = {centre: 0}
    for name in sorted(heights, key=lambda name: (-heights[name], name)):
        side[name] = min(sides, key=lambda one: (sides[one], -one))
        sides[side[name]] += heights[name]
    return {name: distance[name] * side[branch[name]] for name in queue}


def _chain(number: int, line: Line, nodes: dict[str, _Node]) -> list[str]:
    """Return the nodes that a line joins one after the other; a passage is added for each column between."""
    start, end = nodes[line.source].column, nodes[line.target].column
    step = 1 if end > start else -1
    chain = [line.source]
    for column in range(start + step, end, step):
        name = f"\0{number}:{column}"
        nodes[name] = _Node(name, column, _PASSAGE)
        chain.append(name)
    return [*chain, line.target]


def _ends(
    nodes: Mapping[str, _Node], lines: Sequence[Line], chains: Sequence[Sequence[str]]
) -> list[list[tuple[str, float, str, float]]]:
    """Return, for each line, its parts: two nodes, each with how far down it the line ends, from 0 to 1."""
    found = []
    for line, chain in zip(lines, chains, strict=True):
        ports = [0.5] * len(chain)
        ports[0] = line.source_height / nodes[line.source].height
        ports[-1] = line.target_height / nodes[line.target].height
        parts = zip(pairwise(chain), pairwise(ports), strict=True)
        found.append([(one, here, other, there) for (one, other), (here, there) in parts])
    return found


def _ordered(
    nodes: Mapping[str, _Node],
    ends: Sequence[Sequence[tuple[str, float, str, float]]],
) -> dict[int, list[str]]:
    """Return the nodes of each column from top to bottom, with few crossings of lines."""
    order: dict[int, list[str]] = {}
    for name, node in nodes.items():
        order.setdefault(node.column, []).append(name)
    order = dict(sorted(order.items()))
    seen: dict[str, list[tuple[str, float]]] = {name: [] for name in nodes}
    for parts in ends:
        for one, here, other, there in parts:
            seen[one].append((other, there))
            seen[other].append((one, here))
    best, fewest = {column: list(names) for column, names in order.items()}, _crossings(order, nodes, ends)
    for sweep in range(_SWEEPS):
        places = {name: place for names in order.values() for place, name in enumerate(names)}
        columns = list(order) if sweep % 2 == 0 else list(order)[::-1]
        for column in columns:
            centres = {
                name: _mean([places[one] + port for one, port in seen[name]], places[name] + 0.5)
                for name in order[column]
            }
            order[column].sort(key=centres.__getitem__)
            places |= {name: place for place, name in enumerate(order[column])}
        crossings = _crossings(order, nodes, ends)
        if crossings < fewest:
            best, fewest = {column: list(names) for column, names in order.items()}, crossings
    return best


def _mean(values: Sequence[float], otherwise: float) -> float:
    return sum(values) / len(values) if values else otherwise


def _crossings(
    order: Mapping[int, Sequence[str]],
    nodes: Mapping[str, _Node],
    ends: Sequence[Sequence[tuple[str, float, str, float]]],
) -> int:
    places = {name: place for names in order.values() for place, name in enumerate(names)}
    between: dict[int, list[tuple[float, float]]] = {}
    for one, here, other, there in (part for parts in ends for part in parts):
        first, last = nodes[one].column, nodes[other].column
        left, right = places[one] + here, places[other] + there
        if first != last:
            between.setdefault(min(first, last), []).append((left, right) if first < last else (right, left))
    return sum(
        (one[0] - other[0]) * (one[1] - other[1]) < 0
        for pairs in between.values()
        for number, one in enumerate(pairs)
        for other in pairs[:number]
    )


def _set_heights(
    order: Mapping[int, Sequence[str]], nodes: Mapping[str, _Node], neighbours: Mapping[str, Sequence[str]]
) -> None:
    """Set the top of every node: near what it is joined to, in order, and without overlap."""
    for names in order.values():
        total = sum(nodes[name].height + GAP for name in names)
        top = -total / 2
        for name in names:
            nodes[name].top = top
            top += nodes[name].height + GAP
    for sweep in range(_SWEEPS):
        columns = list(order) if sweep % 2 == 0 else list(order)[::-1]
        for column in columns:
            own = [nodes[name] for name in order[column]]
            wanted = [
                _mean([nodes[one].middle for one in neighbours[node.name]], node.middle) - node.height / 2
                for node in own
            ]
            for node, top in zip(own, _apart(wanted, [node.height for node in own]), strict=True):
                node.top = top


def _apart(wanted: Sequence[float], heights: Sequence[float]) -> list[float]:
    """Return the tops nearest to those wanted (least squares) that keep the order and the gap.

    Less the heights above, the tops must not fall: the pool-adjacent-violators algorithm.
    """
    above = [0.0]
    for height in heights[:-1]:
        above.append(above[-1] + height + GAP)
    pools: list[tuple[float, int]] = []
    for value, offset in zip(wanted, above, strict=False):
        mean, count = value - offset, 1
        while pools and pools[-1][0] > mean:
            before, number = pools.pop()
            mean = (mean * count + before * number) / (count + number)
            count += number
        pools.append((mean, count))
    flat = [mean for mean, count in pools for _ in range(count)]
    return [value + offset for value, offset in zip(flat, above, strict=False)]


@dataclass
class _Segment:
    """The part of a line in one gutter, from a height on its left to one on its right; or a ``loop``."""

    line: int
    part: int
    left: float
    right: float
    loop: bool = False


def _routed(
    order: Mapping[int, Sequence[str]],
    nodes: Mapping[str, _Node],
    lines: Sequence[Line],
    chains: Sequence[Sequence[str]],
) -> Layout:
    """Return the finished layout: gutters wide enough for their lanes, and the points of every line."""
    top = min((node.top for node in nodes.values()), default=0.0)
    for node in nodes.values():
        node.top += MARGIN - top
    gutters: dict[int, list[_Segment]] = {}
    for number, (line, chain) in enumerate(zip(lines, chains, strict=True)):
        for part, (one, other) in enumerate(pairwise(chain)):
            here = nodes[one].top + line.source_height if one == line.source else nodes[one].middle
            there = nodes[other].top + line.target_height if other == line.target else nodes[other].middle
            forward = nodes[one].column <= nodes[other].column
            gutter = min(nodes[one].column, nodes[other].column)
            left, right = (here, there) if forward else (there, here)
            gutters.setdefault(gutter, []).append(_Segment(number, part, left, right, one == other))
    lefts, rights, x = {}, {}, MARGIN
    for column, names in order.items():
        lefts[column] = x
        rights[column] = x + max(nodes[name].width for name in names)
        x = rights[column] + LANE * (len(gutters.get(column, [])) + 1) + 2 * MARGIN
    lanes = {column: _lanes(found) for column, found in gutters.items()}
    layout = Layout(width=max(rights.values(), default=0.0) + MARGIN)
    if gutters.get(max(order, default=0)):
        layout.width = x
    for name, node in nodes.items():
        if not name.startswith("\0"):
            left = _left(node, lefts[node.column], rights[node.column])
            layout.boxes[name] = (left, node.top, node.width, node.height)
    layout.height = max((node.top + node.height for node in nodes.values()), default=0.0) + MARGIN
    for number, (line, chain) in enumerate(zip(lines, chains, strict=True)):
        layout.paths.append(_path(number, line, chain, nodes, layout, lefts, rights, lanes, gutters))
    return layout


def _left(node: _Node, left: float, right: float) -> float:
    """Return the left side of a box in its column: towards the centre."""
    if node.column < 0:
        return right - node.width
    return left if node.column > 0 else (left + right - node.width) / 2


def _lanes(segments: Sequence[_Segment]) -> dict[tuple[int, int], int]:
    """Return the lane of each segment, so that lines in one gutter cross little.

    Those from a table to itself turn first. Of those that fall the lower ones turn first; of those that rise
    the upper ones.
    """

    def turn(segment: _Segment) -> tuple[float, float]:
        return (
            (-segment.left, -segment.right)
            if segment.right >= segment.left
            else (segment.left, segment.right)
        )

    loops = [one for one in segments if one.loop]
    falling = sorted((one for one in segments if one.right >= one.left and not one.loop), key=turn)
    rising = sorted((one for one in segments if one.right < one.left and not one.loop), key=turn)
    return {(one.line, one.part): place for place, one in enumerate([*loops, *falling, *rising])}


def _path(
    number: int,
    line: Line,
    chain: Sequence[str],
    nodes: Mapping[str, _Node],
    layout: Layout,
    lefts: Mapping[int, float],
    rights: Mapping[int, float],
    lanes: Mapping[int, Mapping[tuple[int, int], int]],
    gutters: Mapping[int, Sequence[_Segment]],
) -> list[tuple[float, float]]:
    """Return the points of one line from its source to its target."""
    source = layout.boxes[line.source]
    points = [(source[0], source[1] + line.source_height)]
    for part, (one, other) in enumerate(pairwise(chain)):
        gutter = min(nodes[one].column, nodes[other].column)
        lane = rights[gutter] + MARGIN + LANE * (lanes[gutter][number, part] + 1)
        segment = next(found for found in gutters[gutter] if (found.line, found.part) == (number, part))
        forward = nodes[one].column <= nodes[other].column
        start, end = (segment.left, segment.right) if forward else (segment.right, segment.left)
        if one == line.source:
            box = layout.boxes[one]
            points = [(box[0] + box[2] if forward else box[0], start)]
        points += [(lane, start), (lane, end)]
        if other == line.target:
            box = layout.boxes[other]
            at_left = forward and nodes[one].column != nodes[other].column
            points.append((box[0] if at_left else box[0] + box[2], end))
    return points
