"""A derivation with the axiom or rule of inference that each of its steps uses.

Source: W. W. Armstrong, "Dependency structures of data base relationships", IFIP Congress 1974 (the axioms);
Ullman, *Principles of Database and Knowledge-Base Systems*, vol. 1, section 7.3 (the rules named here).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from pravix.theory.dependency import Dependency


class Inference(Enum):
    """How a conclusion follows from a dependency and the conclusions before it."""

    GIVEN = "given"
    AUGMENTATION = "augmentation"
    TRANSITIVITY = "transitivity"
    PSEUDOTRANSITIVITY = "pseudotransitivity"


@dataclass(frozen=True)
class InferenceStep:
    """One step: ``used``, and what it and the steps before give for the rule's determinant."""

    used: Dependency
    conclusion: Dependency
    by: Inference


def inference_steps(rule: Dependency, chain: Sequence[Dependency]) -> tuple[InferenceStep, ...]:
    """Return the steps by which a chain, as ``derivation`` returns it, leads to a rule. Linear."""
    return tuple(
        InferenceStep(
            used, Dependency(rule.determinant, used.dependent), _by(rule.determinant, used.determinant)
        )
        for used in chain
    )


def _by(determinant: frozenset[str], used: frozenset[str]) -> Inference:
    if used == determinant:
        return Inference.GIVEN
    if used < determinant:
        return Inference.AUGMENTATION
    return Inference.PSEUDOTRANSITIVITY if used & determinant else Inference.TRANSITIVITY
