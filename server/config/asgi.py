import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
django_application = get_asgi_application()

from channels.auth import AuthMiddlewareStack  # noqa: E402
from channels.routing import ProtocolTypeRouter, URLRouter  # noqa: E402
from django.urls import path  # noqa: E402
from live.consumers import LivePicture  # noqa: E402

from config.limits import BodyLimit  # noqa: E402
from config.origin import SameOrigin  # noqa: E402

application = ProtocolTypeRouter(
    {
        "http": BodyLimit(django_application),
        "websocket": SameOrigin(
            AuthMiddlewareStack(URLRouter([path("live/<uuid:material_id>/", LivePicture.as_asgi())]))
        ),
    }
)
