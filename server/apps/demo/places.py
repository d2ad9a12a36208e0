"""Fields and machines of the demo."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast
from uuid import UUID

from shapely import affinity
from shapely.geometry import Polygon

from apps.accounts.models import User, Workspace
from apps.demo.writing import typed
from apps.farms.models import Field
from apps.farms.schemas import AreaIn, FieldIn, FieldPatchIn, MachineIn
from apps.farms.services import add_field, add_machine, edit_field
from apps.geography.frames import to_degrees

# Outlines in metres from a corner, before turning: what river terraces look like, none of them a rectangle.
OUTLINES = (
    ("Aldermere", "Long Terrace", ((0, 0), (168, 6), (176, 300), (160, 428), (8, 420), (-6, 190)), 14, 104),
    ("Aldermere", "Mill Reach", ((0, 0), (152, -8), (158, 372), (84, 396), (4, 380)), 352, 262),
    ("Harrowfold", "Kiln Bank", ((0, 0), (170, 10), (164, 402), (6, 410)), 38, 128),
    ("Harrowfold", "Upper Step", ((0, 0), (186, 4), (196, 260), (180, 462), (2, 452)), 8, 98),
    ("Sallowbank", "Stone Row", ((0, 0), (150, 0), (168, 210), (150, 372), (0, 366), (-10, 150)), 21, 111),
)


def fields_of(lead: User, workspace: Workspace) -> list[Field]:
    """Five fields with a boundary, far out at sea where nobody farms, and one known by its size only."""
    fields = [
        add_field(
            lead,
            workspace.id,
            FieldIn(farm="Quillbrook", name="Ferry Ground", width=typed("130", "m"), length=typed("350", "m")),
        )
    ]
    for place, (farm, name, outline, heading, gradient) in enumerate(OUTLINES):
        corners = _corners(outline, heading, lat=46.5 + 0.01 * place, lon=-28.4 + 0.012 * place)
        field = add_field(lead, workspace.id, FieldIn(farm=farm, name=name, corners=corners))
        areas = []
        if name == "Stone Row":
            mast = _corners(
                ((96, 180), (101, 180), (101, 185), (96, 185)), heading, lat=46.5 + 0.01 * place, lon=-28.4 + 0.012 * place
            )
            areas = [AreaIn(kind="obstacle", name="mast", corners=mast)]
        patch = FieldPatchIn(version=field.version, heading=str(heading), gradient=str(gradient), areas=areas)
        fields.append(edit_field(lead, field.id, patch))
    return fields


def _corners(outline: Sequence[tuple[float, float]], heading: float, *, lat: float, lon: float) -> str:
    """Corners in metres, turned into the driving direction and put on the globe, as they would be typed."""
    turned = affinity.rotate(Polygon(outline), -heading, origin=(0, 0))
    frame = f"+proj=tmerc +lat_0={lat} +lon_0={lon} +k=1 +x_0=0 +y_0=0 +ellps=WGS84 +units=m +no_defs"
    return "\n".join(f"{north:.7f}, {east:.7f}" for east, north in to_degrees(list(turned.exterior.coords)[:-1], frame)[:-1])


def machines_of(lead: User, workspace: Workspace) -> dict[str, UUID]:
    """What works on the four farms, by name."""
    rows = (
        ("Drill 6 m", "planter", "6"),
        ("Planter, 8 rows at 75 cm", "planter", "6"),
        ("Strip-till bar 6 m", "tillage", "6"),
        ("Plough, 5 furrows", "tillage", "2.4"),
        ("Header 5.4 m", "harvester", "5.4"),
    )
    return {
        name: add_machine(lead, workspace.id, MachineIn(name=name, kind=cast(Any, kind), width=typed(width, "m"))).id
        for name, kind, width in rows
    }
