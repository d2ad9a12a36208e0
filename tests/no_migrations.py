"""The application's settings with tables made from the models at once, as the tests make theirs."""

from config.settings import *  # noqa: F403 - all of them


class NoMigrations:
    """What Django asks for the module of an app's migrations: there is none."""

    def __contains__(self, app: str) -> bool:
        return True

    def __getitem__(self, app: str) -> None:
        return None


MIGRATION_MODULES = NoMigrations()
