from django.apps import AppConfig


class Deliveries(AppConfig):
    name = "deliveries"

    def ready(self) -> None:
        # What it does is told to the framework by being there.
        from deliveries import approval  # noqa: F401
