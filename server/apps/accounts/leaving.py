"""Who leaves a workspace is noted, however it happens."""

from __future__ import annotations

from django.db.models.signals import pre_delete
from django.dispatch import receiver

from apps.accounts.models import Membership, PastMembership


@receiver(pre_delete, sender=Membership)
def note_leaving(instance: Membership, origin: object, **_: object) -> None:
    """Keep the name out of shared pages; nothing to keep where the person or the workspace itself is removed."""
    if isinstance(origin, Membership) or getattr(origin, "model", None) is Membership:
        PastMembership.objects.update_or_create(user=instance.user, workspace=instance.workspace)
