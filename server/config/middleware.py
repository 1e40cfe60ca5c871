"""What every answer goes through."""

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpResponse, JsonResponse
from whitenoise.middleware import WhiteNoiseMiddleware

POLICY = "; ".join(
    [
        "default-src 'self'",
        "img-src 'self' blob: data:",
        "style-src 'self' 'unsafe-inline'",
        "connect-src 'self'",
        "frame-ancestors 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "object-src 'none'",
    ]
)


class ContentSecurityPolicy:
    """Everything comes from this server."""

    sync_capable = async_capable = True

    def __init__(self, get_response):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request):
        if iscoroutinefunction(self):
            return self._later(request)
        return self._marked(self.get_response(request))

    async def _later(self, request):
        return self._marked(await self.get_response(request))

    @staticmethod
    def _marked(response):
        response["Content-Security-Policy"] = POLICY
        return response


class SignInRequired(LoginRequiredMiddleware):
    """Every view is for signed-in people, but for those that let them in; the API answers 401 in place of a way in."""

    def handle_no_permission(self, request, view_func):
        if request.path.startswith("/api/"):
            return JsonResponse({"detail": "Sign in first."}, status=401)
        return super().handle_no_permission(request, view_func)


class SignedInStatic(WhiteNoiseMiddleware):
    """Serves the built web application, to signed-in people only, each small file in one piece."""

    def __call__(self, request):
        if not request.user.is_authenticated:
            return self.get_response(request)
        return super().__call__(request)

    @staticmethod
    def serve(static_file, request):
        answer = static_file.get_response(request.method, request.META)
        body = b""
        if answer.file is not None:
            with answer.file as file:
                body = file.read()
        response = HttpResponse(body, status=int(answer.status))
        del response["content-type"]
        for name, value in answer.headers:
            response[name] = value
        return response
