"""Announcements: a lower floor says that something happens, and whoever must follow registers above.

A hook is declared where the event happens (``trials/hooks.py``) and called there. Followers register in the ``ready`` of
their own app, so that the lower floor never imports them. They run in the caller's transaction, in the order they came.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, ParamSpec, TypeVar

Arguments = ParamSpec("Arguments")
Answer = TypeVar("Answer")


class Hook(Generic[Arguments, Answer]):
    """An event that others follow. Calling it calls every follower and gives their answers."""

    def __init__(self, name: str) -> None:
        self.name = name
        self._followers: list[Callable[Arguments, Answer]] = []

    def follow(self, follower: Callable[Arguments, Answer]) -> Callable[Arguments, Answer]:
        """Register a follower; the same one twice counts once."""
        if follower not in self._followers:
            self._followers.append(follower)
        return follower

    def __call__(self, *arguments: Arguments.args, **named: Arguments.kwargs) -> list[Answer]:
        return [follower(*arguments, **named) for follower in self._followers]
