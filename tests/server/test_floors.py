"""The picture of the floors is the one of now, and no room stands beside them."""

from __future__ import annotations

from tests.floors import PICTURE, ROOMS, drawn, floors


def test_the_picture_shows_the_floors_of_now() -> None:
    """`python -m tests.floors` draws it anew."""
    assert PICTURE.read_text() == drawn()


def test_every_room_has_a_floor() -> None:
    rooms = {path.parent.name for path in ROOMS.glob("*/__init__.py")}
    assert rooms == {room for floor in floors() for room in floor}
