"""Headers on every answer, and no changes asked for by other sites.

Written as plain ASGI: it runs on every request.
"""

import math
import time
from urllib.parse import urlsplit

from anyio import to_thread
from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from amber_gable.services.app.machine.addresses import own_addresses, own_names

CONTENT_SECURITY_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "worker-src 'self'",
        "form-action 'self'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)
_HEADERS = {
    "content-security-policy": CONTENT_SECURITY_POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    # What a phone tells our answers by from those of a network that wants a sign-in first (worker.js).
    "x-served-by": "amber-gable",
}
_LOOK_AGAIN_S = 30.0
_SAFE = ("GET", "HEAD", "OPTIONS")
# It changes nothing, so anyone may ask (reckonings.md).
_OPEN_PREFIX = "/api/reckon/"


def is_foreign(headers: Headers) -> bool:
    """Return whether a browser says that another site sent this request.

    Browsers send Sec-Fetch-Site or Origin with every form and script request; tools send neither
    and carry no cookies of a victim.
    """
    site = headers.get("sec-fetch-site")
    if site is not None:
        return site not in ("same-origin", "none")
    origin = headers.get("origin")
    return origin is not None and urlsplit(origin).netloc != headers.get("host")


class Hosts:
    """The names by which the application may be called.

    Any other name, which a stranger's site may let point here to read and write as if from this page, is refused.

    Parameters
    ----------
    more : str
        Names beside the machine's own, with commas between; "*" lets any pass.
    """

    def __init__(self, more: str = "") -> None:
        self.extra = {name.strip().lower() for name in more.split(",") if name.strip()}
        self._own: set[str] = set()
        self._looked_at_s = -math.inf

    async def allow(self, host: str) -> bool:
        """Return whether a request may call the application by a Host header."""
        if "*" in self.extra:
            return True
        try:
            name = (urlsplit(f"//{host}").hostname or "").rstrip(".").lower()
        except ValueError:
            return False
        if name in self.extra:
            return True
        # The network may have given the machine another address since. A name server that does not answer holds up nobody else.
        if name not in self._own and time.monotonic() - self._looked_at_s > _LOOK_AGAIN_S:
            self._looked_at_s = time.monotonic()
            self._own = await to_thread.run_sync(lambda: {*own_names(), *own_addresses()})
        return name in self._own


class SecurityMiddleware:
    def __init__(self, app: ASGIApp, hosts: Hosts) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
                if not scope["path"].startswith("/static/"):
                    # Pages show live state: the back button must not bring an old forecast.
                    headers.setdefault("cache-control", "no-store")
            await send(message)

        headers = Headers(scope=scope)
        if not await self.hosts.allow(headers.get("host", "")):
            refusal = PlainTextResponse(
                "This address is not one of this machine's. If it is yours, name it in AMBER_GABLE_HOSTS and start again.", 421
            )
            await refusal(scope, receive, with_headers)
            return
        changes = scope["method"] not in _SAFE and not scope["path"].startswith(_OPEN_PREFIX)
        if changes and is_foreign(headers):
            refusal = PlainTextResponse("This change was asked for by another site and was refused.", 403)
            await refusal(scope, receive, with_headers)
            return
        await self.app(scope, receive, with_headers)
