"""Load the made-up Tamsin Vale Growers' Circle, once."""

from typing import Any

from django.core.management.base import BaseCommand

from apps.accounts.models import Workspace
from apps.demo.scenario import LEAD, NAME, PASSWORD, load


class Command(BaseCommand):
    help = "Load the demo workspace (made-up people, places and numbers). Does nothing when it is there."

    def handle(self, *_args: Any, **_options: Any) -> None:
        if Workspace.objects.filter(name=NAME).exists():
            self.stdout.write("The demo is there already.")
        else:
            self.stdout.write("Loading the demo, about ten seconds …")
            self.stdout.flush()
            load()
        self.stdout.write(f"Sign in as {LEAD} (lead), tobin (scout) or odette (viewer), password {PASSWORD}")
