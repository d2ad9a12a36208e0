"""Drawing a layout and placing its strips on the field."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import replace
from typing import Any
from uuid import UUID

from cultrix_core.design.designs import design_kind
from cultrix_core.design.geometry import Ground, Placed, Placing, Ring, longest_side_heading, place_strips
from cultrix_core.design.randomise import Cell, Constraints, Layout, PlannedStrip, in_tiers, lay_out
from cultrix_core.design.widths import WidthOption, WorkingMachine, passes_at, strip_widths
from cultrix_core.errors import Refusal, require_between, require_positive
from cultrix_core.units import parse_number
from django.db import transaction

from apps.accounts.models import User
from apps.accounts.services import save_as
from apps.base.errors import NotFound
from apps.base.quantities import Quantity, TypedIn, fill, parse
from apps.farms.merged import kept_ids
from apps.farms.models import Field, Machine
from apps.geography import frames
from apps.trials import models
from apps.trials.editing import saved, take_up_layout, writable
from apps.trials.models import Block, Factor, LayoutDraw, Strip, Treatment, Trial
from apps.trials.queries import treatments_of, trial_for
from apps.trials.schemas import LayoutIn, WidthsIn


def draw_layout(user: User, trial_id: UUID, body: LayoutIn) -> Trial:
    """Draw strips from a seed and place them. Refused while records hang on the strips there are."""
    with transaction.atomic():
        trial = writable(user, trial_id, body.version)
        take_up_layout(trial, "The layout")
        treatments = list(treatments_of(trial))
        seed = body.seed if body.seed is not None else secrets.randbits(48)
        require_between(seed, 0, 2**53 - 1, "seed", label="Seed of the draw")
        layout = _drawn(trial, treatments, body, seed)
        strips = in_tiers(layout.strips, body.tiers)
        size = _size(trial, body)
        site = ground_of(trial.field)
        placed = place_strips(site[0], strips, _placing(trial, body, size, site[0])) if site else None
        trial.design, trial.seed, trial.drawn = body.design, seed, True
        trial.plan = _plan(body, layout, placed, site, size)
        by_id = {str(treatment.id): treatment for treatment in treatments}
        width = body.strip_width if body.strip_width.text.strip() else TypedIn(text=f"{size.width_m:g}", unit="m")
        lay_strips(user, trial, strips, by_id, width, body.strip_length, placed=placed)
        LayoutDraw.objects.create(trial=trial, by=user, design=body.design, seed=seed, said=" ".join(layout.record))
        return saved(trial, user, f"drew {body.design}, {body.blocks} blocks, seed {seed}", body.amendment)


def _drawn(trial: Trial, treatments: Sequence[Treatment], body: LayoutIn, seed: int) -> Layout:
    control = next((str(treatment.id) for treatment in treatments if treatment.is_control), "")
    return lay_out(
        body.design,
        cells_of(treatments, list(trial.factors.all()), body),
        blocks=body.blocks,
        seed=seed,
        control=control,
        constraints=Constraints(
            no_equal_neighbours=body.no_equal_neighbours,
            balance_neighbours=body.balance_neighbours,
            first=str(body.first) if body.first else "",
        ),
    )


def parts_of(factors: Sequence[Factor], design: str, main: int | None, sub: int | None) -> tuple[int, int | None]:
    """Places of the factors in main strips and in the strips inside them; by default the hard one is main."""
    varied = list(range(len(factors)))
    first = main if main is not None else next((place for place in varied if factors[place].hard_to_change), 0)
    if first not in varied or (sub is not None and (sub not in varied or sub == first)):
        raise Refusal("unknown_choice", field="main", label="Factor", value=first, limit="the factors of this trial")
    rest = [place for place in varied if place != first]
    second = sub if sub is not None else (rest[0] if rest else None)
    if "subsub" in design_kind(design).parts and len(rest) < 2:
        raise Refusal(
            "not_for_design",
            field="design",
            label="A split-split-plot",
            value=f"{len(factors)} factors",
            limit="it needs three",
            remedy="Add a factor, or use a split-plot.",
        )
    return first, second


def cells_of(treatments: Sequence[Treatment], factors: Sequence[Factor], body: LayoutIn) -> list[Cell]:
    """Treatments as the core draws them, sorted by the parts of a split design."""
    if not design_kind(body.design).split:
        return [Cell(name=str(treatment.id)) for treatment in treatments]
    if len(factors) < 2:
        raise Refusal(
            "not_for_design",
            field="design",
            label="A split or crossed layout",
            value="one factor",
            limit="it needs two",
            remedy="Add a factor under Treatments, or use complete blocks.",
        )
    main, sub = parts_of(factors, body.design, body.main, body.sub)
    cells = []
    for treatment in treatments:
        levels = {level.factor.position: str(level.id) for level in treatment.levels.all()}
        others = [levels[place] for place in sorted(levels) if place != main]
        inner = [levels[place] for place in sorted(levels) if place not in (main, sub)]
        if "subsub" in design_kind(body.design).parts:
            cells.append(Cell(name=str(treatment.id), main=levels[main], sub=levels[sub or 0], subsub="|".join(inner)))
        else:
            cells.append(Cell(name=str(treatment.id), main=levels[main], sub="|".join(others)))
    return cells


def machines_of(trial: Trial, ids: Sequence[UUID]) -> list[WorkingMachine]:
    """Machines of the trial's workspace by id, as the core takes them; a stranger's id is not here."""
    ids = kept_ids(trial.workspace, ids)
    result = {machine.id: machine for machine in Machine.objects.filter(workspace=trial.workspace, id__in=ids)}
    if len(result) != len(set(ids)):
        raise NotFound
    return [
        WorkingMachine(name=machine.name, kind=machine.kind, width_m=machine.width.value)  # type: ignore[arg-type]
        for machine in (result[key] for key in ids)
    ]


def widths_for(user: User, trial_id: UUID, body: WidthsIn) -> tuple[tuple[WidthOption, ...], str]:
    """Strip widths that hold whole passes of these machines."""
    widths = strip_widths(machines_of(trial_for(user, trial_id), body.machines))
    return widths.options, widths.explanation


def _size(trial: Trial, body: LayoutIn) -> WidthOption:
    """Strip width with the harvested swath inside it."""
    machines = machines_of(trial, body.machines)
    width = _metres(body.strip_width, "strip_width", "Strip width")
    if width is None:
        widths = strip_widths(machines) if machines else None
        if widths is None or not widths.options:
            remedy = widths.explanation if widths else "A whole number of passes of the machines."
            raise Refusal("missing", field="strip_width", label="Strip width", remedy=remedy)
        chosen = widths.options[0]
    elif machines:
        chosen = passes_at(width, machines)
    else:
        require_positive(width, "strip_width", label="Strip width", unit=" m")
        chosen = WidthOption(width_m=width, passes=(), swath_m=width, swath_passes=0, border_m=0.0)
    swath = _metres(body.swath, "swath", "Harvested swath")
    if swath is None:
        return chosen
    return WidthOption(
        width_m=chosen.width_m, passes=chosen.passes, swath_m=swath, swath_passes=1, border_m=(chosen.width_m - swath) / 2
    )


def _metres(typed: TypedIn, field: str, label: str) -> float | None:
    return parse(Quantity(name=field, suffix="", dimension="length", kind="", label=label), typed)


def ground_of(field: Field | None) -> tuple[Ground, str] | None:
    """The field in metres of its frame ("" for a frame of its own), None when it has no size."""
    if field is None:
        return None
    if field.boundary is None:
        if not (field.width.value and field.length.value):
            return None
        width, length = field.width.value, field.length.value
        return Ground(boundary=((0.0, 0.0), (width, 0.0), (width, length), (0.0, length))), ""
    outer, *holes = field.boundary["coordinates"]
    frame = "" if field.boundary_in_m else frames.frame_of(frames.polygon_from(field.boundary))

    def local(points: Any) -> Ring:
        result = tuple((float(x), float(y)) for x, y in points) if field.boundary_in_m else frames.to_metres(points, frame)
        return result[:-1] if result[0] == result[-1] else result

    areas = {
        kind: tuple(local(area["corners"]) for area in field.areas if area["kind"] == kind) for kind in ("obstacle", "no_go")
    }
    ground = Ground(
        boundary=local(outer),
        obstacles=areas["obstacle"],
        no_go=(*areas["no_go"], *(local(hole) for hole in holes)),
    )
    return ground, frame


def heading_for(field: Field | None, ground: Ground, asked: str) -> float:
    """Driving direction: asked for, the field's own, or along its longest side."""
    if asked.strip():
        value = parse_number(asked, field="heading", label="Driving direction")
        return require_between(value, 0, 360, "heading", label="Driving direction", unit="°") % 360
    if field is not None and field.heading_deg is not None:
        return field.heading_deg
    if field is not None and field.boundary is None:
        return 0.0
    return longest_side_heading(ground.boundary)


def _placing(trial: Trial, body: LayoutIn, size: WidthOption, ground: Ground) -> Placing:
    return Placing(
        heading_deg=heading_for(trial.field, ground, body.heading),
        strip_width_m=size.width_m,
        headland_m=_metres(body.headland, "headland", "Headland") or 0.0,
        guards=body.guards,
        side_m=_metres(body.side, "side", "Kept free at the side") or 0.0,
        swath_m=size.swath_m,
        length_m=_metres(body.strip_length, "strip_length", "Strip length"),
        alley_m=_metres(body.alley, "alley", "Alley") or 0.0,
    )


def _plan(
    body: LayoutIn, layout: Layout, placed: Placed | None, site: tuple[Ground, str] | None, size: WidthOption
) -> dict[str, Any]:
    """What is kept of how a layout came about."""
    asked = body.model_dump(mode="json", exclude={"version", "amendment"})
    plan: dict[str, Any] = {
        "asked": asked,
        "record": list(layout.record),
        "passes": [list(field_pass) for field_pass in size.passes],
        "swath_m": size.swath_m,
    }
    if placed is None or site is None:
        return plan
    ground, frame = site
    return plan | {
        "frame": frame,
        "heading_deg": placed.heading_deg,
        "boundary": [list(point) for point in ground.boundary],
        "obstacles": [[list(point) for point in ring] for ring in ground.obstacles],
        "no_go": [[list(point) for point in ring] for ring in ground.no_go],
        "guards": [[list(point) for point in ring] for ring in placed.guards],
        "bands": placed.bands,
        "longest_m": placed.longest_m,
        "remarks": list(placed.remarks),
    }


def lay_strips(
    user: User,
    trial: Trial,
    plan: Sequence[PlannedStrip],
    treatments: dict[str, Treatment],
    width: TypedIn | None,
    length: TypedIn | None,
    block_names: Sequence[str] = (),
    placed: Placed | None = None,
) -> list[Strip]:
    """Write the strips of a plan. ``block_names`` names blocks in the order of their numbers."""
    if width is not None and placed is None:
        for quantity, typed in ((models.STRIP_WIDTH, width), (models.STRIP_LENGTH, length)):
            field = f"strip_{quantity.name}"
            value = _metres(typed or TypedIn(), field, quantity.label)
            if value is None:
                raise Refusal("missing", field=field, label=quantity.label, remedy="Pace it, or read it off a map.")
            require_positive(value, field, label=quantity.label, unit=" m")
    blocks: dict[int, Block] = {}
    strips = []
    for place, planned in enumerate(plan):
        if planned.block not in blocks:
            name = block_names[planned.block - 1] if block_names else ""
            blocks[planned.block] = Block.objects.create(trial=trial, number=planned.block, name=name)
        strip = Strip(
            trial=trial,
            block=blocks[planned.block],
            order=planned.order,
            treatment=treatments[planned.treatment],
            main=planned.main,
            column=planned.column,
            row=planned.row,
        )
        fill(strip, models.STRIP_WIDTH, width)
        if placed is None:
            fill(strip, models.STRIP_LENGTH, length)
        else:
            _put_on_ground(strip, placed, place, length)
        save_as(strip, user, "laid out")
        strips.append(strip)
    return strips


def _put_on_ground(strip: Strip, placed: Placed, place: int, length: TypedIn | None) -> None:
    on_ground = placed.strips[place]
    strip.ring = [list(point) for point in on_ground.ring]
    strip.swath = [list(point) for point in on_ground.swath]
    strip.area_m2 = on_ground.area_m2
    typed = length if length is not None and length.text.strip() else TypedIn(text=f"{on_ground.length_m:.2f}", unit="m")
    fill(strip, models.STRIP_LENGTH, typed)
    strip.length = replace(strip.length, value=on_ground.length_m)
