"""The layout sheet: map, strip list, stakes, pass card and cautions, print-ready.

The numbers are the pass card's and the map's own; nothing is computed here.
"""

from __future__ import annotations

from cultrix_core.errors import Refusal
from cultrix_core.writing import written_day
from django.template.loader import render_to_string

from apps.accounts.queries import region_of
from apps.analysis.power.schemas import PassCardOut
from apps.pages.power.cards import map_out, pass_card_out
from apps.pages.trial.output import amendment_words, protocol_out, treatment_out
from apps.report.map_svg import map_svg
from apps.report.pdf import pdf_of
from apps.trial_state.rows import strip_out
from apps.trial_state.view import TrialView

DRIVING = {"as_laid": "In field order", "fewest_changes": "Fewest changes of setting"}


def layout_html(view: TrialView, *, driving: str, reserve_pct: float) -> str:
    """The sheet as HTML."""
    card = pass_card_out(view, driving=driving, reserve_pct=reserve_pct)  # type: ignore[arg-type]
    frozen = protocol_out(view.trial)
    seed = {item.letter: item for item in card.seed}
    treatments = [treatment_out(view, treatment) for treatment in view.treatments]
    placed = bool(view.strips[0].ring) and "boundary" in view.trial.plan
    return render_to_string(
        "layout_sheet.html",
        {
            "title": view.trial.title,
            "paper": region_of(view.trial.workspace).paper,
            "crop": view.profile.title,
            "season": view.trial.season,
            "field": str(view.trial.field) if view.trial.field else "",
            "design": view.trial.get_design_display(),
            "seed": view.trial.seed if view.trial.drawn else None,
            "question": view.trial.question,
            "frozen": f"{written_day(frozen.frozen_at)}, {frozen.frozen_at:%H:%M} UTC" if frozen else "",
            "fingerprint": frozen.fingerprint if frozen else "",
            "amendments": amendment_words(frozen),
            "treatments": [
                {
                    "letter": treatment.letter,
                    "name": treatment.name,
                    "control": treatment.is_control,
                    "per_row": f"{treatment.along_row.per_row}, every {treatment.along_row.in_row}"
                    if treatment.along_row
                    else "",
                    "seed": (seed[treatment.letter].weight or seed[treatment.letter].seeds) if treatment.letter in seed else "",
                }
                for treatment in treatments
            ],
            "map": map_svg(view, map_out(view)) if placed else "",
            "record": [*view.trial.plan.get("record", []), *view.trial.plan.get("remarks", [])],
            "cautions": card.cautions,
            "strips": _strips(view, card),
            "driving": DRIVING[driving],
            "changes": card.changes,
            "across": card.across,
            "passes": card.passes,
        },
    )


def _strips(view: TrialView, card: PassCardOut) -> list[dict[str, object]]:
    stakes = {(stake.strip, stake.side): stake for stake in card.stakes}
    names = {treatment.id: (treatment.letter, treatment_out(view, treatment).name) for treatment in view.treatments}
    rows = []
    for strip in view.strips:
        out = strip_out(view, strip)
        left, right = stakes.get((strip.order, "left")), stakes.get((strip.order, "right"))
        letter, name = names[strip.treatment_id]
        rows.append(
            {
                "order": strip.order,
                "block": strip.block.number,
                "letter": letter,
                "name": name,
                "width": out.width.text if out.width else "",
                "length": out.length.text if out.length else "",
                "left": left.across if left else "",
                "right": right.across if right else "",
                "up": left.up if left else "",
                "position": left.position if left else "",
            }
        )
    return rows


def layout_pdf(view: TrialView, *, driving: str, reserve_pct: float) -> bytes:
    """The sheet as PDF.

    Raises
    ------
    Refusal : ``missing`` without a layout, or when the machine lacks the text library that printing needs.
    """
    html = layout_html(view, driving=driving, reserve_pct=reserve_pct) if view.strips else ""
    if not html:
        raise Refusal("missing", field="layout", label="A layout", remedy="Draw the strips first.")
    return pdf_of(html)
