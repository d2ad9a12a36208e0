import uuid

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import timezone


class User(AbstractUser):
    """A person with an account, and how they like to read numbers."""

    unit_system = models.CharField(
        max_length=6, choices=[("home", "As the workspace"), ("metric", "Metric"), ("us", "US customary")], default="home"
    )
    theme = models.CharField(
        max_length=10, choices=[("day", "Day"), ("night", "Cab at night"), ("sun", "Full sun")], default="day"
    )
    single_keys = models.BooleanField(default=True)


class Installation(models.Model):
    """What holds for the whole database, in one row. ``demo``: its accounts are known to everybody, so it stays at home."""

    demo = models.BooleanField(default=False)
    started_at = models.DateTimeField(default=timezone.now)


class Workspace(models.Model):
    """A circle of farms that share trials. Nothing in it is visible from another.

    ``region`` and ``region_changes``: whose units, writing, paper and level hold (``cultrix_core.regions``).

    ``practice``: made-up trials to try things on, removed as a whole; ``filled`` is false while they are still being written.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)
    currency = models.CharField(max_length=8, default="€")
    time_zone = models.CharField(max_length=64, default="UTC", help_text="Name in the time zone database, Europe/Paris")
    region = models.CharField(max_length=20, default="europe")
    region_changes = models.JSONField(default=dict, blank=True)
    own_crops = models.JSONField(default=list, blank=True, help_text="Keys of crops that the catalogue does not have")
    own_traits = models.JSONField(
        default=list, blank=True, help_text="Variables of its own: key, crop, days after sowing on which each is due"
    )
    bin_days = models.PositiveSmallIntegerField(default=90, help_text="Days that a trial stays in the bin")
    keep_years = models.PositiveSmallIntegerField(
        null=True, blank=True, help_text="Years after which a trial goes into the bin by itself; nothing: never"
    )
    leads_need_second_factor = models.BooleanField(default=False)
    practice = models.BooleanField(default=False)
    pack_days = models.PositiveSmallIntegerField(default=14, help_text="Days that a device keeps what it saved for offline use")

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A person's part in a workspace: what the role may is in ``rights``; on all farms, or on those named."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(
        max_length=10,
        choices=[
            ("owner", "Owner"),
            ("adviser", "Adviser"),
            ("field_hand", "Field hand"),
            ("grower", "Grower"),
            ("reader", "Reader"),
        ],
    )
    all_farms = models.BooleanField(default=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "workspace"], name="one_membership_each")]


class MembershipFarm(models.Model):
    """A farm that a membership reaches which does not reach all; the name as fields of the workspace have it."""

    membership = models.ForeignKey(Membership, on_delete=models.CASCADE, related_name="farms")
    farm = models.CharField(max_length=120)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["membership", "farm"], name="one_reach_of_a_farm")]


class PastMembership(models.Model):
    """Who left a workspace: so that shared pages go on leaving out the name of somebody who is not there any more."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="past_memberships")
    workspace = models.ForeignKey(Workspace, on_delete=models.CASCADE, related_name="past_memberships")
    left_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "workspace"], name="one_past_membership_each")]


class Device(models.Model):
    """A device somebody is signed in on. ``shared``: it lies about for several people, so it is signed out soon."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="devices")
    session_key = models.CharField(max_length=40, unique=True)
    name = models.CharField(max_length=80)
    shared = models.BooleanField(default=False)
    signed_in_at = models.DateTimeField(default=timezone.now)
    last_contact = models.DateTimeField(default=timezone.now)


class AccountLink(models.Model):
    """A link that lets somebody in once: into a workspace as a new person, or back into their account.

    Only the hash of its token is kept. ``user`` is whose password is set with it; empty until an invited person has come.
    """

    KINDS = [("invite", "Invitation"), ("reset", "New password")]
    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    kind = models.CharField(max_length=6, choices=KINDS)
    token_hash = models.CharField(max_length=64, unique=True)
    workspace = models.ForeignKey(Workspace, null=True, on_delete=models.CASCADE, related_name="account_links")
    role = models.CharField(max_length=10, blank=True, default="")
    farms = models.JSONField(default=list, blank=True, help_text="Farms that the invited person is to reach; empty for all")
    name = models.CharField(max_length=120, blank=True, default="", help_text="Who it is for, as its maker says")
    email = models.EmailField(blank=True, default="")
    user = models.ForeignKey(User, null=True, on_delete=models.CASCADE, related_name="account_links")
    made_by = models.ForeignKey(User, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True, blank=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-made_at"]


class SignInFailure(models.Model):
    """Wrong tries to sign in, counted by what they have in common."""

    key = models.CharField(max_length=120, primary_key=True)
    failures = models.PositiveIntegerField(default=0)
    last_at = models.DateTimeField()
