"""Posting to a channel: a file in pieces, each tried again where that helps, resumed where it stopped."""

from __future__ import annotations

import hashlib
import json
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from velvetdrum.channels.limits import ChannelError

TIMEOUT_S = 15.0
FINISH_S = 600.0
"""How long a channel may take to decode what it got."""

MOST_ANSWER = 200_000
_WAITS_S = (0.5, 1.5, 4.0, 8.0)
_PIECE = 4 << 20
_MOST_STUCK = 6


class Refused(ChannelError):
    """A channel will not have a file. `reasons` says why."""

    def __init__(self, reasons: list[str]) -> None:
        super().__init__(". ".join(reasons) + ".")
        self.reasons = reasons


class NotReached(ChannelError):
    """A channel does not answer, or not as it should, however often it is asked."""


@dataclass(frozen=True)
class Service:
    """Where channels are posted to, and how patiently."""

    address: str
    timeout_s: float = TIMEOUT_S
    waits_s: tuple[float, ...] = _WAITS_S
    sleep: Callable[[float], None] = field(default=time.sleep)

    def described(self) -> bytes:
        """The limits that it publishes. Raises NotReached."""
        request = urllib.request.Request(f"{self.address}/channels")
        try:
            with urllib.request.urlopen(request, timeout=self.timeout_s) as answer:
                return bytes(answer.read(MOST_ANSWER))
        except (OSError, ValueError) as problem:
            raise NotReached(_AWAY.format(address=self.address, reason=_reason(problem))) from problem

    def post(
        self,
        channel: str,
        path: Path,
        name: str,
        title: str,
        *,
        upload: str = "",
        captions: bool = False,
        sent: Callable[[int, str], None] = lambda count, upload: None,
        cancelled: Callable[[], bool] = lambda: False,
    ) -> dict[str, Any]:
        """Send a file and have it posted; gives what came back. `upload` goes on with one that was begun; `sent` hears
        how many bytes are there. Raises Refused, NotReached, and Interrupted where `cancelled` turns true."""
        size = path.stat().st_size
        received = 0
        if upload:
            try:
                received = self._whole(self._asked("GET", f"/uploads/{_quoted(upload)}"), "received", size)
            except Refused:
                upload = ""
        if not upload:
            with path.open("rb") as file:
                digest = hashlib.file_digest(file, "sha256").hexdigest()
            wanted = {"name": name, "title": title, "bytes": size, "sha256": digest, "captions": captions}
            result = self._asked("POST", f"/channels/{_quoted(channel)}/uploads", wanted)
            upload, received = self._word(result, "upload"), 0
        stuck = 0
        with path.open("rb") as file:
            while received < size:
                if cancelled():
                    raise Interrupted
                sent(received, upload)
                file.seek(received)
                result = self._asked("PUT", f"/uploads/{_quoted(upload)}?at={received}", file.read(_PIECE))
                before, received = received, self._whole(result, "received", size)
                stuck = 0 if received > before else stuck + 1
                if stuck > _MOST_STUCK:
                    raise NotReached("The channel takes no more pieces of it. Try it again later.")
        sent(received, upload)
        return self._asked("POST", f"/uploads/{_quoted(upload)}/finish", {}, timeout_s=FINISH_S)

    def _asked(self, method: str, path: str, body: Any = None, *, timeout_s: float | None = None) -> dict[str, Any]:
        """An answer as an object; what is not one, comes late or not at all is tried again."""
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        sort = "application/octet-stream" if isinstance(body, bytes) else "application/json"
        problem = ""
        for wait in (0.0, *self.waits_s):
            self.sleep(wait)
            request = urllib.request.Request(f"{self.address}{path}", data, {"Content-Type": sort}, method=method)
            try:
                with urllib.request.urlopen(request, timeout=timeout_s or self.timeout_s) as answer:
                    return _object(answer.read(MOST_ANSWER))
            except urllib.error.HTTPError as refusal:
                result = _object_or_none(refusal.read(MOST_ANSWER))
                if refusal.code == 409 and result is not None and "received" in result:
                    # It has more, or less, than was thought: the next piece begins there.
                    return result
                if refusal.code < 500 and refusal.code != 429:
                    raise Refused(_reasons(result, refusal.code)) from refusal
                problem = (result or {}).get("error") or f"it answers with {refusal.code}"
            except (OSError, ValueError) as failure:
                problem = _reason(failure)
        raise NotReached(_AWAY.format(address=self.address, reason=problem))

    @staticmethod
    def _whole(found: dict[str, Any], name: str, most: int) -> int:
        value = found.get(name)
        if not isinstance(value, int) or isinstance(value, bool) or not 0 <= value <= most:
            raise NotReached(_GARBLED)
        return value

    @staticmethod
    def _word(found: dict[str, Any], name: str) -> str:
        value = found.get(name)
        if not isinstance(value, str) or not 0 < len(value) <= 200:
            raise NotReached(_GARBLED)
        return value


class Interrupted(Exception):
    """Somebody stopped it."""


_AWAY = "The channel's service at {address} can't be reached: {reason}. Try it again later; what was sent is kept."
_GARBLED = "The channel answers in a way that is no answer to an upload. Try it again later."


def _quoted(word: str) -> str:
    return urllib.parse.quote(word, safe="")


def _object(data: bytes) -> dict[str, Any]:
    result = _object_or_none(data)
    if result is None:
        raise ValueError("its answer can't be read")
    return result


def _object_or_none(data: bytes) -> dict[str, Any] | None:
    try:
        result = json.loads(data)
    except (ValueError, RecursionError):
        return None
    return result if isinstance(result, dict) else None


def _reasons(found: dict[str, Any] | None, code: int) -> list[str]:
    given = (found or {}).get("reasons")
    if isinstance(given, list) and given:
        return [str(reason)[:300] for reason in given[:10]]
    return [str((found or {}).get("error") or f"It answers with {code}")[:300].removesuffix(".")]


def _reason(problem: BaseException) -> str:
    inner = getattr(problem, "reason", None)
    if isinstance(problem, TimeoutError) or isinstance(inner, TimeoutError):
        return "it does not answer in time"
    if isinstance(inner, OSError) and inner.strerror:
        return inner.strerror.lower()
    return str(inner or problem) or "no answer"
