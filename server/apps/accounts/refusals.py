"""What accounts refuse, in words: codes with parameters as everywhere, worded here."""

from __future__ import annotations

from cultrix_core.errors import Refusal

ACCOUNT_WORDING = {
    "weak_password": "{reasons}",
    "wrong_password": "This is not your present password.",
    "wrong_code": "This code is not right, or it has run out. Type the six figures that the app shows now.",
    "wrong_first_code": "This is not the code that the server printed in its terminal. Look there again.",
    "already_started": "This installation has its people already. Sign in, or ask an owner for an invitation.",
    "name_taken": "The name “{value}” is taken. Choose another one to sign in with.",
    "bad_username": "A name to sign in with has 3 to 40 letters, figures, dots or dashes, such as {example}.",
    "bad_name": "A name has 1 to {limit} signs.",
    "bad_zone": "The time zone “{value}” is not known. Choose one of the list, such as Europe/Paris.",
    "bad_currency": "A currency is a sign or a code of up to 8 signs without figures, such as € or USD.",
    "currency_bound": "Amounts of {value} trials are written in {limit}, so the currency stays. Make another workspace.",
    "too_many_crops": "A workspace offers up to {limit} crops of its own.",
    "bad_email": "“{value}” is not an address of electronic mail. Correct it, or leave it out and pass the link on yourself.",
    "mail_failed": "The link was made, but the mail could not be sent. Pass the link on yourself.",
    "dead_link": "This link does not work any more: it was used, called back, or is too old. Ask for a new one.",
    "last_owner": "{value} is the only owner of {limit}. Make somebody else an owner first.",
    "owner_of_all": "An owner's part is the whole workspace. Choose another part for somebody of some farms only.",
    "of_other_workspaces": (
        "{value} belongs to a workspace that is not yours to let people into, or may more there, so only that person "
        "or the owner of this machine can do this: manage.py person {limit} {value}. You can remove {value} here."
    ),
    "not_yourself": "This cannot be done to oneself. Another owner or adviser can do it.",
    "no_successor": "“{value}” is nobody who may write in this workspace. Choose an owner or an adviser.",
    "second_factor_first": "Set up your own second factor first, on your account's page.",
    "second_factor_on": "Your account has a second factor already. Turn it off first to set up another one.",
    "not_practice": "{value} is no practice workspace, so it is not removed.",
    "practice_there": "You have a practice workspace already.",
}


class AccountRefusal(Refusal):
    """Input about accounts and workspaces that is not taken."""

    @property
    def message(self) -> str:
        return ACCOUNT_WORDING[self.code].format(**self.params).strip()
