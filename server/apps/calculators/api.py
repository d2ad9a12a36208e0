"""The bench: every calculator without a trial."""

from cultrix_core.calculators import GROUPS, Input, calculator, read
from cultrix_core.crops import crop
from cultrix_core.typed_limits import TypedValue
from cultrix_core.unit_formatting import UnitFormatter
from cultrix_core.units import UNITS
from django.http import HttpRequest
from ninja import Router, Schema

from apps.accounts.queries import actor
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


def _example(entry: Input, system: str) -> TypedIn:
    text, unit = entry.us if system == "us" else entry.metric
    return TypedIn(text=text, unit=unit)


@router.get("/bench", response=list[CalculatorOut], operation_id="bench")
def bench(request: HttpRequest):
    system = actor(request).unit_system
    return [
        CalculatorOut(
            key=entry.key,
            group=group,
            title=entry.title,
            purpose=entry.purpose,
            needs_crop=entry.needs_crop,
            inputs=[
                BenchInputOut(
                    name=one.name,
                    label=one.label,
                    dimension=one.dimension,
                    example=_example(one, system),
                    choices=[list(pair) for pair in one.choices],
                    several=one.several,
                    optional=one.optional,
                )
                for one in entry.inputs
            ],
        )
        for group, entries in GROUPS
        for entry in entries
    ]


@router.post("/bench/{key}", response=WorkingOut, operation_id="reckon")
def reckon(request: HttpRequest, key: str, body: ReckonIn):
    entry, profile = calculator(key), crop(body.crop)
    user = actor(request)
    show = UnitFormatter(system=user.unit_system, bushel_kg=profile.bushel_kg, sparse=profile.sparse_stand)  # type: ignore[arg-type]
    typed = {name: (value.text, value.unit) for name, value in body.values.items()}
    values = read(entry, typed, bushel_kg=profile.bushel_kg)
    for one in entry.inputs:
        text, unit = typed.get(one.name, ("", ""))
        if isinstance(values[one.name], float) and (one.dimension, unit) in UNIT_KEYS:
            value = TypedValue(
                text=text.strip(), dimension=one.dimension, unit=unit, canonical=values[one.name], bushel_kg=profile.bushel_kg
            )
            remember(one.name, value)
    return working_out(entry.run(values | {"crop": profile.key}, show))
