"""The application as an ASGI server runs it."""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent.parent / "core"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kiteglass.settings")
os.environ.setdefault("KITE_CONNECTIONS", "60")

from django.core.asgi import get_asgi_application

application = get_asgi_application()

# It keeps what it finds, so its tables have to be known.
from rendering.warm import warm_up  # noqa: E402

warm_up()
