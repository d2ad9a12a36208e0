"""The bench: every calculator without a trial."""

from cultrix_core.bench import CALCULATORS, Calculator, Input, calculator
from cultrix_core.crops import crop
from cultrix_core.errors import Refusal
from cultrix_core.showing import Shower
from cultrix_core.units import parse_number, parse_quantity
from django.http import HttpRequest
from ninja import Router, Schema

from apps.accounts.selectors import actor
from apps.quantities import TypedIn
from apps.shown import WorkingOut, working_out

router = Router(tags=["bench"])


class BenchInputOut(Schema):
    name: str
    label: str
    dimension: str
    example: TypedIn


class CalculatorOut(Schema):
    key: str
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


def _needs_crop(entry: Calculator) -> bool:
    return entry.key in ("break_even", "load")


@router.get("/bench", response=list[CalculatorOut], operation_id="bench")
def bench(request: HttpRequest):
    system = actor(request).unit_system
    return [
        CalculatorOut(
            key=entry.key,
            title=entry.title,
            purpose=entry.purpose,
            needs_crop=_needs_crop(entry),
            inputs=[
                BenchInputOut(name=one.name, label=one.label, dimension=one.dimension, example=_example(one, system))
                for one in entry.inputs
            ],
        )
        for entry in CALCULATORS
    ]


@router.post("/bench/{key}", response=WorkingOut, operation_id="reckon")
def reckon(request: HttpRequest, key: str, body: ReckonIn):
    entry, profile = calculator(key), crop(body.crop)
    user = actor(request)
    show = Shower(system=user.unit_system, bushel_kg=profile.bushel_kg, sparse=profile.sparse_stand)  # type: ignore[arg-type]
    values = {}
    for one in entry.inputs:
        typed = body.values.get(one.name)
        if typed is None or not typed.text.strip():
            raise Refusal("missing", field=one.name, label=one.label, remedy="Type a value.")
        values[one.name] = (
            parse_number(typed.text, field=one.name, label=one.label)
            if one.dimension == "number"
            else parse_quantity(
                typed.text, one.dimension, typed.unit, field=one.name, label=one.label, bushel_kg=profile.bushel_kg
            )
        )
    return working_out(entry.run(values, show))
