"""The protocol: what was settled before the result, frozen; and the amendments beside it.

Its content is a flat list of names and texts, so that a change reads as before and after. The fingerprint is
the SHA-256 of the content as JSON with sorted keys.
"""

from __future__ import annotations

import hashlib
import json
from uuid import UUID

from cultrix_core.crops import crop
from cultrix_core.errors import Refusal
from cultrix_core.units import LABELS, parse_number
from cultrix_core.writing import written_day
from django.db import transaction
from django.utils import timezone

from apps.accounts.models import User
from apps.accounts.rights import require
from apps.accounts.services import save_as
from apps.base.errors import Conflict
from apps.base.quantities import MeasuredValue
from apps.trials import costs
from apps.trials.models import Amendment, Covariate, Level, Protocol, Trial
from apps.trials.naming import ladder_amounts, response_name
from apps.trials.queries import sowings_of, treatments_of, trial_for
from apps.trials.treatment_package import PACKAGE

MONEY = (
    "price",
    "unit_cost",
    "practical_margin",
    "net_margin",
    "bag_price",
    "bag_seeds",
    "expected_yield",
    "standard_moisture",
)
USUAL_MARGIN = 0.02  # of the expected yield, offered where none is stated: common practice, no source
WORDS = {
    "unit_cost": "cost that comes with yield",
    "net_margin": "margin of net return",
    "bag_price": "price of a bag",
    "bag_seeds": "seeds in a bag",
}


def plan_lines(trial: Trial) -> dict[str, str]:
    """What is varied, each treatment with its costs, and what is sown: rewritten whole, so told from before to after."""
    varied = "; ".join(factor.title for factor in trial.factors.all())
    return {"varied": varied, **_treatments(trial), **_sown(trial)}


def content_of(trial: Trial) -> dict[str, str]:
    """What a frozen protocol holds, as names and texts."""
    content = {
        "question": trial.question,
        "guess": trial.guess,
        "primary response": response_name(trial.primary_response),
        "significance level": f"{trial.alpha:g}",
        "field": str(trial.field) if trial.field else "",
        "crop": crop(trial.crop).title,
    }
    currency = trial.workspace.currency
    for name in MONEY:
        text = _said(getattr(trial, f"{name}_typed"), getattr(trial, f"{name}_unit"), currency)
        content[WORDS.get(name, name.replace("_", " "))] = text
    if trial.amounts_by == "curve" and any(ladder_amounts(factor, treatments_of(trial)) for factor in trial.factors.all()):
        content["amounts answered by"] = trial.get_amounts_by_display().lower()
    if trial.response_margin.text:
        content["margin of the response"] = _said(trial.response_margin.text, trial.response_margin.unit, "")
    if trial.package:
        content["belongs to the treatment"] = "; ".join(PACKAGE[part] for part in trial.package)
    if trial.price_source:
        content["price read"] = trial.price_source
    content |= _treatments(trial) | _sown(trial)
    measured = Covariate.objects.filter(trial=trial).first()
    if measured is not None:
        content["covariate"] = str(measured)
    content["design"] = f"{trial.get_design_display()}, seed {trial.seed}" if trial.design else ""
    strips = list(trial.strips.select_related("block", "treatment"))
    blocks: dict[int, list[str]] = {}
    for strip in strips:
        blocks.setdefault(strip.block.number, []).append(strip.treatment.letter)
    content["layout"] = " | ".join(" ".join(letters) for letters in blocks.values())
    if strips:
        first = strips[0]
        content["strip"] = f"{first.width.text} {first.width.unit} × {first.length.text} {first.length.unit}"
    return content


def _treatments(trial: Trial) -> dict[str, str]:
    """Each treatment with its levels and costs."""
    currency, result = trial.workspace.currency, {}
    for treatment in treatments_of(trial):
        parts = [_level(level, currency) for level in treatment.levels.all()]
        if treatment.is_control:
            parts.append("control")
        if treatment.extra_cost.text:
            parts.append(f"stated cost {_said(treatment.extra_cost.text, treatment.extra_cost.unit, currency)}")
        result[f"treatment {treatment.letter}"] = "; ".join(parts)
    return result


def _sown(trial: Trial) -> dict[str, str]:
    """Lots, mixtures and companions, where any are chosen."""
    said = []
    for part in sowings_of(trial):
        more = [f"{part.share.text} % by {part.share_by}"] if part.share.text else []
        if part.rate.text:
            more.append(f"{_said(part.rate.text, part.rate.unit, '')} {part.get_place_display().lower()}")
        if part.level:
            more.append(f"for {part.level.amount.text or part.level.name}")
        said.append(f"{part.get_part_display().lower()}: {part.lot}{' (' + ', '.join(more) + ')' if more else ''}")
    return {"seed": "; ".join(said)} if said else {}


def _said(text: str, unit: str, currency: str) -> str:
    """What was typed, with its unit as people read it."""
    label = LABELS.get(unit, unit)
    return f"{text} {currency}{label}" if unit.startswith("money") and text else f"{text} {label}".strip()


def _level(level: Level, currency: str) -> str:
    text = _said(level.amount.text, level.amount.unit, currency) if level.amount.text else level.name
    lines = [costs.said(line, currency) for line in level.cost_lines.all()]
    return f"{text} ({', '.join(lines)})" if lines else text


def fingerprint(content: dict[str, str]) -> str:
    """SHA-256 of a content."""
    return hashlib.sha256(json.dumps(content, sort_keys=True, ensure_ascii=False).encode()).hexdigest()


def freeze(user: User, trial_id: UUID) -> Trial:
    """Freeze the protocol, with the offered margin. Refuses twice, and while question, control or layout are missing."""
    with transaction.atomic():
        trial = trial_for(user, trial_id)
        require(user, trial.workspace, "freeze")
        if Protocol.objects.filter(trial=trial).exists():
            raise Conflict("frozen", "The protocol is frozen already; changes are amendments with a reason.")
        missing = [
            name
            for name, there in (
                ("the question", bool(trial.question.strip())),
                ("a control", trial.treatments.filter(is_control=True).exists()),
                ("the layout", trial.strips.exists()),
            )
            if not there
        ]
        if missing:
            raise Refusal(
                "missing",
                field="protocol",
                label=" and ".join(missing).capitalize(),
                remedy="A protocol says what is asked, against what, and where; then it can be frozen.",
            )
        _state_margin(trial, user)
        content = content_of(trial)
        Protocol.objects.create(
            trial=trial, frozen_at=timezone.now(), by=user, content=content, fingerprint=fingerprint(content)
        )
    return trial


def _state_margin(trial: Trial, user: User) -> None:
    """Writes down the margin that is offered, where none is stated: what is frozen holds what the verdict will use."""
    expected = trial.expected_yield
    if trial.practical_margin.text.strip() or expected.value is None:
        return
    typed = parse_number(expected.text, field="expected_yield")
    offered = float(f"{USUAL_MARGIN * typed:.3g}")
    trial.practical_margin = MeasuredValue(f"{offered:g}", expected.unit, offered / typed * expected.value)
    save_as(trial, user, "practical margin: 2 % of the expected yield, as none was stated")


def amend(trial: Trial, user: User, reason: str) -> None:
    """Keep the change a write made to a frozen protocol; refuses it without a reason."""
    frozen = Protocol.objects.filter(trial=trial).first()
    if frozen is None:
        return
    before = current_content(trial, frozen)
    now = content_of(trial)
    names = [name for name in sorted({*before, *now}) if before.get(name, "") != now.get(name, "")]
    changes = [[name, before.get(name, ""), now.get(name, "")] for name in names]
    if not changes:
        return
    if not reason.strip():
        raise Conflict(
            "frozen",
            f"The protocol was frozen on {written_day(frozen.frozen_at)}; this changes {', '.join(row[0] for row in changes)}. "
            "Give the reason: the original stays beside it and both show in the verdict.",
            {"changes": changes},
        )
    require(user, trial.workspace, "amend")
    Amendment.objects.create(trial=trial, by=user, reason=reason.strip()[:300], changes=changes)


def current_content(trial: Trial, frozen: Protocol) -> dict[str, str]:
    """The frozen content with all amendments so far."""
    content = dict(frozen.content)
    for amendment in trial.amendments.all():
        for name, _, after in amendment.changes:
            content[name] = after
    return {name: text for name, text in content.items() if text != "" or name in frozen.content}
