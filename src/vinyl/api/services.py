"""What a router gets of the server that it belongs to."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Request

from vinyl.operations.services import Services


def get_services(request: Request) -> Services:
    """The services that the application was made with."""
    services: Services = request.app.state.services
    return services


Use = Annotated[Services, Depends(get_services)]
