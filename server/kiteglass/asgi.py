"""The application as an ASGI server runs it."""

import gc
import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent.parent / "core"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kiteglass.settings")
os.environ.setdefault("KITE_CONNECTIONS", "60")

from django.core.asgi import get_asgi_application

framework = get_asgi_application()

# What they need has to be known to the framework first.
from kitecore.memory import give_back_large_blocks  # noqa: E402
from kiteglass.bodies import guarded  # noqa: E402
from rendering.warm import warm_up  # noqa: E402

give_back_large_blocks()
application = guarded(framework)
# What is loaded by now stays: looking through it for garbage would hold up a look by 0.15 s every now and then.
gc.collect()
gc.freeze()
warm_up()
