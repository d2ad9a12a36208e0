"""Serve the application on this machine: ``python server/serve.py``. Listens on localhost unless told otherwise."""

from __future__ import annotations

import argparse
import importlib
import os
import subprocess
import sys
import threading
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
DEFAULT_PORT = 8470
LOCAL = ("127.0.0.1", "localhost", "::1")
MOST_BODY_BYTES = 140_000_000  # uploads have their own, lower limits with a kinder answer


def _keep_working() -> None:
    """Keep one worker alive beside the server."""
    pause = threading.Event()
    while True:
        started = time.monotonic()
        subprocess.run([sys.executable, str(ROOT / "server" / "worker.py"), f"--with-parent={os.getpid()}"], check=False)
        pause.wait(0.2 if time.monotonic() - started > 10 else 5)


def _warm_up() -> None:
    """Import what the first verdict would wait for; nothing at the start needs it."""
    importlib.import_module("scipy.stats")


def _arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(description="Serve Cultrix.")
    parser.add_argument("--host", default="127.0.0.1", help="address to listen on; others can reach 0.0.0.0, see README")
    parser.add_argument("--port", type=int, default=DEFAULT_PORT)
    parser.add_argument("--demo", action="store_true", help="load the demo into an empty database and print its login")
    parser.add_argument(
        "--without-backup", action="store_true", help="change the database for this version without a copy of it"
    )
    return parser.parse_args()


def _prepare(arguments: argparse.Namespace) -> str:
    """Bring folder and database to where they can be served; says why they cannot, or nothing."""
    from apps.accounts import first_start
    from apps.backup.errors import BackupError
    from apps.backup.locking import together
    from apps.backup.migrating import bring_up_to_date
    from apps.health.report import close_paths
    from django.conf import settings
    from django.core.management import CommandError, call_command

    try:
        together(settings.VAR)
        bring_up_to_date(print, without_backup=arguments.without_backup)
        if arguments.demo:
            call_command("load_demo")
    except (BackupError, CommandError) as error:
        return str(error)
    opened = close_paths()
    if opened:
        print(f"{opened} files could be read by others on this machine; now only their owner can.")
    others = [allowed_host for allowed_host in settings.ALLOWED_HOSTS if allowed_host not in LOCAL]
    if first_start.is_demo() and (arguments.host not in LOCAL or others):
        return (
            "This database holds the demo, whose passwords everybody knows: it is served on this machine only. Leave --host "
            "and CULTRIX_HOSTS out, or start an installation of your own: make start"
        )
    if first_start.is_new():
        print("Nobody has an account yet. Open the address below and type this code there:\n")
        print(f"    {first_start.new_code()}\n")
    return ""


def main() -> int:
    arguments = _arguments()
    sys.path[:0] = [str(ROOT / "server"), str(ROOT / "core")]
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
    os.environ["CULTRIX_PROCESS"] = "server"
    os.umask(0o077)  # what is recorded is for the owner of this process only
    import django

    django.setup()
    trouble = _prepare(arguments)
    if trouble:
        print(trouble)
        return 1
    from config.wsgi import application
    from django.conf import settings
    from waitress.server import create_server

    try:
        server = create_server(
            application,
            host=arguments.host,
            port=arguments.port,
            threads=8,
            max_request_body_size=MOST_BODY_BYTES,
            # behind HTTPS the proxy ends the encryption; the origin that browsers send must still match
            url_scheme="https" if settings.HTTPS else "http",
        )
    except OSError as error:
        print(f"Cannot listen on {arguments.host}:{arguments.port}: {error.strerror}. Try another: make start PORT=8471")
        return 1
    threading.Thread(target=_keep_working, daemon=True).start()
    threading.Thread(target=_warm_up, daemon=True).start()
    print(f"\nCultrix is at http://localhost:{arguments.port}/", flush=True)
    print("Stop it with Ctrl-C.\n", flush=True)
    try:
        server.run()
    except KeyboardInterrupt:
        print("Stopped.")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
