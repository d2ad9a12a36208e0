"""Does the stand explain the yield: parts and paths of a trial in the reader's units. It explains and never adjusts."""

from __future__ import annotations

from cultrix_core.errors import Refusal
from cultrix_core.stats.compare import StripResponse
from cultrix_core.stats.explain import Explained, Path, Share, explain
from cultrix_core.unit_formatting import format_number

from apps.analysis.verdict.comparisons import compared_strips, yield_of
from apps.analysis.verdict.confounding import label_of
from apps.analysis.verdict.schemas import ExplainedByOut, ExplanationOut, PartOfYieldOut, PathOut, ShareOut
from apps.analysis.verdict.wording import p_text
from apps.base.formatting import ShownOut, shown
from apps.trial_state.view import TrialView

NOTHING = "Neither plants were counted nor samples taken on harvested strips, so there is nothing to explain the yields with."
NO_CONTROL = "Without a control there is nothing to explain a difference from."
SPLIT_WORDS = "In a split or crossed layout what runs through the stand would need the errors of every size of strip: not told."
LOOK = "One strip a treatment explains nothing."
CAUTION = (
    "It explains and does not adjust: what a treatment changed may not be taken out of its comparison. And what goes together "
    "within treatments is not proof of a cause."
)


def explanation_out(view: TrialView) -> ExplanationOut:
    """By the stand, and by the seeds of the samples, as far as they were taken."""
    base = ExplanationOut(problem="", by=[], caution=CAUTION)
    if view.design.split:
        base.problem = SPLIT_WORDS
    elif not view.design.replicated:
        base.problem = LOOK
    elif view.control is None:
        base.problem = NO_CONTROL
    if base.problem:
        return base
    stands = {strip.id: view.records[strip.id].plants_per_m2 for strip in compared_strips(view)}
    seeds = {
        strip.id: (estimate.per_m2 if (estimate := view.records[strip.id].estimate) is not None and estimate.stressed else None)
        for strip in compared_strips(view)
    }
    refused = ""
    for title, names, values in (
        ("By the stand", ("plants per area", "yield of a plant"), stands),
        ("By the seeds of the samples", ("seeds per area", "weight of a seed"), seeds),
    ):
        rows = [(strip, value) for strip in compared_strips(view) if (value := values[strip.id])]
        if not rows:
            continue
        strips = [
            StripResponse(
                treatment=str(strip.received.id),
                block=str(strip.block.number),
                row=str(strip.row),
                response=yield_of(view, strip) or 0.0,
            )
            for strip, _ in rows
        ]
        try:
            explained = explain(
                strips,
                [value for _, value in rows],
                control=str(view.control.id) if view.control else "",
                names=names,
                design=view.design.family,
                alpha=view.trial.alpha,
                levels=[str(treatment.id) for treatment in view.treatments],
            )
        except Refusal as refusal:
            refused = refusal.message
            continue
        base.by.append(_told(view, title, names, explained))
    if not base.by:
        base.problem = refused or NOTHING
    return base


def _told(view: TrialView, title: str, names: tuple[str, str], explained: Explained) -> ExplainedByOut:
    labels = {str(treatment.id): label_of(view, treatment) for treatment in view.treatments}
    assert view.control is not None
    sure = "goes with" if explained.slope_p < view.trial.alpha else "is not shown to go with"
    return ExplainedByOut(
        title=title,
        against=label_of(view, view.control),
        slope=(
            f"Inside blocks and treatments more {names[0]} {sure} more yield "
            f"(p {p_text(explained.slope_p)}, {explained.n} strips)."
        ),
        n=explained.n,
        parts=[
            PartOfYieldOut(name=part.name, shares=[_share(labels[share.left], share) for share in part.shares])
            for part in explained.parts
        ],
        paths=[_path(view, labels[path.left], names[0], path) for path in explained.paths],
    )


def _share(label: str, share: Share) -> ShareOut:
    ends = [None if end is None else format_number(100 * (end - 1), 1, signed=True) for end in (share.lower, share.upper)]
    interval = f" ({ends[0]} to {ends[1]} %)" if ends[0] is not None else ""
    return ShareOut(
        treatment=label,
        ratio=100 * share.ratio,
        lower=None if share.lower is None else 100 * share.lower,
        upper=None if share.upper is None else 100 * share.upper,
        text=f"{format_number(100 * (share.ratio - 1), 1, signed=True)} %{interval}",
    )


def _path(view: TrialView, label: str, name: str, path: Path) -> PathOut:
    def text(value: float) -> ShownOut:
        result = shown(value, "yield", view.show, signed=True)
        assert result is not None
        return result

    sure = path.through_lower > 0 or path.through_upper < 0
    words = (
        f"Of {label}'s {text(path.total).text}, {text(path.through).text} runs through {name} "
        f"({text(path.through_lower).text} to {text(path.through_upper).text}), {text(path.beside).text} past it."
    )
    return PathOut(
        treatment=label,
        total=text(path.total),
        through=text(path.through),
        through_lower=text(path.through_lower),
        through_upper=text(path.through_upper),
        beside=text(path.beside),
        sentence=words if sure else f"{words} Whether any of it does is not shown.",
    )
