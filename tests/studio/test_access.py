"""Who may come in: nothing is asked for on this machine, a password on any other address."""

import threading

import pytest

from tests.conftest import song
from tests.studio.conftest import MARK, wav
from velvetdrum.studio.app import create_app
from velvetdrum.studio.http.access import COOKIE, Passwords, may_enter
from velvetdrum.studio.server import is_loopback

HTML = {"Accept": "text/html"}


@pytest.fixture
def app(tmp_path):
    made = create_app(tmp_path / "data", guarded=True, hosts=["studio.example"])
    yield made
    made.extensions["services"].close()


@pytest.fixture
def password(app):
    return app.extensions["passwords"].make()


def sign_in(client, password, **more):
    return client.post("/sign-in", data={"password": password, "then": "/"}, **more)


def test_nobody_comes_in_without_the_password(app, password):
    client = app.test_client()
    page = client.get("/", headers=HTML)
    assert page.status_code == 302 and page.headers["Location"].startswith("/sign-in")
    assert client.get("/palettes").status_code == 401
    assert client.post("/sounds", data=wav(song(0.2)), headers=MARK).status_code == 401
    assert "not signed in" in client.get("/projects/x/state", headers={"Accept": "application/json"}).json["error"]
    assert client.get("/static/css/base.css").status_code == 200
    assert sign_in(client, "wrong").status_code == 403
    assert sign_in(client, "").status_code == 403
    assert client.get("/palettes").status_code == 401
    assert client.get("/", headers=HTML | {"Cookie": f"{COOKIE}=made-up"}).status_code == 302


def test_a_session_begins_lasts_and_ends(app, password):
    client = app.test_client()
    answer = sign_in(client, password)
    assert answer.status_code == 302 and answer.headers["Location"] == "/"
    cookie = answer.headers["Set-Cookie"]
    assert "HttpOnly" in cookie and "SameSite=Lax" in cookie and "Secure" not in cookie
    assert client.get("/", headers=HTML).status_code == 200
    token = cookie.split("=", 1)[1].split(";")[0]
    assert client.post("/sign-out", headers=MARK).status_code == 200
    # What was copied from the cookie before does not open anything any more.
    other = app.test_client()
    other.set_cookie(COOKIE, token)
    assert other.get("/palettes").status_code == 401


def test_the_cookie_is_secure_behind_tls(tmp_path):
    app = create_app(tmp_path / "data", guarded=True, behind_tls=True)
    answer = sign_in(app.test_client(), app.extensions["passwords"].make())
    assert "Secure" in answer.headers["Set-Cookie"]
    app.extensions["services"].close()


def test_tries_are_limited(app, password):
    client = app.test_client()
    assert [sign_in(client, f"wrong {n}").status_code for n in range(5)] == [403] * 5
    late = sign_in(client, password)
    assert late.status_code == 429 and int(late.headers["Retry-After"]) > 0
    # Another address is not locked out by them.
    other = sign_in(app.test_client(), password, environ_base={"REMOTE_ADDR": "10.0.0.9"})
    assert other.status_code == 302


def test_many_tries_at_once_are_no_more_than_one_after_the_other(app, password):
    """Each is counted before it is checked, which takes a tenth of a second."""
    codes = []

    def attempt(number):
        codes.append(sign_in(app.test_client(), f"wrong {number}").status_code)

    threads = [threading.Thread(target=attempt, args=(n,)) for n in range(12)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert codes.count(403) == 5 and codes.count(429) == 7


def test_the_password_is_not_tried_from_many_addresses(app, password):
    client = app.test_client()
    codes = [
        sign_in(client, "wrong", environ_base={"REMOTE_ADDR": f"10.0.{n // 4}.{n % 4}"}).status_code for n in range(60)
    ]
    assert codes.count(403) == 40 and codes[40:] == [429] * 20


def test_a_line_of_ipv6_counts_as_one_address(app, password):
    client = app.test_client()
    codes = [sign_in(client, "wrong", environ_base={"REMOTE_ADDR": f"2001:db8::{n:x}:1"}).status_code for n in range(7)]
    assert codes == [403] * 5 + [429] * 2


@pytest.mark.parametrize("other", ['theme={"dark":true}', "a=b;;;=", 'q="unclosed', "x=\u00e9", "@=1; [=]"])
def test_cookies_of_other_programs_on_this_host_do_no_harm(app, password, other):
    client = app.test_client()
    token = sign_in(client, password).headers["Set-Cookie"].split("=", 1)[1].split(";")[0]
    for cookie in (f"{other}; {COOKIE}={token}", f"{COOKIE}={token}; {other}"):
        assert may_enter(app, {"COOKIE": cookie}) and not may_enter(app, {"COOKIE": other})
        answer = app.test_client(use_cookies=False).post("/tap-delay", json={}, headers=MARK | {"Cookie": cookie})
        assert answer.status_code == 400  # let in, and then told what is missing


def test_only_the_hash_is_kept_and_only_its_owner_may_read_it(app, password):
    kept = app.extensions["services"].data / "password"
    assert password not in kept.read_text() and kept.read_text().startswith("$argon2id$")
    assert kept.stat().st_mode & 0o077 == 0
    again = Passwords(app.extensions["services"].data)
    assert again.is_set and again.fits(password) and not again.fits(password + "x")


def test_other_sites_can_neither_sign_in_nor_be_led_to(app, password):
    client = app.test_client()
    assert sign_in(client, password, headers={"Origin": "http://evil.example"}).status_code == 403
    for then in ("//evil.example", "http://evil.example", "/\\evil.example", "javascript:x"):
        answer = client.post("/sign-in", data={"password": password, "then": then})
        assert answer.headers["Location"] == "/"


def test_names_from_outside_are_those_that_were_allowed(app):
    client = app.test_client()
    for host, code in (
        ("studio.example:80", 200),
        ("192.168.7.7:8765", 200),
        ("[fe80::1]:80", 200),
        ("evil.example", 400),
    ):
        assert client.get("/sign-in", headers={"Host": host} | HTML).status_code == code


@pytest.mark.parametrize(
    ("host", "local"),
    [
        ("127.0.0.1", True),
        ("::1", True),
        ("localhost", True),
        ("127.9.9.9", True),
        ("0.0.0.0", False),
        ("::", False),
        ("10.1.2.3", False),
        ("quay", False),
    ],
)
def test_which_addresses_are_of_this_machine_only(host, local):
    assert is_loopback(host) is local


def test_on_this_machine_nothing_is_asked_for(tmp_path):
    app = create_app(tmp_path / "data")
    assert app.test_client().get("/", headers=HTML).status_code == 200
    assert app.test_client().get("/sign-in", headers=HTML).status_code == 302
    app.extensions["services"].close()
