"""What a service may answer instead of a result: not here, not allowed, in conflict."""

from __future__ import annotations


class NotHere(Exception):
    """The record does not exist for this person; other workspaces' records look the same."""


class Forbidden(Exception):
    """The person may look but not write."""

    def __init__(self, message: str) -> None:
        self.message = message
        super().__init__(message)


class Conflict(Exception):
    """The write would lose or orphan something; ``current`` is what the server holds."""

    def __init__(self, code: str, message: str, current: object = None) -> None:
        self.code, self.message, self.current = code, message, current
        super().__init__(message)


class RowProblems(Exception):
    """A bulk write that was refused whole; one entry for each row and field that was wrong."""

    def __init__(self, problems: list[dict[str, object]]) -> None:
        self.problems = problems
        super().__init__(f"{len(problems)} rows could not be taken")
