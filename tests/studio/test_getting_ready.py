"""What is served while loops compile."""

import socket
import urllib.error
import urllib.request

import pytest

from velvetdrum.studio.getting_ready import getting_ready


def asked(port):
    with pytest.raises(urllib.error.HTTPError) as answer:
        urllib.request.urlopen(f"http://127.0.0.1:{port}/projects/abc", timeout=10)
    return answer.value


@pytest.fixture
def port():
    with socket.create_server(("127.0.0.1", 0)) as free:
        return free.getsockname()[1]


def test_how_far_it_is_stands_on_every_page_and_it_asks_again(port):
    with getting_ready("127.0.0.1", port) as state:
        state.tell(12, 38)
        answer = asked(port)
        page = answer.read().decode()
        assert answer.code == 503 and answer.headers["Retry-After"] == "1"
        assert "12 of 38" in page and 'http-equiv="refresh"' in page and '<progress max="38" value="12"' in page
        state.tell(38, 38)
        assert "38 of 38" in asked(port).read().decode()
    # The server that comes has the address for itself.
    with socket.create_server(("127.0.0.1", port)):
        pass


def test_an_address_that_is_taken_is_left_to_what_comes_after(port):
    with socket.create_server(("127.0.0.1", port)), getting_ready("127.0.0.1", port) as state:
        state.tell(1, 2)
