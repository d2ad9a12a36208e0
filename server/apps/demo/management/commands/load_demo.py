"""Load the made-up Tamsin Vale Growers' Circle, once."""

from typing import Any

from django.core.management.base import BaseCommand

from apps.accounts.models import Workspace
from apps.demo.scenario import NAME, load


class Command(BaseCommand):
    help = "Load the demo workspace (made-up people, places and numbers). Does nothing when it is there."

    def handle(self, *_args: Any, **_options: Any) -> None:
        if Workspace.objects.filter(name=NAME).exists():
            self.stdout.write("The demo is there already.")
            return
        load()
        self.stdout.write("The demo is loaded.")
