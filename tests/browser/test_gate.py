"""At the gate as a person meets it: the first account, an invitation, signing out; on the phone what is not sent stays."""

import pytest
from gate import PASSWORD
from places import few
from playwright.sync_api import expect
from sqlalchemy import text

from gnomonic.demo.load import single_jobs
from gnomonic.store import events, jobs, passes, people
from gnomonic.store.scope import Scope, connect
from gnomonic.workshop.running import PATIENCE, serving

# what would change a plan: forms and fields but those that look for something, and those that write down what the ground told
OFFERED = (
    "main form:not([method=post], [role=search], #goto, .logform) button:enabled:visible, "
    "main :is(select, input, textarea):enabled:visible:not([type=range], [type=search], #station, .logform *, .booktext, #adjust, [aria-label^=EPSG])"
)
PHONE = {"width": 390, "height": 844}


@pytest.fixture
def crewed(database):
    """A server with one of the crew, who knows the password, and a job; gives (address, scope, job)."""
    scope = Scope(connect(database, PATIENCE))
    for role in ("owner", "crew"):
        people.add_person(scope, role, f"the {role}", role, PASSWORD)
    job = jobs.create(scope, single_jobs()[-1])
    with serving(database, "own") as address:
        yield address, scope, job
    scope.engine.dispose()


def sign_in(page, address, login, to="/"):
    page.goto(f"{address}/sign-in?next={to}")
    expect(page.get_by_label("Name you sign in by")).to_be_focused()  # the first field gets the cursor by itself
    page.keyboard.type(login)
    page.keyboard.press("Tab")
    page.keyboard.type(PASSWORD)
    page.keyboard.press("Enter")
    page.wait_for_url(f"{address}{to}")


def test_an_owner_invites_by_keys_and_the_invited_comes_in(page, browser, crewed):
    address, _, _ = crewed
    sign_in(page, address, "owner", "/people")
    page.get_by_label("Who", exact=True).fill("Juniper")
    page.get_by_role("button", name="Make the link").first.click()
    link = page.get_by_label("The link for Juniper").input_value()
    context = browser.new_context(viewport=PHONE)
    other = context.new_page()
    other.goto(link)
    expect(other.locator("h1")).to_have_text("Come in to Our fences")
    other.get_by_label("Name to sign in by").fill("juniper")
    other.get_by_label("Password").fill("short but long enough")
    other.get_by_role("button", name="Come in").click()
    expect(other.locator("h1")).to_have_text("Jobs")
    assert other.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()


def test_a_form_pressed_twice_is_sent_once_and_again_after_the_way_back(page, crewed):
    address, scope, _ = crewed
    sign_in(page, address, "owner", "/people")
    page.get_by_label("Who", exact=True).fill("Juniper")
    page.evaluate(
        "[0, 15].forEach((ms) => setTimeout(() => document.querySelector('form[action$=invite] button').click(), ms))"
    )
    expect(page.get_by_label("The link for Juniper")).to_be_visible()
    assert [p.whom for p in passes.open_ones(scope)] == ["Juniper"]
    page.go_back()
    page.get_by_label("Who", exact=True).fill("Rowan")
    page.get_by_role("button", name="Make the link").first.click()
    expect(page.get_by_label("The link for Rowan")).to_be_visible()


@pytest.mark.answers("401")
def test_the_crew_signs_in_on_a_phone_writes_signs_out_and_the_unsent_stays(page, context, crewed):
    address, scope, job = crewed
    page.set_viewport_size(PHONE)
    page.goto(f"{address}/sign-in?next=/field/")
    sign_in(page, address, "crew", "/field/")
    page.evaluate("navigator.serviceWorker.ready")
    page.locator(".press.job.other").first.click()
    page.wait_for_selector(".posthead")
    page.get_by_role("button", name="Found…").click()
    page.get_by_role("button", name="Rock").click()
    expect(page.locator("#told")).to_contain_text("Rock written down")
    expect(page.locator("#waiting")).to_have_text("all sent")
    assert [(k.event.author, k.by) for k in events.of_job(scope, job)] == [("the crew", "the crew")]
    context.set_offline(True)
    page.get_by_role("button", name="Found…").click()
    page.get_by_role("button", name="Water").click()
    expect(page.locator("#told")).to_contain_text("Water written down")
    expect(page.locator("#waiting")).to_have_text("1 not sent")
    page.locator("#waiting").click()  # signs out where nobody hears it
    page.get_by_role("button", name="Sign out on this phone").click()
    page.get_by_role("button", name="Sign out", exact=True).click()
    expect(page.locator("#waiting")).to_have_text("1 not sent", timeout=10_000)
    expect(page.locator("#main")).to_contain_text("no job on this phone yet")
    context.set_offline(False)
    page.wait_for_function(
        "async () => (await fetch('/api/v1/me')).status === 401", timeout=10_000
    )  # it has heard it now
    expect(page.get_by_role("link", name="Sign in")).to_be_visible()
    assert len(events.of_job(scope, job)) == 1
    sign_in(page, address, "crew", "/field/")
    expect(page.locator("#waiting")).to_have_text("all sent", timeout=10_000)
    assert len(events.of_job(scope, job)) == 2


@pytest.mark.answers("403")
def test_a_passkey_made_here_opens_the_account_and_says_once_more_who_one_is(page, context, crewed):
    address, scope, _ = crewed
    address = address.replace("127.0.0.1", "localhost")
    device = context.new_cdp_session(page)
    device.send("WebAuthn.enable")
    kind = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True, "isUserVerified": True}  # fmt: skip
    added = device.send("WebAuthn.addVirtualAuthenticator", {"options": {**kind, "automaticPresenceSimulation": True}})
    sign_in(page, address, "owner", "/me")
    page.get_by_label("Your password, once more").fill(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_text("for localhost")).to_be_visible()
    page.get_by_role("button", name="Sign out here").click()
    page.wait_for_url(f"{address}/sign-in")
    page.goto(f"{address}/sign-in?next=/people")
    page.get_by_role("button", name="Use a passkey").click()
    page.wait_for_url(f"{address}/people")
    with scope.engine.begin() as connection:
        connection.execute(text("UPDATE sessions SET proved_at = proved_at - interval '31 minutes'"))
    page.get_by_label("What the workspace is called").fill("Fences of ours")
    page.get_by_role("button", name="Call it so").click()
    expect(page.locator("h1")).to_have_text("Is it still you?")
    page.get_by_role("button", name="Use a passkey").click()
    page.wait_for_url(f"{address}/people")
    expect(page.locator("h1")).to_have_text("People of Fences of ours")
    device.send("WebAuthn.setUserVerified", {"authenticatorId": added["authenticatorId"], "isUserVerified": False})
    page.goto(f"{address}/me")
    page.get_by_role("button", name="Sign out here").click()
    page.wait_for_url(f"{address}/sign-in")
    page.get_by_role("button", name="Use a passkey").click()  # a finger that isn't the owner's
    expect(page.get_by_role("alert")).to_contain_text("nothing was done")
    assert page.url == f"{address}/sign-in"


def test_the_crew_looks_at_the_plan_and_is_offered_nothing_it_may_not_do(page, crewed):
    address, scope, job = crewed
    asked = []
    page.on(
        "request",
        lambda r: asked.append(r.url) if r.method == "POST" and not r.url.endswith(("/weigh", "/book")) else None,
    )
    sign_in(page, address, "crew")
    before, done = jobs.load(scope, job).version, len(asked)
    page.goto(f"{address}/jobs/{job}")
    expect(page.locator("#undo")).to_be_hidden()
    expect(page.locator("#sentence")).to_contain_text("Bays up to")
    assert page.locator("#sentence input, #sentence select").count() == 0
    page.locator("#snags .place").last.click()
    expect(page.locator("#snags li.chosen .remedies span.remedy").first).to_be_visible()  # what would mend it is read
    assert page.locator("button.remedy, .change:visible").count() == 0
    page.keyboard.press("Control+z")
    expect(page.locator("#said")).to_contain_text("a planner changes it")
    for at in few(("stand", "openings", "pull", "hold", "walk", "lines"), 0, 3, 5):
        page.goto(f"{address}/jobs/{job}/{at}")
        expect(page.locator("#said")).to_be_attached()
        for tab in page.get_by_role("tab").all() or [page.locator("h1").first]:
            tab.click() if tab.get_attribute("role") else None
            assert page.locator(OFFERED).count() == 0, (at, tab.inner_text())
    assert jobs.load(scope, job).version == before and asked[done:] == []
