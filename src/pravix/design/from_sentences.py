"""A first draft of tables from sentences, as somebody would put it on a whiteboard.

There is no model of language here. A sentence is a subject, a verb and what follows it; what it is about
becomes a table, what that has a column, and where it has something that another sentence is about, one refers
to the other. What the sentences leave open is a question beside the line, for a person to answer there.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field

from pravix.errors import InputError
from pravix.relation.lexicon import IDENTIFIER_WORDS
from pravix.wording import singular

_FIRST = r"(?:each|every|an?|the|one|all|any)"
_SENTENCE = re.compile(
    rf"^(?:{_FIRST}\s+)?(?P<subject>[^\W\d_]+(?:[ -][^\W\d_]+)??)\s+"
    r"(?P<may>may have|can have|may|can)?\s*"
    r"(?P<verb>has|have|is|are|was|were|(?<=may )[^\W\d_]+|(?<=can )[^\W\d_]+|[^\W\d_]+s)?\s+"
    r"(?P<rest>.+)$",
    re.IGNORECASE,
)
_PREPOSITION = re.compile(
    r"^(?:[^\W\d_]+(?:ed|en|ght|pt|wn)\s+)?(?:to|from|in|at|by|of|with|for|on)\s+", re.IGNORECASE
)
_MANY = re.compile(r"^(?:several|many|some|all|its|their|the|two|three|more|one or more)\s+", re.IGNORECASE)
_ONE = re.compile(r"^(?:exactly )?(?:an?|one|its|the|this|that)\s+", re.IGNORECASE)
_PERHAPS = re.compile(r"^(?:perhaps|sometimes|maybe|possibly|at most)\s+", re.IGNORECASE)
_CLAUSE = re.compile(r"\s+(?:that|which|who|whose|where|when|so that|because|if|as|per)\b.*$", re.IGNORECASE)
_HAS = frozenset({"has", "have"})
_WISHES = frozenset("wants want needs need likes like must should shall would tries try".split())
_IS = frozenset({"is", "are", "was", "were"})


@dataclass
class _Thing:
    """What sentences are about: its columns with whether they may be blank, and what it refers to."""

    name: str
    columns: dict[str, bool] = field(default_factory=dict)
    refers: dict[str, bool] = field(default_factory=dict)
    holds: dict[str, None] = field(default_factory=dict)


def drafted(sentences: str) -> str:
    """Return a design in the notation of ``by_hand``, with questions as comments. Linear in the sentences.

    Raises InputError where no sentence has the form of a subject that has something.
    """
    found = [told for line in sentences.splitlines() for told in _told(line.partition("#")[0])]
    if not found:
        raise InputError(
            "no sentence says what something has", "Write such as: A keeper has a name and a phone."
        )
    things = {subject: _Thing(subject) for subject, *_ in found}
    for subject, other, many, perhaps in found:
        thing = things[subject]
        if other not in things or other == subject:
            thing.columns[other] = thing.columns.get(other, False) or perhaps
        elif many:
            thing.holds[other] = None
        else:
            thing.refers[other] = perhaps
    return "\n".join([line for thing in things.values() for line in _written(thing, things)]) + "\n"


def _told(line: str) -> Iterator[tuple[str, str, bool, bool]]:
    """Yield what sentences say: the subject, what it has, whether several, and whether only perhaps."""
    for sentence in re.split(r"[.;!?](?:\s+|$)", line):
        matched = _SENTENCE.match(sentence.strip())
        if matched is None:
            continue
        subject, verb, rest = _noun(matched["subject"]), (matched["verb"] or "").lower(), matched["rest"]
        if verb in _WISHES or (verb in _IS and not _PREPOSITION.match(rest)):
            continue  # It says what somebody wants or what something is, and not what it has.
        for part in re.split(r"\s*,\s*(?:and\s+)?|\s+and\s+", _CLAUSE.sub("", rest)):
            part = _PREPOSITION.sub("", part.strip())
            perhaps = bool(_PERHAPS.match(part)) or matched["may"] is not None
            part = _PERHAPS.sub("", part)
            one = bool(_ONE.match(part)) and not re.match(r"(?:its|the)\s", part, re.IGNORECASE)
            name = _noun(_ONE.sub("", part if one else _MANY.sub("", part)))
            if name:
                last = re.findall(r"[^\W\d_]+", part)[-1].lower()
                yield subject, name, not one and singular(last) != last, perhaps


def _noun(text: str) -> str:
    """Return the words of a noun as the name of a table or a column."""
    parts = [word.lower() for word in re.findall(r"[^\W\d_]+", text)]
    return "_".join([*parts[:-1], singular(parts[-1])]) if parts else ""


def _key(thing: _Thing) -> str:
    """Return the column that a thing is known by: one of its own that sounds so, or a number for it."""
    own = [name for name in thing.columns if name.split("_")[-1] in IDENTIFIER_WORDS]
    if own and own[0].startswith(thing.name):
        return own[0]
    return f"{thing.name}_{own[0]}" if own else f"{thing.name}_no"


def _written(thing: _Thing, things: dict[str, _Thing]) -> Iterator[str]:
    """Yield the lines of one table, its references, and what is to be asked about it."""
    key = _key(thing)
    own = {name for name in thing.columns if key in (name, f"{thing.name}_{name}")}
    cells = [
        f"_{key}_",
        *(f"{name}{'?' * blank}" for name, blank in thing.columns.items() if name not in own),
    ]
    links = [(other, blank) for other, blank in thing.refers.items() if thing.name not in things[other].holds]
    holders = [other for other in things.values() if thing.name in other.holds]
    links += [(other.name, False) for other in holders if not _both(thing, other)]
    cells += [f"{_key(things[other])}{'?' * blank}" for other, blank in links]
    yield f"{thing.name}({', '.join(cells)})"
    if not own:
        told = f"No sentence says; {key} is a number given out."
        yield f"    # What tells one {thing.name} from another? {told}"
    for other, _ in links:
        yield f"    {_key(things[other])} refers to {other}({_key(things[other])})"
        if other not in thing.refers:
            told = "Then both need a table between them."
            yield f"    # May one {thing.name} belong to several of {other}? {told}"
    for far in (one for one in things.values() if thing.name < one.name and _both(thing, one)):
        columns = f"_{key}_, _{_key(far)}_"
        yield f"{thing.name}_{far.name}({columns})"
        yield f"    {key} refers to {thing.name}({key})"
        yield f"    {_key(far)} refers to {far.name}({_key(far)})"
        told = "together, as how many or when, belongs here."
        yield f"    # What is told of {thing.name} and {far.name} {told}"


def _both(one: _Thing, other: _Thing) -> bool:
    return other.name in one.holds and one.name in other.holds
