"""Host and Origin are checked, and the page may load nothing but what ships with it."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from true_backdrop.web.errors import problem

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
HEADERS = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-resource-policy", b"same-origin"),
)
LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})


class GuardMiddleware:
    """Refuses requests for another host (DNS rebinding) and writes from another origin (cross-site requests)."""

    def __init__(self, app: ASGIApp, hosts: frozenset[str] = LOOPBACK) -> None:
        self._app = app
        self._hosts = hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket":
            # A page of another address may open sockets to here; browsers do not keep it from that.
            if self._refusal(scope) is not None:
                await send({"type": "websocket.close", "code": 1008})
                return
            await self._app(scope, receive, send)
            return
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        refusal = self._refusal(scope)
        if refusal:
            await problem(403, "Refused", refusal)(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message.get("headers", []), *HEADERS]
            await send(message)

        await self._app(scope, receive, with_headers)

    def _refusal(self, scope: Scope) -> str | None:
        headers = {name: value.decode("latin-1") for name, value in scope["headers"]}
        host = headers.get(b"host", "")
        if urlsplit(f"//{host}").hostname not in self._hosts:
            return f"this address ({host[:80]!r}) is not served here; open the one that was printed at the start"
        origin = headers.get(b"origin")
        if scope.get("method") not in ("GET", "HEAD") and origin and urlsplit(origin).netloc != host:
            return "a page of another address may not change anything here"
        return None
