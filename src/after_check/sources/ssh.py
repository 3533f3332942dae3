"""A reading over SSH. The target needs `sh`, `cat` and either `base64` or `od`: no Python, no file transfer."""

from __future__ import annotations

import asyncio
import base64
import binascii
import contextlib
import re
import secrets
from collections.abc import AsyncIterator
from dataclasses import dataclass, replace
from pathlib import Path

import asyncssh

from after_check.domain.outside_text import clean
from after_check.files.errors import SourceError
from after_check.files.network_address import NetworkAddress, parse_network_address
from after_check.files.plain_files import read_plain
from after_check.files.tree import KeptFiles
from after_check.sources.evidence import Taken
from after_check.sources.linux import read_files
from after_check.sources.machine_files import MACHINE_FILES
from after_check.sources.ssh_answers import answer_of, closing
from after_check.sources.trust import Access, PasswordNeededError, TrustBrokenError, TrustNeededError, add_line, lines_of

CONNECT_SECONDS = 10
WHOLE_SECONDS = 60
_LARGEST_KEY_BYTES = 64 << 10
_LARGEST_ANSWER_BYTES = 32 << 20
_KNOWN_HOSTS = "known_hosts"

# A pattern that matches nothing stands for itself and is not there.
_SCRIPT = r"""
if command -v base64 >/dev/null 2>&1; then how=base64; else how=hex; fi
for f in PATTERNS; do
    f="ROOT$f"
    for g in $f; do
        n=${g#ROOT}
        if [ -r "$g" ] && [ -f "$g" ]; then
            echo "MARK $how $n"
            if [ $how = base64 ]; then head -c 1048576 "$g" 2>/dev/null | base64
            else od -An -v -tx1 -N 1048576 "$g" 2>/dev/null; fi
        elif [ -e "$g" ]; then
            echo "MARK rights $n"
        fi
    done
done
echo "MARK log -"
[ -z "ROOT" ] && dmesg 2>/dev/null | tail -n 2000 |
    grep -iE 'EDAC|mce:|machine check|hardware error|memory failure|out of memory' | tail -n 40
echo "MARK end -"
"""


@dataclass(frozen=True, slots=True)
class SshAddress:
    """Where to connect to; `root` is a folder that stands for / on the target (a simulated machine's tree)."""

    user: str
    host: str
    port: int = 22
    root: str = ""

    def __str__(self) -> str:
        return f"ssh://{self.user}@{NetworkAddress(self.host, self.port if self.port != 22 else None).place}"


def parse_ssh_address(text: str) -> SshAddress:
    """Return the address in `ssh://USER@HOST[:PORT]`. Raises SourceError."""
    example = "ssh://USER@HOST or ssh://USER@HOST:PORT, without a password in it"
    at = parse_network_address(text, "ssh", example)
    if not at.user:
        raise SourceError("this address has no user", clean(text, 80), f"write {example}")
    if at.path and not re.fullmatch(r"/[\w./-]+", at.path):
        raise SourceError("the folder in the address may have letters, digits and ./-_ only", clean(text, 80))
    return SshAddress(at.user, at.host, at.port or 22, at.path)


def read_over_ssh(text: str, access: Access = Access()) -> Taken:  # noqa: B008 - frozen
    """Take a reading over SSH. Raises SourceError, TrustNeededError, TrustBrokenError or PasswordNeededError."""
    return asyncio.run(read_over_ssh_async(parse_ssh_address(text), access))


async def read_over_ssh_async(address: SshAddress, access: Access = Access()) -> Taken:  # noqa: B008 - frozen
    """Take a reading over SSH within the running event loop."""
    try:
        async with asyncio.timeout(WHOLE_SECONDS):
            answer, mark = await _answer(address, access)
    except TimeoutError:
        raise SourceError(
            f"no answer within {WHOLE_SECONDS} seconds", str(address), "see whether the machine is on and the address is right"
        ) from None
    return read_files(_files(answer, mark, address), str(address))


class _Client(asyncssh.SSHClient):
    """Decides about the host's key."""

    def __init__(self, address: SshAddress, accepted: str | None) -> None:
        self._address = address
        self._accepted = accepted
        self.problem: SourceError | None = None

    def validate_host_public_key(self, host: str, addr: str, port: int, key: asyncssh.SSHKey) -> bool:
        """Called for a key that the known hosts do not vouch for."""
        name = self._address.host if self._address.port == 22 else f"[{self._address.host}]:{self._address.port}"
        fingerprint = key.get_fingerprint()
        known = asyncssh.match_known_hosts(_known_hosts(), self._address.host, "", self._address.port)[0]
        if known:
            self.problem = TrustBrokenError(
                f"{name} shows another host key than the one that is known ({fingerprint})",
                str(self._address),
                "if the machine was set up again, take its old line out of known_hosts; if not, somebody is in between",
            )
            return False
        if self._accepted != fingerprint:
            self.problem = TrustNeededError(name, "host key", fingerprint)
            return False
        add_line(_KNOWN_HOSTS, f"{name} {key.export_public_key('openssh').decode().strip()}")
        return True


def _known_hosts() -> asyncssh.SSHKnownHosts:
    """Return the person's own known hosts and those accepted here; lines that cannot be read are passed over."""
    lines = lines_of(_KNOWN_HOSTS)
    with contextlib.suppress(OSError, UnicodeDecodeError):
        lines += (Path.home() / ".ssh" / "known_hosts").read_text(encoding="utf-8").splitlines()
    sound = [line for line in lines if _is_sound(line)]
    return asyncssh.import_known_hosts("\n".join(sound) + "\n")


def _is_sound(line: str) -> bool:
    try:
        asyncssh.import_known_hosts(line + "\n")
    except (ValueError, asyncssh.KeyImportError):
        return False
    return bool(line.strip())


_HOST_KEYS = ("ssh-ed25519", "ecdsa-sha2-nistp521", "ecdsa-sha2-nistp384", "ecdsa-sha2-nistp256", "rsa-sha2-512", "rsa-sha2-256")
"""Kinds of host keys by strength (RFC 8709, RFC 5656, RFC 8332)."""


def _host_key_algorithms(address: SshAddress) -> list[str]:
    """Return the kinds of host keys to ask for: those that are known of this host first, then by strength.

    Small servers hold one kind only, and some end the connection where another one is proposed first.
    """
    keys = asyncssh.match_known_hosts(_known_hosts(), address.host, "", address.port)[0]
    known = [key.get_algorithm() for key in keys]
    first = [name for name in _HOST_KEYS if name in known or (name.startswith("rsa-") and "ssh-rsa" in known)]
    return list(dict.fromkeys([*first, *_HOST_KEYS]))


@contextlib.asynccontextmanager
async def _through(access: Access) -> AsyncIterator[asyncssh.SSHClientConnection | None]:
    """Connect to the machine to go through, where one is named; its key is asked about like any other."""
    if not access.jump:
        yield None
        return
    async with connected(parse_ssh_address(f"ssh://{access.jump}"), replace(access, jump="")) as tunnel:
        yield tunnel


def _checked_key(path: str) -> str:
    """Return the path of a key file that holds a private key. Raises SourceError for one that does not."""
    data = read_plain(Path(path).expanduser(), _LARGEST_KEY_BYTES, "key file")
    try:
        asyncssh.import_private_key(data)
    except asyncssh.KeyEncryptionError:
        pass  # With the password it may open.
    except (asyncssh.KeyImportError, ValueError):
        raise SourceError("is no private SSH key", path, "name the file without .pub, as ssh-keygen wrote it") from None
    return str(Path(path).expanduser())


@contextlib.asynccontextmanager
async def connected(address: SshAddress, access: Access) -> AsyncIterator[asyncssh.SSHClientConnection]:
    """Connect. Raises SourceError in words for whatever fails, at the beginning or meanwhile."""
    client = _Client(address, access.accepted_fingerprint)
    options: dict[str, object] = {"password": access.password} if access.password is not None else {}
    if access.key_file:
        options["client_keys"] = [_checked_key(access.key_file)]
        options["passphrase"] = access.password
    if address.port != 22:
        options["port"] = address.port  # Else the port, like the rest, may come from the person's ~/.ssh/config.
    async with _through(access) as tunnel:
        try:
            connection = await asyncssh.connect(
                address.host,
                tunnel=tunnel or (),
                username=address.user,
                server_host_key_algs=_host_key_algorithms(address),
                known_hosts=lambda host, addr, port: asyncssh.match_known_hosts(_known_hosts(), address.host, "", address.port),
                client_factory=lambda: client,
                connect_timeout=CONNECT_SECONDS,
                login_timeout=CONNECT_SECONDS,
                keepalive_interval=5,
                **options,
            )
            async with closing(connection):
                yield connection
        except TimeoutError:
            raise
        except (asyncssh.Error, OSError) as error:
            raise client.problem or _in_words(error, address) from None


def _in_words(error: Exception, address: SshAddress) -> SourceError:
    if isinstance(error, asyncssh.PermissionDenied):
        return PasswordNeededError("the machine refused the login", str(address), "give a password, a key file, or another user")
    if isinstance(error, asyncssh.HostKeyNotVerifiable):
        return SourceError(f"the host key cannot be checked ({error.reason[:100]})", str(address))
    reason = getattr(error, "strerror", None) or getattr(error, "reason", None) or str(error)
    if isinstance(error, asyncssh.KeyExchangeFailed | asyncssh.ConnectionLost):
        reason = f"{reason}; host keys were proposed in this order: {', '.join(_host_key_algorithms(address))}"
    return SourceError(f"the connection failed ({str(reason)[:240]})", str(address), "nothing was changed")


async def _answer(address: SshAddress, access: Access) -> tuple[str, str]:
    mark = f"after-check-{secrets.token_hex(8)}"
    script = (
        _SCRIPT.replace("PATTERNS", " ".join(f"'/{pattern}'" for pattern in MACHINE_FILES))
        .replace("MARK", mark)
        .replace("ROOT", address.root)
    )
    async with connected(address, access) as connection:
        answer = await answer_of(connection, "sh -s", (script.encode("latin-1"),), most_bytes=_LARGEST_ANSWER_BYTES, seconds=WHOLE_SECONDS)
        return answer.out.decode("latin-1"), mark


def _files(answer: str, mark: str, address: SshAddress) -> KeptFiles:
    """Return the files in an answer. Raises SourceError for one that ends in the middle."""
    files: dict[str, bytes] = {}
    refused: set[str] = set()
    sections = answer.split(f"{mark} ")[1:]
    if not sections or not sections[-1].startswith("end -"):
        raise SourceError("the connection ended in the middle of the reading", str(address), "nothing was changed; try again")
    for section in sections[:-1]:
        head, _, body = section.partition("\n")
        how, _, name = head.partition(" ")
        name = name.strip().lstrip("/")
        if how == "rights":
            refused.add(name)
        elif how == "log":
            files["kernel.log"] = body.encode("latin-1")
        else:
            try:
                files[name] = base64.b64decode("".join(body.split())) if how == "base64" else bytes.fromhex("".join(body.split()))
            except (binascii.Error, ValueError):
                raise SourceError(f"the answer for {name[:80]} is damaged", str(address), "nothing was changed; try again") from None
    return KeptFiles(files, frozenset(refused))
