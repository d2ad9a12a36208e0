"""Signing in, being throttled, CSRF, headers."""

from __future__ import annotations

from typing import Any

import pytest
from apps.accounts.models import User
from config import settings as served
from django.contrib.auth.hashers import identify_hasher, make_password
from django.test import Client

from tests.server.conftest import PASSWORD, Api


def sign_in(api: Api, username: str, password: str) -> object:
    return api.call("post", "/session", {"username": username, "password": password})


@pytest.fixture
def person(lead: Api) -> User:  # noqa: ARG001
    return User.objects.get(username="mirren")


def test_passwords_are_argon2(settings: Any) -> None:
    settings.PASSWORD_HASHERS = served.PASSWORD_HASHERS
    assert identify_hasher(make_password(PASSWORD)).algorithm == "argon2"


def test_signing_in_and_out(person: User, nobody: Api) -> None:
    assert nobody.client.get("/api/session").json()["person"] is None
    assert sign_in(nobody, "mirren", "wrong").status_code == 401
    response = sign_in(nobody, "mirren", PASSWORD)
    assert response.status_code == 200
    assert response.json()["person"]["workspaces"][0]["role"] == "owner"
    cookie = nobody.client.cookies["sessionid"]
    assert cookie["httponly"]
    assert cookie["samesite"] == "Lax"
    assert nobody.call("delete", "/session").status_code == 204
    assert nobody.client.get("/api/session").json()["person"] is None
    assert person.username == "mirren"


def test_the_answer_does_not_say_which_was_wrong(person: User, nobody: Api) -> None:
    wrong_password = sign_in(nobody, person.username, "wrong").json()
    wrong_name = sign_in(nobody, "nobody-by-that-name", "wrong").json()
    assert wrong_password == wrong_name


def test_many_tries_are_throttled(person: User, nobody: Api) -> None:
    for _ in range(6):
        sign_in(nobody, person.username, "wrong")
    response = sign_in(nobody, person.username, PASSWORD)
    assert response.status_code == 429
    assert response.json()["code"] == "too_many_tries"


def test_writes_need_the_csrf_token(person: User) -> None:
    strict = Client(HTTP_HOST="localhost", enforce_csrf_checks=True)
    body = {"username": person.username, "password": PASSWORD}
    assert strict.post("/api/session", body, content_type="application/json").status_code == 403
    strict.get("/api/session")
    token = strict.cookies["csrftoken"].value
    assert strict.post("/api/session", body, content_type="application/json", HTTP_X_CSRFTOKEN=token).status_code == 200
    change = {"theme": "night"}
    named = {"content_type": "application/json", "HTTP_X_PERSON": person.username}
    assert strict.patch("/api/session", change, **named).status_code == 403
    token = strict.cookies["csrftoken"].value
    assert strict.patch("/api/session", change, HTTP_X_CSRFTOKEN=token, **named).status_code == 200


def test_preferences(lead: Api) -> None:
    person = lead.ok("patch", "/session", {"unit_system": "us", "theme": "sun", "single_keys": False})["person"]
    assert (person["unit_system"], person["theme"], person["single_keys"]) == ("us", "sun", False)
    assert lead.refused("patch", "/session", {"unit_system": "cubits"})["code"] == "malformed"


@pytest.mark.parametrize("path", ["/", "/trials", "/api/session"])
def test_headers_of_every_answer(path: str, nobody: Api) -> None:
    response = nobody.client.get(path)
    policy = response.headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "frame-ancestors 'none'" in policy
    assert "unsafe" not in policy
    assert response.headers["X-Content-Type-Options"] == "nosniff"
    assert response.headers["X-Frame-Options"] == "DENY"


def test_other_hosts_are_not_served(db: None) -> None:  # noqa: ARG001
    assert Client(HTTP_HOST="elsewhere.example").get("/api/session").status_code == 400
