"""What the treatments of a trial cannot be told apart from, by everything that was recorded of the strips.

Where a comparison is inseparable from something that was not declared to belong to the treatment, its call is withheld and the
sentence says which two things it cannot be told between. What was declared under Question is a package: the call stands, and
the verdict says of what.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property
from uuid import UUID

from cultrix_core.design.audit import Finding, audit
from cultrix_core.season.responses import is_judged_response, response_of
from cultrix_core.writing import written_day

from apps.trial_state.recorded import Thing, things_of
from apps.trial_state.view import TrialView
from apps.trials.models import Treatment
from apps.trials.naming import treatment_name
from apps.trials.treatment_package import SEPARATE

REMEDY = SEPARATE | {
    "sowing_person": "let one person sow all strips of a block",
    "block": "put every treatment into each block",
    "place": "draw the order of strips anew in each block",
    "harvest_person": "let one person weigh all strips of a block",
    "weighing": "weigh all strips in the same way",
    "count_person": "let one person count all strips of a block",
    "count_day": "count each block whole on one day",
}
NO_CALL = "No call is made of it."


@dataclass(frozen=True, slots=True, kw_only=True)
class Confounded:
    """A finding with the treatments it is of; ``declared``: it belongs to the treatment, as said before the result."""

    finding: Finding
    key: str
    left: UUID
    right: UUID
    declared: bool
    remedy: str


def label_of(view: TrialView, treatment: Treatment) -> str:
    """A treatment by letter and name."""
    return f"{treatment.letter} ({treatment_name(treatment, view.show)})"


def confounded(view: TrialView, response: str = "") -> tuple[Confounded, ...]:
    """Every pair of treatments that is tied to something recorded, inseparable ones first; none on a look.

    ``response``: what is compared, which decides what may have changed it; empty takes that which the trial is judged by.
    """
    if not view.design.replicated:
        return ()
    source = source_of(response or view.trial.primary_response)
    if f"confounded/{source}" not in view.memo:
        view.memo[f"confounded/{source}"] = _confounded(view, source)
    found: tuple[Confounded, ...] = view.memo[f"confounded/{source}"]
    return found


def _confounded(view: TrialView, source: str) -> tuple[Confounded, ...]:
    belongs, labels = view.belongings, {treatment.id: label_of(view, treatment) for treatment in view.treatments}
    back = {label: key for key, label in labels.items()}
    return tuple(
        Confounded(
            finding=finding,
            key=key,
            left=back[finding.treatments[0]],
            right=back[finding.treatments[1]],
            declared=key in belongs,
            remedy=REMEDY.get(key, ""),
        )
        for finding, key in _audited(view, labels, source)
        if finding.kind != "balanced"
    )


def _audited(view: TrialView, groups: Mapping[UUID, str], of: str) -> list[tuple[Finding, str]]:
    """Findings of the core over the standing strips, with the key of the thing; ``groups``: name by treatment."""
    control = None if view.control is None else groups.get(view.control.id)
    strips = sorted(  # named in the order of the treatments, the control last, as comparisons are
        (strip for strip in view.strips if not strip.lost and strip.received.id in groups),
        key=lambda strip: (groups[strip.received.id] == control, strip.received.position),
    )
    labels = [groups[strip.received.id] for strip in strips]
    if len(set(labels)) < 2:
        return []
    if f"things/{of}" not in view.memo:
        view.memo[f"things/{of}"] = things_of(view, of)
    things: tuple[Thing, ...] = view.memo[f"things/{of}"]
    keys = {thing.words: thing.key for thing in things}
    against = {thing.words: [thing.values.get(strip.id, "") for strip in strips] for thing in things}
    return [(finding, keys[finding.against]) for finding in audit(labels, against, told=_told)]


def source_of(response: str) -> str:
    """Which records a response comes from, as far as that decides what may have changed it."""
    if not is_judged_response(response):
        return "harvest"
    return response_of(response).source


def _told(value: str) -> str:
    """A recorded value as a sentence has it."""
    try:
        return written_day(date.fromisoformat(value))
    except ValueError:
        return value


@dataclass(frozen=True, kw_only=True)
class Withholding:
    """Why calls are withheld in a trial. What is found of its pairs of treatments is found once."""

    view: TrialView
    response: str

    @cached_property
    def pairs(self) -> dict[frozenset[UUID], list[Finding]]:
        """Findings of pairs of treatments that cannot be told apart from something that was not declared."""
        pairs: dict[frozenset[UUID], list[Finding]] = {}
        for item in confounded(self.view, self.response):
            if item.finding.kind == "identical" and not item.declared:
                pairs.setdefault(frozenset((item.left, item.right)), []).append(item.finding)
        return pairs

    def between(self, left: Sequence[Treatment], right: Sequence[Treatment]) -> str:
        """Why no call is made between two sides, in a sentence; empty where one is.

        Sides of several treatments, as those of a factor, are held against each other as groups.
        """
        if len(left) == len(right) == 1:
            return _sentence(self.pairs.get(frozenset((left[0].id, right[0].id)), []))
        if not self.pairs:
            return ""  # groups of which every pair can be told apart
        names = tuple(" or ".join(label_of(self.view, item) for item in side) for side in (left, right))
        groups = {item.id: name for side, name in zip((left, right), names, strict=True) for item in side}
        groups = {item.id: groups.get(item.id, label_of(self.view, item)) for item in self.view.treatments}
        return _sentence(
            [
                finding
                for finding, key in _audited(self.view, groups, source_of(self.response))
                if finding.kind == "identical" and set(finding.treatments) == set(names) and key not in self.view.belongings
            ]
        )

    def of_ladder(self, treatments: Sequence[Treatment]) -> str:
        """Why no curve answers, where treatments on it cannot be told apart from something else."""
        on = {treatment.id for treatment in treatments}
        return next((_sentence(found) for pair, found in self.pairs.items() if pair <= on), "")


def _sentence(found: Sequence[Finding]) -> str:
    if not found:
        return ""
    more = f" Nor from {_list([finding.against for finding in found[1:]])}." if found[1:] else ""
    return f"{found[0].sentence}{more} {NO_CALL}"


def _list(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def package_words(view: TrialView) -> list[str]:
    """What the call is of, where a declared thing goes with the treatments."""
    tied: dict[str, list[Confounded]] = {}
    for item in confounded(view):
        if item.declared:
            tied.setdefault(item.key, []).append(item)
    belongs = view.belongings
    words = []
    for key, items in tied.items():
        if key == "sowing_day":
            words.append("The day of sowing is the treatment: what it brings with it is part of the answer.")
            continue
        names = list(dict.fromkeys(name for item in items for name in item.finding.treatments))
        words.append(
            f"The answer is of a package, as said under Question: {_list(names)} came with {belongs[key]}. Which part does it, "
            "this trial cannot tell."
        )
    return words


def remarks_of(view: TrialView) -> list[str]:
    """What the verdict says beside its calls: packages, and pairs that are nearly tied to something."""
    nearly: dict[str, list[str]] = {}
    for item in confounded(view):
        if item.finding.kind == "nearly" and not item.declared:
            nearly.setdefault(item.finding.against, []).append(item.finding.sentence)
    return [*package_words(view), *(sentences[0] for sentences in nearly.values())]
