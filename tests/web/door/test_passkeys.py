"""Passkeys in place of the password, and the password once more before what matters: by a device written from the standard."""

import json
import random

import pytest
from authenticator import Device, b64, unb64
from fastapi.testclient import TestClient
from gate import PASSWORD, doors, press, token
from places import ALL
from sqlalchemy import text

from gnomonic.core.errors import BadInput
from gnomonic.store import accounts, passkeys, people
from gnomonic.store.passkeys import Site, site_of
from gnomonic.web.app import create_app
from gnomonic.web.door.keys import ABOUT

ASK, KEEP, PROVE = "/api/v1/passkeys/ask", "/api/v1/passkeys", "/api/v1/passkeys/prove"
ASK_IN, COME_IN = "/api/v1/passkeys/sign-in/ask", "/api/v1/passkeys/sign-in"


def sent(client, path, **body):
    return client.post(path, json=body, headers={"X-Page-Token": token(client)})


def add(client, device):
    return sent(client, KEEP, credential=device.made(sent(client, ASK, password=PASSWORD).json()))


def comes_in(client, device):
    return sent(client, COME_IN, credential=device.signs(sent(client, ASK_IN).json()))


def later(scope):
    """Half an hour and a bit goes by."""
    with scope.engine.begin() as connection:
        connection.execute(text("UPDATE sessions SET proved_at = proved_at - interval '31 minutes'"))


def test_a_passkey_is_made_with_the_password_and_opens_the_account_alone(scope, staffed, signed):
    mine, device = signed("crew@holm"), Device()
    assert sent(mine, ASK, password="not that one at all").json()["detail"] == "the password you have now is another"
    options = sent(mine, ASK, password=PASSWORD).json()
    assert options["rp"]["id"] == "localhost" and options["authenticatorSelection"]["userVerification"] == "required"
    assert PASSWORD not in json.dumps(options) and options["user"]["name"] == "crew@holm"
    assert sent(mine, KEEP, credential=device.made(options)).status_code == 201
    assert "for localhost" in mine.get("/me").text
    other = signed()
    done = comes_in(other, device)
    assert done.json() == {"in": True} and "HttpOnly" in done.headers["set-cookie"]
    assert other.get("/api/v1/me").json()["name"] == "the crew"
    assert [(a.actor, a.what) for a in accounts.audited(scope)][:2] == [
        ("the crew", "signed in with a passkey"), ("the crew", "added a passkey"),
    ]  # fmt: skip


def test_an_answer_is_good_once_for_what_was_asked_there_and_then(scope, staffed, signed):
    mine, device = signed("crew@holm"), Device()
    options = sent(mine, ASK, password=PASSWORD).json()
    made = device.made(options)
    assert sent(signed("planner@holm"), KEEP, credential=made).status_code == 422  # asked of another browser
    assert sent(mine, KEEP, credential=made).status_code == 201
    assert sent(mine, KEEP, credential=made).status_code == 422
    other = signed()
    answer = device.signs(sent(other, ASK_IN).json())
    assert sent(other, COME_IN, credential=answer).status_code == 200
    assert sent(signed(), COME_IN, credential=answer).status_code == 422  # heard on the way and said again
    asked = sent(signed(), ASK_IN).json()
    with scope.engine.begin() as connection:
        connection.execute(text("UPDATE challenges SET until = until - interval '6 minutes'"))
    late = sent(signed(), COME_IN, credential=device.signs(asked))
    assert late.status_code == 422 and "too long ago" in late.json()["detail"]
    for_proof = sent(mine, PROVE).json()  # signed for one purpose it is not good for another
    assert sent(signed(), COME_IN, credential=device.signs(for_proof)).status_code == 422


@pytest.mark.parametrize(
    ("field", "value"),
    [("origin", "http://localhost.elsewhere"), ("site", "elsewhere"), ("unlocked", False), ("handle", b"somebody")],
)
def test_a_passkey_of_another_site_or_not_unlocked_opens_nothing(staffed, signed, field, value):
    mine, device = signed("crew@holm"), Device()
    assert add(mine, device).status_code == 201
    setattr(device, field, value)
    refused = comes_in(signed(), device)
    assert refused.status_code == 422 and "set-cookie" not in refused.headers, field
    if field != "handle":  # nor is one made so
        other = Device()
        setattr(other, field, value)
        assert add(mine, other).status_code == 422


def test_a_copy_of_a_device_is_noticed_by_its_count(staffed, signed):
    mine, device = signed("crew@holm"), Device()
    add(mine, device)
    for _ in range(3):
        assert comes_in(signed(), device).status_code == 200
    device.uses = 1  # a copy made earlier
    assert comes_in(signed(), device).status_code == 422


def test_another_key_and_what_is_no_answer_open_nothing(staffed, signed):
    add(signed("crew@holm"), device := Device())
    stranger = Device()
    stranger.id = device.id
    assert comes_in(signed(), stranger).status_code == 422
    assert comes_in(signed(), Device()).status_code == 422
    for rubbish in (
        {},
        {"response": 3},
        {"response": {"clientDataJSON": "!!"}},
        {"id": 5, "response": {"clientDataJSON": "bnVsbA"}},
    ):
        assert sent(signed(), COME_IN, credential=rubbish).status_code == 422, rubbish
    asked = sent(signed(), ASK_IN).json()
    whole = device.signs(asked)
    del whole["response"]["signature"]
    assert sent(signed(), COME_IN, credential=whole).status_code == 422


def damaged(rng, answer):
    """An answer with one part of it cut, swapped, emptied or of another kind, or a byte of it changed."""
    made = json.loads(json.dumps(answer))
    part = rng.choice([k for k in made["response"] if k != "clientDataJSON"])
    raw = bytearray(unb64(made["response"][part]))
    way = rng.choice(["byte", "cut", "more", "kind", "gone"])
    if way == "byte":
        raw[rng.randrange(len(raw))] ^= 1 << rng.randrange(8)
    elif way == "cut":
        raw = raw[: rng.randrange(len(raw))]
    elif way == "more":
        raw += rng.randbytes(rng.randrange(1, 40))
    made["response"][part] = b64(bytes(raw))
    if way == "kind":
        made["response"][part] = rng.choice([None, 7, [], {}, "é", "AA=A"])
    elif way == "gone":
        del made["response"][part]
    return made


def test_a_damaged_answer_is_refused_in_a_sentence_and_opens_nothing(scope, staffed, signed):
    """Forty of each sort (two hundred in ``test --all``); what is taken all the same (a handle left out, bits that mean nothing) is still signed by the right key."""
    many = 200 if ALL else 40
    rng, mine, device, wrong = random.Random(12), signed("crew@holm"), Device(), []
    add(mine, device)
    person = staffed["crew"]
    found = accounts.Who(person, "the crew", "crew", "own", "", "a session")
    site = site_of("http://localhost")
    for _ in range(
        many
    ):  # nobody signs what a device says of itself: another key than it meant is a key that opens nothing
        options = passkeys.begin_adding(scope.engine, site, found, PASSWORD)
        accounts.proved(scope.engine, found)  # so that the tries don't count up
        try:
            passkeys.add(scope.engine, site, found, damaged(rng, Device().made(options)), "x")
        except BadInput as error:
            wrong.append(error.sentence)
        for key in passkeys.of(scope.engine, person)[:-1]:
            passkeys.drop(scope.engine, found, key.id)
    assert len(wrong) > many / 2
    for k in range(many):
        answer = damaged(rng, device.signs(passkeys.begin_using(scope.engine, site, f"10.0.{k}.1")))
        try:
            passkeys.sign_in(scope.engine, site, answer, "x", f"10.0.{k}.2")
            assert (
                answer["response"].get("userHandle") in (None, b64(device.handle))
                or not answer["response"]["userHandle"]
            )
        except BadInput as error:
            wrong.append(error.sentence)
    assert len(wrong) > 1.25 * many and all(len(w) < 120 for w in wrong)


def test_a_passkey_goes_with_a_lost_password_and_by_its_owners_hand(staffed, signed):
    mine, other, device, second = signed("crew@holm"), signed("planner@holm"), Device(), Device()
    add(mine, device), add(mine, second)
    press(other, "/me/passkeys/drop", key=b64(device.id))  # somebody else's
    assert comes_in(signed(), device).status_code == 200
    press(mine, "/me/passkeys/drop", key=b64(device.id))
    assert comes_in(signed(), device).status_code == 422 and comes_in(signed(), second).status_code == 200
    given = press(signed("owner@holm"), f"/people/{staffed['crew']}/renew").text
    path = given[given.index("/renew/") :].split('"')[0]
    assert signed().post(path, data={"password": "seven geese mend the east barn"}).status_code == 303
    assert comes_in(signed(), second).status_code == 422


def test_a_passkey_needs_a_name_and_is_bound_to_it(scope, staffed, signed):
    assert site_of("http://localhost:8400") == Site("localhost", "http://localhost:8400")
    assert site_of("https://fence.example") == Site("fence.example", "https://fence.example")
    assert "sign in" in signed().get("/sign-in").text.lower() and "Use a passkey" in signed().get("/sign-in").text
    numbered = TestClient(create_app(scope), base_url="http://127.0.0.1:8400", follow_redirects=False)
    assert numbered.post("/sign-in", data={"login": "crew@holm", "password": PASSWORD}).status_code == 303
    assert "open it as localhost:8400" in numbered.get("/me").text
    assert "Use a passkey" not in numbered.get("/sign-in").text
    assert sent(numbered, ASK, password=PASSWORD).status_code == 422
    assert numbered.get("/sign-in", headers={"Host": "127.0.0.1:none"}).status_code in (200, 400)  # a port that is none
    far = TestClient(create_app(scope, ["fence.example"]), base_url="https://fence.example", follow_redirects=False)
    far.post("/sign-in", data={"login": "crew@holm", "password": PASSWORD})
    device = Device("https://fence.example", "fence.example")
    assert add(far, device).status_code == 201
    here = Device()
    here.id, here.key, here.handle = device.id, device.key, device.handle
    assert comes_in(signed(), here).status_code == 422  # made for the other name


def test_who_comes_in_is_changed_after_the_password_once_more(scope, staffed, signed):
    owner = signed("owner@holm")
    assert press(owner, "/people/invite", role="crew", whom="Juniper").status_code == 200  # just signed in
    later(scope)
    asked = press(owner, "/people/invite", role="planner", whom="Rowan “x”")
    assert asked.status_code == 403 and "Is it still you?" in asked.text and "Rowan" not in owner.get("/people").text
    assert 'name="whom" value="Rowan “x”"' in asked.text and 'name="role" value="planner"' in asked.text
    assert asked.headers["cache-control"] == "no-store" and "about to <b>invite Rowan “x” as planner</b>" in asked.text
    every = [path.rsplit("/", 1)[1] for method, path in doors(owner.app) if method == "POST" and "/people/" in path]
    assert sorted(every) == sorted(ABOUT)  # each says what it is about
    wrong = press(owner, "/people/invite", role="planner", whom="Rowan", again="not that one at all")
    assert wrong.status_code == 403 and "is another" in wrong.text and "not that one" not in wrong.text
    right = press(owner, "/people/invite", role="planner", whom="Rowan", again=PASSWORD)
    assert right.status_code == 200 and "/join/" in right.text
    assert press(owner, f"/people/{staffed['crew']}/take-away").status_code == 303  # not asked again
    later(scope)
    for path in (*(f"{staffed['crew']}/{what}" for what in ("role", "take-away", "renew")), "first"):
        assert press(owner, f"/people/{path}", role="crew").status_code == 403
    assert [m.left_at is None for m in people.members(scope)].count(False) == 1
    for _ in range(10):
        press(owner, "/people/name", name="Ours", again="not that one at all")
    assert "too often" in press(owner, "/people/name", name="Ours", again=PASSWORD).text


def test_a_passkey_says_once_more_who_one_is(scope, staffed, signed):
    owner, device, crews = signed("owner@holm"), Device(), Device()
    add(owner, device), add(signed("crew@holm"), crews)
    later(scope)
    assert "Use a passkey" in press(owner, "/people/name", name="Ours").text
    other = json.dumps(crews.signs(sent(owner, PROVE).json()))
    assert "somebody else’s" in press(owner, "/people/name", name="Ours", again_key=other).text
    assert "no answer" in press(owner, "/people/name", name="Ours", again_key="{").text
    mine = json.dumps(device.signs(sent(owner, PROVE).json()))
    assert press(owner, "/people/name", name="Ours", again_key=mine).status_code == 303
    assert accounts.called(scope) == "Ours"
