"""Draws the floors that the contract in pyproject.toml holds: ``python -m tests.floors`` writes docs/floors.svg."""

from __future__ import annotations

import ast
import tomllib
from html import escape
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
ROOMS = ROOT / "server" / "apps"
PICTURE = ROOT / "docs" / "floors.svg"
WIDTH, FLOOR, LEFT, TOP = 940, 46, 14, 46


def floors() -> list[list[str]]:
    """Rooms by floor, the highest first."""
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    layers = next(contract["layers"] for contract in contracts if contract["type"] == "layers")
    return [[room.strip() for room in layer.split("|")] for layer in layers]


def purpose_of(room: str) -> str:
    """The first line of the docstring of a room."""
    text = ast.get_docstring(ast.parse((ROOMS / room / "__init__.py").read_text()))
    if not text:
        raise ValueError(f"server/apps/{room}/__init__.py does not say what the room is for")
    return text.splitlines()[0]


def drawn() -> str:
    """The picture: one band a floor, an arrow down the side."""
    every = floors()
    height = TOP + FLOOR * len(every) + 66
    bands = []
    for place, rooms in enumerate(every):
        y = TOP + place * FLOOR
        wide = (WIDTH - LEFT - 60) / len(rooms)
        for number, room in enumerate(rooms):
            x = LEFT + number * wide
            words = purpose_of(room) if len(rooms) == 1 else purpose_of(room).split(":")[0].split(",")[0].rstrip(".") + "."
            bands.append(
                f'<rect x="{x:.0f}" y="{y}" width="{wide - 6:.0f}" height="{FLOOR - 6}" rx="4" class="room"/>'
                f'<text x="{x + 12:.0f}" y="{y + 25}" class="name">{room}</text>'
                f'<text x="{x + 128:.0f}" y="{y + 25}" class="words">{escape(words)}</text>'
            )
    bottom = TOP + FLOOR * len(every)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDTH} {height}" role="img" '
        'aria-label="Floors of the server; each imports only what lies below it" font-family="sans-serif" font-size="13">\n'
        "<style>.room{fill:#eef2f1;stroke:#5b6b6f}.core{fill:#dfe8e2;stroke:#5b6b6f}.name{font-weight:700;fill:#14191b}"
        ".words{fill:#33403f}.arrow{stroke:#14191b;stroke-width:2;fill:none}</style>\n"
        f'<rect width="{WIDTH}" height="{height}" fill="#ffffff"/>\n'
        f'<text x="{LEFT}" y="28" class="name">server/apps: each room imports only what lies below it</text>\n'
        + "\n".join(bands)
        + f'\n<rect x="{LEFT}" y="{bottom + 8}" width="{WIDTH - LEFT - 66}" height="40" rx="4" class="core"/>'
        f'<text x="{LEFT + 12}" y="{bottom + 33}" class="name">cultrix_core</text>'
        f'<text x="{LEFT + 128}" y="{bottom + 33}" class="words">agronomy, design, statistics, money: plain Python that knows '
        "nothing of the above</text>\n"
        f'<path class="arrow" d="M{WIDTH - 34} {TOP} V{bottom + 40} m-7 -10 l7 10 l7 -10"/>\n</svg>\n'
    )


if __name__ == "__main__":
    PICTURE.write_text(drawn())
