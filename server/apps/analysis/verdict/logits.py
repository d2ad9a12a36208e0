"""A proportion with a known number, compared on the logit scale beside: odds ratios to the control, over strips."""

from __future__ import annotations

from math import exp

from cultrix_core.unit_formatting import format_number

from apps.analysis.strip_means import compared
from apps.analysis.verdict.confounding import label_of
from apps.analysis.verdict.responses import judged_values
from apps.analysis.verdict.wording import p_text
from apps.trial_state.view import TrialView


def logit_words(view: TrialView, response: str) -> list[str]:
    """Sentences; empty where the response is no proportion, or treatments cannot be compared."""
    judged = judged_values(view)
    if judged is None or judged.response.key != response or not judged.logits:
        return []
    comparison = compared(view, judged.logits)
    if comparison is None or not comparison.replicated or not comparison.to_control:
        return []
    by_id = {str(treatment.id): treatment for treatment in view.treatments}
    level = format_number(100 * (1 - view.trial.alpha), 0)
    told = []
    for row in comparison.to_control:
        if row.lower is None or row.upper is None:
            continue
        ratio, low, high = (format_number(exp(value), 2) for value in (row.estimate, row.lower, row.upper))
        told.append(
            f"{label_of(view, by_id[row.left])} against {label_of(view, by_id[row.right])}: {ratio} ({low} to {high}), "
            f"p {p_text(row.p)}"
        )
    if not told:
        return []
    return [
        f"As a share of {judged.response.share_of}, on the logit scale of each strip: odds ratios with {level} % intervals, "
        f"all of them together. {'; '.join(told)}."
    ]
