"""Owners, new passwords, backups from the command line; a server that others would reach is refused until it is safe."""

import re

import pytest
from fastapi.testclient import TestClient
from gate import PASSWORD

from gnomonic import cli, keeping
from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs, people
from gnomonic.web.app import create_app


@pytest.fixture
def shell(database, scope, monkeypatch, capsys):
    """Runs a command on the test's database; gives status, what it printed, what it said."""
    monkeypatch.setenv("GNOMONIC_DATABASE_URL", database)

    def run(*words):
        status = cli.main(list(words))
        out, err = capsys.readouterr()
        assert "Traceback" not in err
        return status, out.strip(), err.strip()

    return run


def test_an_owner_is_made_and_chooses_a_password_by_the_address_that_is_printed(shell, scope):
    status, out, err = shell("owner", "wren", "--name", "Wren", "--called", "Our crew")
    assert status == 0 and "Wren is an owner of “Our crew”" in err and re.fullmatch(r"/renew/[\w-]{43}", out)
    browser = TestClient(create_app(scope), base_url="http://localhost", follow_redirects=False)
    assert browser.get("/").status_code == 303  # from the first account on everybody signs in
    assert (
        browser.post(out, data={"password": PASSWORD}).status_code == 303
        and "<b>owner</b> in <b>Our crew</b>" in browser.get("/me").text
    )
    assert shell("owner", "wren")[0] == 2 and "signs in as “wren” already" in shell("owner", "WREN")[2]
    status, again, _ = shell("renew", "wren")
    assert status == 0 and again != out
    assert shell("renew", "nobody") == (2, "", "nobody signs in as “nobody”")
    assert shell("owner", "a name with spaces")[0] == 2


def test_a_backup_goes_out_and_comes_back_by_the_shell(shell, scope, tmp_path):
    jobs.create(scope, single_jobs()[0])
    status, _, err = shell("backup", str(tmp_path / "all.zip"))
    assert status == 0 and "1 jobs" in err and [p.name for p in tmp_path.iterdir()] == ["all.zip"]
    status, _, err = shell("restore", str(tmp_path / "all.zip"))
    assert status == 2 and "here already and not empty" in err
    (tmp_path / "none.zip").write_bytes(b"PK")
    assert shell("restore", str(tmp_path / "none.zip"))[0] == 2
    assert shell("restore", str(tmp_path / "nosuch.zip"))[0] == 1
    assert shell("backup", str(tmp_path / "no" / "all.zip"))[0] == 1


@pytest.mark.parametrize(
    ("command", "listen", "settings", "why"),
    [
        ("serve", "0.0.0.0", {}, "name what they call it in GNOMONIC_HOSTS"),
        ("serve", "127.0.0.1", {"GNOMONIC_HOSTS": "fence.example"}, "passwords would go about readable"),
        (
            "serve",
            "0.0.0.0",
            {"GNOMONIC_HOSTS": "fence.example", "GNOMONIC_TLS": "yes"},
            "passwords would go about readable",
        ),
        ("serve", "fence.example", {}, "is no address to listen at"),
        ("demo", "127.0.0.1", {"GNOMONIC_HOSTS": "fence.example", "GNOMONIC_TLS": "in-front"}, "for one machine alone"),
    ],
)
def test_a_server_that_others_would_reach_is_refused(shell, monkeypatch, command, listen, settings, why):
    for key, value in settings.items():
        monkeypatch.setenv(key, value)
    words = [command, "--listen", listen] if command == "serve" else [command]
    status, _, err = shell(*words)
    assert status == 1 and why in err


def test_without_an_account_it_is_refused_and_with_one_it_is_not(database, scope, monkeypatch):
    monkeypatch.setenv("GNOMONIC_HOSTS", "fence.example")
    monkeypatch.setenv("GNOMONIC_TLS", "in-front")
    where = keeping.reached_as("0.0.0.0", demo=False)
    with pytest.raises(keeping.CannotInstall, match="nobody has an account yet"):
        keeping.must_have_owner(database, where)
    people.add_person(scope, "wren", "Wren", "owner", PASSWORD)
    keeping.must_have_owner(database, where)
    assert keeping.reached_as("127.0.0.1", demo=False) != ""
    monkeypatch.delenv("GNOMONIC_HOSTS")
    assert keeping.reached_as("::1", demo=False) == ""
