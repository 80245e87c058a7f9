"""Tests of the core. How quickly examples are made says something of the machine and nothing of the code."""

from hypothesis import HealthCheck, settings

settings.register_profile("kite", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("kite")
