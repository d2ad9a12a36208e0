"""History chained by day: what was altered behind the application's back is found, what was purged with right still fits."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from io import StringIO
from typing import Any
from uuid import uuid4

import pytest
from apps.accounts.models import Workspace
from apps.backup.chain import chain, tables, verify
from apps.backup.models import HistoryDay, HistoryTombstone
from apps.field.stand.models import StandCount
from apps.health.report import checks
from django.core.management import call_command
from django.utils import timezone

from tests.server.conftest import Api, count_body

Place = dict[str, Any]


def put_back(days: int) -> None:
    """Everything that was written today was written so many days ago."""
    today = datetime.combine(timezone.now().astimezone(UTC).date(), datetime.min.time(), UTC)
    for model in tables().values():
        for row in model._default_manager.filter(history_date__gte=today):
            moved = row.history_date - timedelta(days=days)  # type: ignore[attr-defined]
            model._default_manager.filter(pk=row.pk).update(history_date=moved)


@pytest.fixture
def chained(lead: Api, trial: Place) -> Place:
    """Three days of counts, all of them over and chained."""
    for days in (3, 2, 1):
        lead.ok("put", f"/trials/{trial['id']}/stand-counts/{uuid4()}", count_body(trial["strips"][0], "44"))
        put_back(days)
    assert chain() == 3
    return trial


def test_days_that_are_over_are_chained_once(chained: Place) -> None:
    del chained
    assert chain() == 0, "today is not over"
    links = list(HistoryDay.objects.all())
    assert [link.before for link in links] == ["", links[0].head, links[1].head]
    assert verify() == []
    told = StringIO()
    call_command("history_heads", since=str(links[1].day), stdout=told)
    assert [line.split()[1] for line in told.getvalue().splitlines()] == [links[1].head, links[2].head]


@pytest.mark.parametrize("deed", ["altered", "taken away", "added late", "by somebody else"])
def test_a_row_that_is_not_what_it_was_is_found(chained: Place, deed: str) -> None:
    del chained
    rows = StandCount.history.order_by("history_date")  # type: ignore[attr-defined]
    second = rows[1]
    if deed == "altered":
        rows.model.objects.filter(pk=second.pk).update(plants=99)
    elif deed == "taken away":
        rows.model.objects.filter(pk=second.pk).delete()
    elif deed == "added late":
        second.pk = None
        second.save()
    else:
        rows.model.objects.filter(pk=second.pk).update(history_user=None)
    day = HistoryDay.objects.all()[1].day
    assert [link.day for link in verify()] == [day]
    found = next(check for check in checks(thorough=True) if check.name == "history")
    assert not found.well
    assert str(day) in found.words


def test_a_head_that_was_made_anew_breaks_the_next(chained: Place) -> None:
    del chained
    first, second, _ = HistoryDay.objects.all()
    HistoryDay.objects.filter(pk=first.pk).update(head="0" * 64)
    assert [link.day for link in verify()] == [first.day, second.day]


def test_what_was_purged_leaves_stones_and_a_chain_that_fits(lead: Api, workspace: Workspace, chained: Place) -> None:
    assert lead.call("post", f"/trials/{chained['id']}/bin", {"reason": "entered twice"}).status_code == 204
    assert lead.call("delete", f"/workspaces/{workspace.id}/bin/{chained['id']}").status_code == 204
    assert not StandCount.history.exists()  # type: ignore[attr-defined]
    assert HistoryTombstone.objects.exists()
    assert verify() == []
    HistoryTombstone.objects.first().delete()  # type: ignore[union-attr]
    assert len(verify()) == 1, "a stone taken away is found like a row"


def test_a_table_that_has_grown_still_fits(chained: Place) -> None:
    """A day is verified by the columns it was made of: one that came later is not among them."""
    del chained
    link = HistoryDay.objects.last()
    assert link is not None
    HistoryDay.objects.filter(pk=link.pk).delete()
    name = StandCount.history.model._meta.db_table  # type: ignore[attr-defined]
    older = {table: [column for column in columns if column != "gaps"] for table, columns in link.columns.items()}
    from apps.backup import chain as module  # noqa: PLC0415

    digests = dict(module._digests(link.day, older))
    HistoryDay.objects.create(
        day=link.day, before=link.before, head=module._head(link.before, digests), rows=len(digests), columns=older
    )
    assert "gaps" in link.columns[name]
    assert verify() == []
