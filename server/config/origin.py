"""A socket is opened by a page of this server alone."""

from urllib.parse import urlsplit

from channels.security.websocket import WebsocketDenier
from django.conf import settings
from django.http.request import split_domain_port, validate_host


class SameOrigin:
    """ASGI middleware for sockets: their Origin, with its port, is the host that they came to, and that host is ours."""

    def __init__(self, application):
        self.application = application

    async def __call__(self, scope, receive, send):
        if _is_ours(dict(scope["headers"])):
            return await self.application(scope, receive, send)
        return await WebsocketDenier()(scope, receive, send)


def _is_ours(headers: dict[bytes, bytes]) -> bool:
    host = headers.get(b"host", b"").decode("latin-1").lower()
    name, _ = split_domain_port(host)
    if not validate_host(name, settings.ALLOWED_HOSTS):
        return False
    try:
        origin = urlsplit(headers.get(b"origin", b"").decode("latin-1").lower())
    except ValueError:
        return False
    return origin.scheme in ("http", "https") and origin.netloc == host
