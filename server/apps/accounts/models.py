import uuid

from django.contrib.auth.models import AbstractUser
from django.db import models


class User(AbstractUser):
    """A person with an account, and how they like to read numbers."""

    unit_system = models.CharField(max_length=6, choices=[("metric", "Metric"), ("us", "US customary")], default="metric")
    theme = models.CharField(
        max_length=10, choices=[("day", "Day"), ("night", "Cab at night"), ("sun", "Full sun")], default="day"
    )
    single_keys = models.BooleanField(default=True)


class Workspace(models.Model):
    """A circle of farms that share trials. Nothing in it is visible from another."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)
    currency = models.CharField(max_length=8, default="€")

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A person's part in a workspace: lead and scout write, viewer reads."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=6, choices=[("lead", "Lead"), ("scout", "Scout"), ("viewer", "Viewer")])

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "workspace"], name="one_membership_each")]
