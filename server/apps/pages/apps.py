from django.apps import AppConfig


class Config(AppConfig):
    """No tables: what the pages keep in the summaries of trials is registered here."""

    name = "apps.pages"
    label = "pages"

    def ready(self) -> None:
        from apps.pages.ledger.output import comparisons_part  # noqa: PLC0415 - once every model is there
        from apps.pages.today.due import dues_part  # noqa: PLC0415
        from apps.trial_state.listing import keep_part  # noqa: PLC0415

        keep_part("dues", dues_part)
        keep_part("comparisons", comparisons_part)
