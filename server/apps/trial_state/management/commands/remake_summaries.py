from typing import Any

from django.core.management.base import BaseCommand

from apps.trial_state.listing import make_old_ones_anew
from apps.trial_state.models import TrialSummary

AT_ONCE = 20


class Command(BaseCommand):
    help = "Make the summaries of all trials anew: what lists show. Nothing else is touched."

    def handle(self, *_args: Any, **_options: Any) -> None:
        TrialSummary.objects.update(code="")
        number = 0
        while result := make_old_ones_anew(most=AT_ONCE):
            number += result
        self.stdout.write(f"{number} summaries made.")
