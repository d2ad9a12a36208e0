"""What a service may answer instead of a result: not here, not allowed, in conflict."""

from __future__ import annotations


class NotFound(Exception):
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


class Busy(Exception):
    """Too much is asked for at once; a while later it will go."""

    def __init__(self, message: str) -> None:
        self.message = message
        super().__init__(message)


class NoRoom(Exception):
    """The disk of the server is nearly full."""

    def __init__(self, message: str) -> None:
        self.message = message
        super().__init__(message)


class OutOfDate(Exception):
    """The page that sends this is not of this site, or of an older version: it must be loaded again."""


class TooLarge(Exception):
    """More bytes than the operation takes; nothing of it was read."""

    def __init__(self, size: int, limit: int) -> None:
        self.size, self.limit = size, limit
        super().__init__(f"{size} bytes")


class RowProblems(Exception):
    """A bulk write that was refused whole; one entry for each row and field that was wrong."""

    def __init__(self, problems: list[dict[str, object]]) -> None:
        self.problems = problems
        super().__init__(f"{len(problems)} rows could not be taken")


class SecondFactorNeeded(Exception):
    """The workspace asks who lets people in for a second factor, and this person has none yet."""
