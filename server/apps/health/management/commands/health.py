"""``manage.py health``: the state of the installation, for a person or, with ``--json``, for a program."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from apps.health.report import checks, last_contacts


class Command(BaseCommand):
    help = "Check database, space, worker, queue, files and permissions; ends with 1 where something is not well."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--json", action="store_true", help="print JSON")

    def handle(self, *_: Any, **options: Any) -> None:
        found = checks(thorough=True)
        well = all(one.well for one in found)
        devices = last_contacts()
        if options["json"]:
            answer = {
                "well": well,
                "checks": [{"name": one.name, "well": one.well, "words": one.words, "value": one.value} for one in found],
                "devices": [
                    {"person": one.user.username, "device": one.name, "last_contact": one.last_contact.isoformat()}
                    for one in devices
                ],
            }
            self.stdout.write(json.dumps(answer, indent=1))
        else:
            for one in found:
                self.stdout.write(f"{'well' if one.well else 'NOT WELL':9} {one.name}: {one.words}")
            for device in devices:
                self.stdout.write(f"device    {device.user.username}, {device.name}: {device.last_contact:%Y-%m-%d %H:%M} UTC")
        if not well:
            raise SystemExit(1)
