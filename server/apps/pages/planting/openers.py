"""Openers as the API carries them: which row of the machine is off, in depth, stand or gaps, over strips."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from cultrix_core.errors import Refusal
from cultrix_core.stand.openers import OpenersLook, OpenerValue, look_at_openers
from cultrix_core.unit_formatting import format_number

from apps.analysis.verdict.wording import p_text
from apps.field.planting.models import DepthCheck
from apps.field.planting.schemas import OpenerOut, OpenersOut
from apps.field.stand.models import StandCount
from apps.trial_state.view import TrialView

Write = Callable[[float], str]


def openers_out(view: TrialView) -> list[OpenersOut]:
    """Everything that was recorded with its row of the machine; empty without such records."""
    show = view.show

    def gaps(value: float) -> str:
        return format_number(value, 1)

    every: list[tuple[str, str, list[OpenerValue], Write]] = [
        ("depth", "Depth", _depths(view), lambda value: show.text(value, "depth_dug")),
        ("stand", "Stand", _counts(view, lambda count: count.plants_per_m2), lambda value: show.text(value, "density")),
        ("gaps", "Gaps on a count", _counts(view, lambda count: count.gaps), gaps),
    ]
    return [_look(view, what, name, values, text) for what, name, values, text in every if values]


def _depths(view: TrialView) -> list[OpenerValue]:
    rows = DepthCheck.objects.filter(strip__trial=view.trial, strip__lost=False, voided=False, opener__isnull=False)
    return [
        OpenerValue(strip=str(strip), opener=opener or 0, value=depth or 0.0)
        for strip, opener, depth in rows.values_list("strip__order", "opener", "depth_m")
    ]


def _counts(view: TrialView, of: Callable[[StandCount], float | None]) -> list[OpenerValue]:
    rows = StandCount.objects.filter(strip__trial=view.trial, strip__lost=False, voided=False, opener__isnull=False)
    values = ((count, of(count)) for count in rows.select_related("strip"))
    return [
        OpenerValue(strip=f"{count.strip.order} on {count.recorded_at.date()}", opener=count.opener or 0, value=float(value))
        for count, value in values
        if value is not None
    ]


def _look(view: TrialView, what: str, name: str, values: Sequence[OpenerValue], text: Write) -> OpenersOut:
    try:
        look = look_at_openers(values, alpha=view.trial.alpha)
    except Refusal as refusal:
        return OpenersOut(what=what, name=name, openers=[], words="", problem=refusal.message)
    return OpenersOut(
        what=what,
        name=name,
        openers=[
            OpenerOut(
                opener=item.opener,
                strips=item.strips,
                mean=text(item.mean),
                value=item.mean,
                off=f"{text(abs(item.off))} {'more' if item.off > 0 else 'less'}",
                luck=p_text(item.p_luck) or "",
                apart=item in look.off,
            )
            for item in look.openers
        ],
        words=_words(look, text),
        problem="",
    )


def _words(look: OpenersLook, text: Write) -> str:
    if not look.off:
        return "No row of the machine stands apart: differences as large as these come by luck."
    told = [
        f"row {item.opener} by {text(abs(item.off))} {'above' if item.off > 0 else 'below'} the others "
        f"(chance of being luck {p_text(item.p_luck)})"
        for item in look.off
    ]
    return f"Off: {'; '.join(told)}. Look at {'it' if len(told) == 1 else 'them'} with the machine stopped and parts at rest."
