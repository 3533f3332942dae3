"""A conversation ends: by its time, by its bytes, wherever the other side drips. Against a plain socket that does so."""

from __future__ import annotations

import socket
import threading
import tracemalloc
import zlib

import httpx
import pytest

from after_check.files.limited_http import Limit, LimitedTransport, OverLimitError

HEAD = b"HTTP/1.1 200 OK\r\nContent-Length: 400\r\n\r\n"


@pytest.fixture
def dripping():
    """Serve bytes: what is sent at once, then one byte of the rest every 30 ms, until the other side is gone."""
    ended = threading.Event()
    listeners = []

    def serve(at_once, slowly=b""):
        listener = socket.create_server(("127.0.0.1", 0))
        listeners.append(listener)

        def answer():
            try:
                line, _ = listener.accept()
                with line:
                    line.recv(1 << 16)
                    line.sendall(at_once)
                    for at in range(len(slowly)):
                        if ended.wait(0.03):
                            return
                        line.sendall(slowly[at : at + 1])
            except OSError:
                return

        threading.Thread(target=answer, daemon=True).start()
        return f"http://127.0.0.1:{listener.getsockname()[1]}/"

    yield serve
    ended.set()
    for listener in listeners:
        listener.close()


def asked(address, seconds=0.6, most_bytes=4000):
    with httpx.Client(transport=LimitedTransport(Limit(seconds, most_bytes)), timeout=0.5) as client:
        return client.get(address)


def test_what_comes_in_time_is_whole(dripping):
    answer = asked(dripping(HEAD + b"x" * 390, b"y" * 10), seconds=5)
    assert (answer.status_code, answer.text) == (200, "x" * 390 + "y" * 10)


@pytest.mark.parametrize(
    ("at_once", "slowly"), [(HEAD, b"x" * 400), (b"HTTP/1.1 200 OK\r\n", b"X-Slow: " + b"s" * 400), (b"", HEAD + b"x" * 400)]
)
def test_a_service_that_drips_is_left_and_the_time_is_said(dripping, at_once, slowly):
    with pytest.raises(OverLimitError, match=r"no whole answer within 1 s; \d+ bytes came"):
        asked(dripping(at_once, slowly), seconds=1.0)


def test_a_service_that_brings_too_much_is_left(dripping):
    with pytest.raises(OverLimitError, match="larger than"):
        asked(dripping(b"HTTP/1.1 200 OK\r\n\r\n" + b"x" * 8000), seconds=5)


def test_the_limit_is_one_for_all_questions_until_it_begins_anew(dripping):
    limit = Limit(30, 500)
    with httpx.Client(transport=LimitedTransport(limit), timeout=2) as client:
        assert client.get(dripping(HEAD + b"x" * 400)).status_code == 200
        with pytest.raises(OverLimitError):
            client.get(dripping(HEAD + b"x" * 400))
        limit.begin()
        assert client.get(dripping(HEAD + b"x" * 400)).status_code == 200


def test_a_line_that_ends_and_nobody_keep_the_names_that_the_client_library_gives_them(dripping):
    with pytest.raises(httpx.TransportError, match="disconnected"):
        asked(dripping(b"HTTP/1.1 200 OK\r\n"), seconds=20)
    with pytest.raises(httpx.ConnectError):
        asked("http://127.0.0.1:1/")


def packed(data, name="gzip"):
    window = {"gzip": 31, "deflate": 15}[name]
    packer = zlib.compressobj(9, zlib.DEFLATED, window)
    body = packer.compress(data) + packer.flush()
    return b"HTTP/1.1 201 Created\r\nContent-Encoding: %s\r\nContent-Length: %d\r\n\r\n" % (name.encode(), len(body)) + body


@pytest.mark.parametrize("name", ["gzip", "deflate"])
def test_a_packed_answer_is_unpacked(dripping, name):
    answer = asked(dripping(packed(b'{"a": 1}' * 300, name)), seconds=5)
    assert (answer.status_code, answer.text) == (201, '{"a": 1}' * 300)


@pytest.mark.parametrize("name", ["gzip", "deflate"])
def test_a_packed_answer_counts_as_it_unpacks(dripping, name):
    """30 MB of blanks come as 30 kB, and are left at the limit before they are in memory."""
    whole = packed(b" " * 30_000_000, name)
    assert len(whole) < 100_000
    tracemalloc.start()
    try:
        with pytest.raises(OverLimitError, match="unpacked"):
            asked(dripping(whole), seconds=5, most_bytes=1_000_000)
        most_bytes = tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()
    assert most_bytes < 8_000_000


@pytest.mark.parametrize(("name", "body"), [(b"gzip", b"no gzip"), (b"br", b"x"), (b"zstd", b"x"), (b"gzip, gzip", b"x")])
def test_what_cannot_be_unpacked_is_said(dripping, name, body):
    with pytest.raises(httpx.DecodingError, match="packed"):
        asked(dripping(b"HTTP/1.1 200 OK\r\nContent-Encoding: %s\r\nContent-Length: %d\r\n\r\n" % (name, len(body)) + body), seconds=5)
