"""Coming in and going: the first account, invitations, new passwords, roles taken away, tries counted, sessions ended."""

import re
import threading
from dataclasses import replace

import pytest
from fastapi.testclient import TestClient
from gate import PASSWORD, press, token
from sqlalchemy import text

from gnomonic.core.errors import BadInput
from gnomonic.store import accounts, jobs, passes, passwords, people
from gnomonic.web.app import create_app
from gnomonic.web.home import sample

OTHER = "seven geese mend the east barn"


def link(answer, kind):
    return re.search(rf"/{kind}/[\w-]+", answer.text).group(0)


def sql(scope, statement, **given):
    with scope.engine.begin() as connection:
        return connection.execute(text(statement), given)


def test_one_machine_is_its_visitors_until_the_first_account(scope, signed):
    one, two = signed(), signed()
    assert one.get("/").status_code == 200 and "whoever opens Gnomonic on this machine" in one.get("/me").text
    short = one.post("/people/first", data={"name": "Wren Alder", "login": "wren", "password": "short"})
    assert short.status_code == 422 and "at least 12" in short.text and 'value="wren"' in short.text
    weak = one.post("/people/first", data={"name": "Wren Alder", "login": "wren", "password": "passwordpassword"})
    assert weak.status_code == 422 and "take four or five words" in weak.text
    assert (
        one.post("/people/first", data={"name": "Wren Alder", "login": "Wren", "password": PASSWORD}).status_code == 303
    )
    assert "sign in as <b>wren</b>" in one.get("/me").text
    assert two.get("/").headers["location"] == "/sign-in?next=%2F"
    assert two.post("/people/first", data={"name": "x", "login": "x2", "password": PASSWORD}).status_code == 401
    kept = sql(scope, "SELECT password FROM people").scalar_one()
    assert kept.startswith("$argon2id$") and PASSWORD not in kept


def test_a_cookie_is_out_of_scripts_reach_and_bound_to_tls_beyond_one_machine(scope, staffed, signed):
    made = signed().post("/sign-in", data={"login": "crew@holm", "password": PASSWORD})
    said = made.headers["set-cookie"]
    assert said.startswith("gnomonic=") and "HttpOnly" in said and "SameSite=lax" in said and "Secure" not in said
    far = TestClient(create_app(scope, ["fence.example"]), base_url="https://fence.example", follow_redirects=False)
    said = far.post("/sign-in", data={"login": "crew@holm", "password": PASSWORD}).headers["set-cookie"]
    assert said.startswith("__Host-gnomonic=") and "Secure" in said and "Path=/" in said and "Domain" not in said
    assert far.get("/").status_code == 200
    plain = TestClient(far.app, base_url="http://fence.example", cookies=far.cookies)  # as a proxy passes it on
    plain.headers["cookie"] = said.split(";")[0]
    people.set_role(scope, staffed["crew"], "owner")
    given = press(plain, "/people/invite", role="crew", whom="Juniper").text
    assert 'value="https://fence.example/join/' in given
    assert "max-age=" in far.get("/").headers["strict-transport-security"]
    secret = said.split("=", 1)[1].split(";")[0]
    assert secret not in str(sql(scope, "SELECT string_agg(digest, ' ') FROM sessions").scalar_one())


def test_one_goes_on_to_where_one_wanted_and_nowhere_else(staffed, signed):
    one = signed()
    assert one.get("/rules?x=1").headers["location"] == "/sign-in?next=%2Frules%3Fx%3D1"
    for asked, to in (
        ("/rules?x=1", "/rules?x=1"),
        ("//evil.example", "/"),
        ("https://evil.example", "/"),
        ("/\\evil", "/"),
        ("javascript:1", "/"),
    ):
        done = signed().post("/sign-in", data={"login": "crew@holm", "password": PASSWORD, "to": asked})
        assert done.headers["location"] == to


def test_wrong_names_and_wrong_passwords_are_answered_alike_and_counted(scope, staffed, signed):
    one = signed()
    wrong = one.post("/sign-in", data={"login": "crew@holm", "password": "not that one at all"})
    nobody = one.post("/sign-in", data={"login": "nobody@holm", "password": "not that one at all"})
    assert wrong.status_code == nobody.status_code == 422
    assert wrong.text.replace("crew@holm", "nobody@holm") == nobody.text and "don’t go together" in nobody.text.replace(
        "&#39;", "’"
    )
    for _ in range(accounts.SHORT_MOST - 1):
        one.post("/sign-in", data={"login": "crew@holm", "password": "no"})
    assert one.post("/sign-in", data={"login": "crew@holm", "password": PASSWORD}).status_code == 429
    assert one.post("/sign-in", data={"login": "owner@holm", "password": PASSWORD}).status_code == 303
    sql(scope, "UPDATE tries SET at = now() - interval '16 minutes'")
    assert one.post("/sign-in", data={"login": "crew@holm", "password": PASSWORD}).status_code == 303
    for k in range(accounts.SHORT_FROM):
        last = one.post("/sign-in", data={"login": f"guess{k}", "password": "no"})
    assert last.status_code == 429


def test_an_invitation_opens_once_for_one_role_and_can_be_taken_back(scope, staffed, signed):
    owner = signed("owner@holm")
    way = link(press(owner, "/people/invite", role="crew", whom="Juniper Vale"), "join")
    new = signed()
    assert "invites Juniper Vale: you come in as <b>crew</b>" in new.get(way).text
    taken = new.post(way, data={"name": "Juniper Vale", "login": "crew@holm", "password": OTHER})
    assert taken.status_code == 422 and "signs in as" in taken.text and 'value="Juniper Vale"' in taken.text
    assert new.post(way, data={"name": "Juniper Vale", "login": "juniper", "password": OTHER}).status_code == 303
    assert new.get("/").status_code == 200 and new.get("/people").status_code == 403
    assert signed().get(way).status_code == 404 and "opens nothing any more" in signed().get(way).text
    back = link(press(owner, "/people/invite", role="owner", whom="Somebody Else"), "join")
    digest = accounts.digest_of(back.rsplit("/", 1)[1])
    assert press(owner, "/people/end-link", digest=digest).status_code == 303 and signed().get(back).status_code == 404
    late = link(press(owner, "/people/invite", role="crew", whom="Late"), "join")
    sql(scope, "UPDATE passes SET until = now() - interval '1 second' WHERE used_at IS NULL")
    assert signed().get(late).status_code == 404
    assert press(owner, "/people/invite", role="king", whom="x").status_code == 422
    assert "came in by invitation" in owner.get("/people").text


def test_two_of_one_name_are_told_apart(scope, staffed, signed):
    """What is written down is told apart by the name, so that one is not taken for the other."""
    owner = signed("owner@holm")
    path = link(press(owner, "/people/invite", role="crew", whom="somebody"), "join")
    new = signed()
    same = new.post(path, data={"login": "second", "name": "The  CREW", "password": OTHER})
    assert same.status_code == 422 and "told apart" in same.text and 'value="second"' in same.text
    assert sql(scope, "SELECT count(*) FROM people").scalar_one() == 3  # no account was left behind
    assert new.post(path, data={"login": "second", "name": "the crew, tall", "password": OTHER}).status_code == 303
    accounts.make_workspace(scope.engine, "next-door", "Next Door")
    people.add_person(replace(scope, workspace="next-door"), "far@door", "the planner", "owner", PASSWORD)
    far, again = signed("far@door"), link(press(owner, "/people/invite", role="crew", whom="far"), "join")
    asked = press(far, again, mine="yes")
    assert asked.status_code == 422 and "told apart" in asked.text
    people.take_away(scope, staffed["planner"])
    assert press(far, again, mine="yes").status_code == 422  # what the planner wrote is still theirs


def test_somebody_of_one_workspace_is_invited_into_another_and_goes_between(scope, staffed, signed):
    accounts.make_workspace(scope.engine, "next-door", "Next Door")
    far = replace(scope, workspace="next-door", actor="far")
    secret = passes.invite(far, "planner", "the crew")
    one = signed("crew@holm")
    mine = jobs.create(scope, sample.job())
    assert "Come in as the crew" in one.get(f"/join/{secret}").text
    assert press(one, f"/join/{secret}", mine="yes").status_code == 303
    assert one.get(f"/jobs/{mine}").status_code == 404 and "<b>planner</b> in <b>Next Door</b>" in one.get("/me").text
    assert (
        press(one, "/me/workspace", workspace="own").status_code == 303 and one.get(f"/jobs/{mine}").status_code == 200
    )
    assert press(one, "/me/workspace", workspace="nosuch").status_code == 404


def test_a_lost_password_is_renewed_by_an_owners_link_and_every_session_before_ends(scope, staffed, signed):
    crew, owner = signed("crew@holm"), signed("owner@holm")
    way = link(press(owner, f"/people/{staffed['crew']}/renew"), "renew")
    assert crew.get("/").status_code == 200
    new = signed()
    assert new.post(way, data={"password": "crew@holmcrew@holm"}).status_code == 422
    assert new.post(way, data={"password": OTHER}).status_code == 303 and new.get("/").status_code == 200
    assert crew.get("/").status_code == 303 and signed().get(way).status_code == 404
    assert signed().post("/sign-in", data={"login": "crew@holm", "password": PASSWORD}).status_code == 422


def test_an_owner_does_not_come_into_another_workspace_by_a_members_new_password(scope, staffed, signed):
    accounts.make_workspace(scope.engine, "next-door", "Next Door")
    far = replace(scope, workspace="next-door", actor="far")
    secret = passes.invite(far, "owner", "the crew")
    assert press(signed("crew@holm"), f"/join/{secret}", mine="yes").status_code == 303
    said = press(signed("owner@holm"), f"/people/{staffed['crew']}/renew")
    assert (
        said.status_code == 422
        and "works in another workspace too" in said.text
        and "/renew/" not in said.text.replace(f"/people/{staffed['crew']}/renew", "")
    )
    assert passes.renewing(scope, staffed["crew"], anywhere=True)  # the command line may


def test_a_password_is_changed_with_the_old_one_and_the_other_browsers_are_out(staffed, signed):
    here, there = signed("crew@holm"), signed("crew@holm")
    assert press(here, "/me/password", old="wrong", password=OTHER).status_code == 422
    done = press(here, "/me/password", old=PASSWORD, password=OTHER)
    assert done.status_code == 200 and "every other browser is signed out" in done.text
    assert here.get("/").status_code == 200 and there.get("/").status_code == 303


def test_one_signs_out_here_and_everywhere(scope, staffed, signed):
    here, there = signed("crew@holm"), signed("crew@holm")
    stolen = here.cookies["gnomonic"]
    assert press(here, "/sign-out").headers["location"] == "/sign-in" and here.get("/").status_code == 303
    here.cookies.set("gnomonic", stolen)
    assert here.get("/").status_code == 303  # it is the session that ended, not the cookie alone
    again = signed("crew@holm")
    assert press(again, "/me/sign-out-everywhere").status_code == 303
    assert there.get("/").status_code == again.get("/").status_code == 303
    sql(scope, "UPDATE sessions SET until = now() - interval '1 second'")
    late = signed("planner@holm")
    sql(scope, "UPDATE sessions SET made_at = now() - interval '181 days'")
    assert late.get("/").status_code == 303


def test_of_two_owners_who_leave_at_once_one_stays(scope, staffed):
    by = replace(scope, actor="the test")
    second = people.add_person(by, "second@holm", "second", "owner", PASSWORD)
    told, start = [], threading.Barrier(2)

    def leave(person, how):
        start.wait()
        try:
            how(person)
        except BadInput as error:
            told.append(error.sentence)

    ways = [
        (staffed["owner"], lambda p: people.take_away(by, p)),
        (second, lambda p: people.set_role(by, p, "crew")),
    ]
    threads = [threading.Thread(target=leave, args=way) for way in ways]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert told == ["this is the last owner: make somebody else an owner first"]
    assert sum(m.role == "owner" and m.left_at is None for m in people.members(scope)) == 1


def test_a_clients_link_shows_one_job_until_it_is_taken_back(scope, staffed, signed):
    mine, other = jobs.create(scope, sample.job()), jobs.create(scope, sample.job())
    owner, client = signed("owner@holm"), signed()
    way = link(press(owner, "/people/client", job_id=mine, whom="the neighbour"), "look")
    assert client.get(way).headers["location"] == f"/jobs/{mine}/look"
    assert client.get(f"/jobs/{other}/look").status_code == 403 and client.get("/").status_code == 403
    assert press(owner, "/people/end-link", digest=accounts.digest_of(way.rsplit("/", 1)[1])).status_code == 303
    assert client.get(f"/jobs/{mine}/look").status_code == 303


@pytest.mark.parametrize(("password", "why"), [("short", "at least 12"), ("x" * 129, "at most 128"), ("aaaaaaaaaaaaaa", "guessed"), ("qwertyuiop12", "words"), ("wrenalder2026", "words")])  # fmt: skip
def test_passwords_that_are_guessed_are_refused(password, why):
    with pytest.raises(BadInput, match=r"words|guessed|at most"):
        passwords.must_do(password, ("wrenalder", "Wren Alder"))


def test_the_hash_is_the_recommended_one():
    """RFC 9106 §4, second recommended option: Argon2id, t=3, p=4, m=64 MiB; also above the least of the OWASP password storage
    cheat sheet (19 MiB, t=2, p=1)."""
    from pwdlib import PasswordHash

    assert PasswordHash.recommended().hash(PASSWORD).startswith("$argon2id$v=19$m=65536,t=3,p=4$")


def test_who_did_what_at_the_gate_is_written_down(staffed, signed):
    owner = signed("owner@holm")
    press(owner, f"/people/{staffed['crew']}/role", role="planner")
    press(owner, f"/people/{staffed['planner']}/take-away")
    page = owner.get("/people").text
    for words in ("gave a role", "the crew: planner (was crew)", "took a role away", "signed in", "made an account"):
        assert words in page
    assert token(owner) and "Give again" in page


@pytest.mark.parametrize("kind", ["join", "renew", "look"])
def test_a_fault_on_the_page_of_a_link_does_not_log_what_opens_it(scope, kind, monkeypatch, caplog):
    def fails(*_, **__):
        raise RuntimeError("a fault of a test")

    monkeypatch.setattr(passes, "look" if kind == "look" else "opened", fails)
    answer = TestClient(create_app(scope), base_url="http://localhost").get(f"/{kind}/the-secret-of-it")
    assert answer.status_code == 500 and "the-secret-of-it" not in answer.text
    assert f"GET /{kind}/…" in caplog.text and "the-secret-of-it" not in caplog.text
