"""Load the made-up Tamsin Vale Growers' Circle, once."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from apps.accounts.first_start import is_demo
from apps.accounts.models import User
from apps.demo.scenario import LEAD, PASSWORD, load


class Command(BaseCommand):
    help = "Load the demo (made-up people, places and numbers) into an empty database. Does nothing when it is there."

    def handle(self, *_args: Any, **_options: Any) -> None:
        if is_demo():
            self.stdout.write("The demo is there already.")
        elif User.objects.exists():
            raise CommandError(
                "This database belongs to people of its own, so the demo, whose passwords everybody knows, is not put beside "
                "them. Sign in and start a practice workspace instead, or choose another folder with CULTRIX_VAR."
            )
        else:
            self.stdout.write("Loading the demo, about ten seconds …")
            self.stdout.flush()
            load()
        others = "maren (adviser), tobin (field hand), pell (grower) or odette (reader)"
        self.stdout.write(f"Sign in as {LEAD} (owner), {others}, password {PASSWORD}")
