from django.http import HttpRequest, HttpResponse, JsonResponse
from django.urls import path, re_path

from kiteglass.api import api
from kiteglass.front_end import front_end


def nothing_there(request: HttpRequest, name: str) -> HttpResponse:
    """An address of the API that is none, told as the API tells everything."""
    return JsonResponse({"code": "missing", "message": "There is no such address."}, status=404)


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/(?P<name>.*)$", nothing_there),
    re_path(r"^(?P<name>(?!api/).*)$", front_end),
]
