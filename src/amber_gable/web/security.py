"""Headers on every answer, and no changes asked for by other sites.

Written as plain ASGI: it runs on every request.
"""

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

CONTENT_SECURITY_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
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
}
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


class SecurityMiddleware:
    def __init__(self, app: ASGIApp) -> None:
        self.app = app

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

        changes = scope["method"] not in _SAFE and not scope["path"].startswith(_OPEN_PREFIX)
        if changes and is_foreign(Headers(scope=scope)):
            refusal = PlainTextResponse("This change was asked for by another site and was refused.", 403)
            await refusal(scope, receive, with_headers)
            return
        await self.app(scope, receive, with_headers)
