"""The typed API. Its OpenAPI schema is the contract with the web."""

import logging
from dataclasses import asdict

from accounts.api import router as accounts
from devices.api import router as devices
from django.core.exceptions import SuspiciousOperation
from django.http import HttpRequest
from django.http.multipartparser import MultiPartParserError
from handovers.api import router as handovers
from library.api import router as library
from live.consumers import Here, ProofKept, TrialKept
from live.messages import MESSAGES
from materials.api import router as materials
from nineglass.describe import Fault, Refused
from nineglass.documents.model import fault_of_error
from ninja import NinjaAPI
from ninja.errors import ValidationError
from ninja.security import django_auth
from people.api import router as people
from pictures.api import router as pictures
from pydantic.json_schema import models_json_schema
from stages.api import router as stages
from trials.api import router as trials

from config.errors import logged

log = logging.getLogger(__name__)


class Api(NinjaAPI):
    """The endpoints; its schema has the messages of the live picture's socket as well."""

    def get_openapi_schema(self, **how):
        schema = super().get_openapi_schema(**how)
        _, messages = models_json_schema(
            [(model, "serialization") for model in (*MESSAGES, ProofKept, TrialKept, Here)],
            ref_template="#/components/schemas/{model}",
        )
        known = schema["components"]["schemas"]
        known |= {name: about for name, about in messages["$defs"].items() if name not in known}
        return schema


api = Api(title="Nine Glass", version="1", auth=django_auth, docs_url=None)
api.add_router("", accounts)
api.add_router("materials", materials)
api.add_router("stages", stages)
api.add_router("trials", trials)
api.add_router("pictures", pictures)
api.add_router("handovers", handovers)
api.add_router("devices", devices)
api.add_router("", people)
api.add_router("", library)


def _refuse(request: HttpRequest, faults: list[Fault]):
    return api.create_response(request, {"faults": [asdict(fault) for fault in faults]}, status=422)


@api.exception_handler(Refused)
def refused(request: HttpRequest, error: Refused):
    return _refuse(request, error.faults)


@api.exception_handler(ValidationError)
def not_valid(request: HttpRequest, error: ValidationError):
    faults = []
    for one in error.errors:
        steps = [step for step in one["loc"] if step not in ("body", "payload", "query", "path")]
        faults.append(fault_of_error(one | {"loc": steps}))
    return _refuse(request, faults)


@api.exception_handler(MultiPartParserError)
@api.exception_handler(SuspiciousOperation)
def not_understood(request: HttpRequest, error: Exception):
    return _refuse(request, [Fault("body", str(error), "a form as browsers send it", "Send it again.")])


@api.exception_handler(Exception)
def went_wrong(request: HttpRequest, error: Exception):
    number = logged(log, error, f"{request.method} {request.path}")
    return api.create_response(request, {"says": f"This went wrong; the log has it as {number}."}, status=500)
