"""Asks a machine for what changed since the last time; carries on after drop-outs and restarts, and says what was missed."""

from __future__ import annotations

import http.client
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import urlsplit

from lesna.devices.machine_data import LARGEST, Answer, BufferPassed, Observation, StreamProblem, answer_of
from lesna.model.errors import InputError

#: seconds that a machine may take to answer, and observations that are asked for at once
TIMEOUT, _AT_ONCE = 4.0, 20_000
Fetch = Callable[[str], bytes]


@dataclass(frozen=True)
class Heard:
    """What one question brought.

    Attributes
    ----------
    observations : tuple of Observation
        New ones, in their order.
    until : float
        When the machine said so [s since 1970]: until then nothing else has changed.
    is_missing : bool
        Whether something in between is lost: the machine was restarted, or no longer holds it.
    """

    observations: tuple[Observation, ...]
    until: float
    is_missing: bool


class MachineClient:
    """One machine.

    Parameters
    ----------
    url : str
        Where its data is served, for example http://machine:5000.
    fetch : callable or None
        Gets a path; over HTTP where left out.

    Raises
    ------
    InputError
        When that is no address.
    """

    def __init__(self, url: str, fetch: Fetch | None = None) -> None:
        self.url = checked_url(url)
        self._fetch = fetch or _over_http(self.url)
        self._instance: str | None = None
        self._next = 1
        #: part of the machine that turns the tool; axes have loads too
        self._spindle: str | None = None

    def ask(self) -> Heard:
        """What is new (StreamProblem when there is no answer that can be read; the next question carries on)."""
        if self._instance is None:
            return self._begin(is_missing=False)
        try:
            found = self._answer(f"/sample?from={self._next}&count={_AT_ONCE}")
        except BufferPassed:
            return self._begin(is_missing=True)
        if found.instance != self._instance or found.next < self._next:
            return self._begin(is_missing=True)
        is_missing = found.first > self._next
        new = tuple(one for one in found.observations if one.sequence >= self._next)
        self._next = found.next
        return Heard(self._of_the_spindle(new), found.made, is_missing)

    def _begin(self, *, is_missing: bool) -> Heard:
        """The machine as it stands now; what it says later is asked for from here on."""
        found = self._answer("/current")
        self._instance, self._next = found.instance, found.next
        turning = [one.part for one in found.observations if one.key == "rpm"]
        loaded = {one.part for one in found.observations if one.key == "load"}
        self._spindle = next((part for part in turning if part in loaded), None)
        return Heard(self._of_the_spindle(found.observations), found.made, is_missing)

    def _of_the_spindle(self, observations: tuple[Observation, ...]) -> tuple[Observation, ...]:
        """Without loads and speeds of other axes, where the machine tells them apart."""
        if self._spindle is None:
            return observations
        return tuple(one for one in observations if one.key not in ("load", "rpm") or one.part == self._spindle)

    def _answer(self, path: str) -> Answer:
        return answer_of(self._fetch(path))


def checked_url(url: str) -> str:
    """An address that machine data can come from (InputError says what it needs)."""
    text = url.strip()
    try:
        parts = urlsplit(text)
        port = parts.port
    except ValueError:
        raise InputError(
            f"'{text[:80]}' is no address; http://machine:5000 is the right form", "machine data"
        ) from None
    if parts.scheme not in ("http", "https") or not parts.hostname or port == 0:
        raise InputError(
            f"'{text[:80]}' is no address of a machine; http://machine:5000 is the right form", "machine data"
        )
    return text.rstrip("/")


def _over_http(url: str) -> Fetch:
    parts = urlsplit(url)
    kind = http.client.HTTPSConnection if parts.scheme == "https" else http.client.HTTPConnection

    def fetch(path: str) -> bytes:
        connection = kind(str(parts.hostname), parts.port, timeout=TIMEOUT)
        try:
            connection.request(
                "GET", f"{parts.path}{path}", headers={"Accept": "application/xml", "Connection": "close"}
            )
            answer = connection.getresponse()
            # a refusal is told in the body of whatever status it comes with
            return answer.read(LARGEST + 1)
        except (OSError, http.client.HTTPException) as error:
            words = getattr(error, "strerror", None) or str(error) or type(error).__name__
            raise StreamProblem(f"does not answer: {str(words).lower()}") from None
        finally:
            connection.close()

    return fetch
