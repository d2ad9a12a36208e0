"""The bench: every calculator without a trial."""

from uuid import UUID

from cultrix_core.calculators import GROUPS, Input, calculator, read
from cultrix_core.crops import crop
from cultrix_core.regions import RegionProfile
from cultrix_core.typed_limits import TypedValue
from cultrix_core.units import UNITS
from django.http import HttpRequest
from ninja import Router, Schema

from apps.accounts.queries import actor, formatter_for, reader_region, workspace_for
from apps.base.formatting import WorkingOut, working_out
from apps.base.quantities import TypedIn
from apps.base.typed_values import remember

UNIT_KEYS = {(unit.dimension, unit.code) for unit in UNITS}
router = Router(tags=["bench"])


class BenchInputOut(Schema):
    name: str
    label: str
    dimension: str
    example: TypedIn
    choices: list[list[str]]
    several: bool
    optional: bool


class CalculatorOut(Schema):
    key: str
    group: str
    title: str
    purpose: str
    needs_crop: bool
    inputs: list[BenchInputOut]


class ReckonIn(Schema):
    crop: str = "other"
    values: dict[str, TypedIn]


def _example(entry: Input, region: RegionProfile, own: set[str]) -> TypedIn:
    text, unit = entry.us if region.system == "us" and entry.us[1] in own | {""} else entry.metric
    return TypedIn(text=text, unit=unit)


@router.get("/workspaces/{workspace_id}/bench", response=list[CalculatorOut], operation_id="bench")
def bench(request: HttpRequest, workspace_id: UUID):
    user = actor(request)
    region = reader_region(user, workspace_for(user, workspace_id))
    names = set(region.own_units())
    return [
        CalculatorOut(
            key=entry.key,
            group=group,
            title=entry.title,
            purpose=entry.purpose,
            needs_crop=entry.needs_crop,
            inputs=[
                BenchInputOut(
                    name=item.name,
                    label=item.label,
                    dimension=item.dimension,
                    example=_example(item, region, names),
                    choices=[list(pair) for pair in item.choices],
                    several=item.several,
                    optional=item.optional,
                )
                for item in entry.inputs
            ],
        )
        for group, entries in GROUPS
        for entry in entries
    ]


@router.post("/workspaces/{workspace_id}/bench/{key}", response=WorkingOut, operation_id="reckon")
def reckon(request: HttpRequest, workspace_id: UUID, key: str, body: ReckonIn):
    entry, profile = calculator(key), crop(body.crop)
    user = actor(request)
    show = formatter_for(user, workspace_for(user, workspace_id), profile)
    typed = {name: (value.text, value.unit) for name, value in body.values.items()}
    values = read(entry, typed, bushel_kg=profile.bushel_kg)
    for item in entry.inputs:
        text, unit = typed.get(item.name, ("", ""))
        if isinstance(values[item.name], float) and (item.dimension, unit) in UNIT_KEYS:
            value = TypedValue(
                text=text.strip(), dimension=item.dimension, unit=unit, canonical=values[item.name], bushel_kg=profile.bushel_kg
            )
            remember(item.name, value)
    return working_out(entry.run(values | {"crop": profile.key}, show))
