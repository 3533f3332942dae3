"""HTTP with one limit of time and one of bytes for a whole conversation, login included; packed answers count as they unpack.

A timeout of the usual kind begins again with every byte that arrives: a service that drips holds its reader for hours.
Here the clock and the count are in the connection itself, beneath TLS and beneath the headers: whatever is waited for,
it ends. Built on the network backends of httpcore (https://www.encode.io/httpcore/network-backends/).
"""

from __future__ import annotations

import contextlib
import ssl
import time
import zlib
from collections.abc import Iterable, Iterator
from typing import Any

import httpcore
import httpx

from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import clean
from after_check.domain.quantities import size_text

_PACKING = b"content-encoding"
# Window sizes as zlib takes them: with the header of gzip, and with its own.
_WINDOWS = {"gzip": 16 + zlib.MAX_WBITS, "x-gzip": 16 + zlib.MAX_WBITS, "deflate": zlib.MAX_WBITS}
_PIECE_BYTES = 1 << 18


class OverLimitError(AfterCheckError, httpx.TransportError):
    """A conversation took too long, or brought too much; the message says how long and how much."""


class Limit:
    """How long a conversation may take and how many bytes it may bring; `begin` starts the next one."""

    def __init__(self, seconds: float, most_bytes: int) -> None:
        self._seconds = seconds
        self._most_bytes = most_bytes
        self.begin()

    def begin(self) -> None:
        """Begin again."""
        self._until = time.monotonic() + self._seconds
        self._came_bytes = 0
        self._unpacked_bytes = 0

    def seconds_for(self, asked: float | None) -> float:
        """Return how long one step may wait. Raises OverLimitError."""
        left = self._until - time.monotonic()
        if left <= 0:
            raise OverLimitError(self._words)
        return left if asked is None else min(asked, left)

    def came(self, data: bytes) -> bytes:
        """Count what arrived, and return it. Raises OverLimitError."""
        self._came_bytes += len(data)
        if self._came_bytes > self._most_bytes:
            raise OverLimitError(f"the answers are larger than {size_text(self._most_bytes)} together")
        self.seconds_for(None)
        return data

    def unpacked(self, data: bytes) -> bytes:
        """Count what a packed answer held, and return it. Raises OverLimitError."""
        self._unpacked_bytes += len(data)
        if self._unpacked_bytes > self._most_bytes:
            raise OverLimitError(f"the answers are larger than {size_text(self._most_bytes)} together, unpacked")
        return data

    def is_over(self) -> bool:
        """Whether the time is up."""
        return time.monotonic() >= self._until

    @property
    def _words(self) -> str:
        return f"no whole answer within {self._seconds:.0f} s; {self._came_bytes} bytes came"

    def error(self) -> OverLimitError:
        """Return the error for time that is up."""
        return OverLimitError(self._words)


class _Stream(httpcore.NetworkStream):
    def __init__(self, stream: httpcore.NetworkStream, limit: Limit) -> None:
        self._stream = stream
        self._limit = limit

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        return self._limit.came(self._stream.read(max_bytes, self._limit.seconds_for(timeout)))

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self._stream.write(buffer, self._limit.seconds_for(timeout))

    def close(self) -> None:
        self._stream.close()

    def start_tls(
        self, ssl_context: ssl.SSLContext, server_hostname: str | None = None, timeout: float | None = None
    ) -> httpcore.NetworkStream:
        return _Stream(self._stream.start_tls(ssl_context, server_hostname, self._limit.seconds_for(timeout)), self._limit)

    def get_extra_info(self, info: str) -> Any:
        return self._stream.get_extra_info(info)


class _Backend(httpcore.NetworkBackend):
    def __init__(self, limit: Limit) -> None:
        self._limit = limit
        self._plain = httpcore.SyncBackend()

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[Any] | None = None,
    ) -> httpcore.NetworkStream:
        stream = self._plain.connect_tcp(host, port, self._limit.seconds_for(timeout), local_address, socket_options)
        return _Stream(stream, self._limit)


class _Body(httpx.SyncByteStream):
    def __init__(self, transport: LimitedTransport, stream: Any, packing: str) -> None:
        self._transport = transport
        self._stream = stream
        self._packing = packing

    def __iter__(self) -> Iterator[bytes]:
        with self._transport.in_words():
            yield from self._transport.unpacked(self._stream, self._packing)

    def close(self) -> None:
        self._stream.close()


class LimitedTransport(httpx.BaseTransport):
    """Takes a client's requests within a limit. Raises the client library's own errors, and OverLimitError."""

    def __init__(self, limit: Limit, context: ssl.SSLContext | None = None) -> None:
        self._limit = limit
        self._pool = httpcore.ConnectionPool(ssl_context=context, max_connections=4, network_backend=_Backend(limit))

    @contextlib.contextmanager
    def in_words(self) -> Iterator[None]:
        """Give the errors of the connection the names that users of the client library know."""
        try:
            yield
        except httpcore.TimeoutException:
            raise (self._limit.error() if self._limit.is_over() else httpx.ReadTimeout("no answer")) from None
        except httpcore.ConnectError as error:
            raise httpx.ConnectError(str(error)) from None
        except (httpcore.NetworkError, httpcore.ProtocolError, httpcore.UnsupportedProtocol) as error:
            raise httpx.TransportError(str(error)) from None

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        """Send a request and return what is answered; the body is read by whoever asked."""
        asked = httpcore.Request(
            method=request.method,
            url=httpcore.URL(scheme=request.url.raw_scheme, host=request.url.raw_host, port=request.url.port, target=request.url.raw_path),
            headers=request.headers.raw,
            content=request.stream,
            extensions=request.extensions,
        )
        with self.in_words():
            answer = self._pool.handle_request(asked)
        packing = ", ".join(value.decode("ascii", "replace").lower() for name, value in answer.headers if name.lower() == _PACKING)
        # The client library would unpack a piece at one go, however large it becomes: it gets plain bytes, counted as they are unpacked.
        headers = [(name, value) for name, value in answer.headers if name.lower() not in (_PACKING, b"content-length")]
        stream = _Body(self, answer.stream, packing)
        return httpx.Response(answer.status, headers=headers, stream=stream, extensions=answer.extensions)

    def unpacked(self, pieces: Iterable[bytes], packing: str) -> Iterator[bytes]:
        """Yield a body unpacked (RFC 9110, section 8.4.1), a bounded piece at a time. Raises OverLimitError, httpx.DecodingError."""
        if packing in ("", "identity"):
            yield from pieces
            return
        if packing not in _WINDOWS:
            raise httpx.DecodingError(f"the answer is packed in a way that was not asked for ({clean(packing, 20)})")
        unpacker = zlib.decompressobj(_WINDOWS[packing])
        try:
            for piece in pieces:
                left = piece
                while left and not unpacker.eof:
                    yield self._limit.unpacked(unpacker.decompress(left, _PIECE_BYTES))
                    left = unpacker.unconsumed_tail
        except zlib.error as error:
            raise httpx.DecodingError(f"the answer can't be unpacked ({error})") from None

    def close(self) -> None:
        """Close every connection."""
        self._pool.close()
