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
        result = checks(thorough=True)
        well = all(item.well for item in result)
        devices = last_contacts()
        if options["json"]:
            answer = {
                "well": well,
                "checks": [{"name": item.name, "well": item.well, "words": item.words, "value": item.value} for item in result],
                "devices": [
                    {"person": item.user.username, "device": item.name, "last_contact": item.last_contact.isoformat()}
                    for item in devices
                ],
            }
            self.stdout.write(json.dumps(answer, indent=1))
        else:
            for check in result:
                self.stdout.write(f"{'well' if check.well else 'NOT WELL':9} {check.name}: {check.words}")
            for device in devices:
                self.stdout.write(f"device    {device.user.username}, {device.name}: {device.last_contact:%Y-%m-%d %H:%M} UTC")
        if not well:
            raise SystemExit(1)
