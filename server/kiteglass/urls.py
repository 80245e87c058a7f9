from django.urls import path, re_path

from kiteglass.api import api
from kiteglass.front_end import front_end

urlpatterns = [
    path("api/", api.urls),
    re_path(r"^(?P<name>(?!api/).*)$", front_end),
]
