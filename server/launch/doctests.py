"""Run the examples in docstrings: ``python -m launch.doctests PACKAGE …``. Prints how many there were."""

from __future__ import annotations

import doctest
import importlib
import pkgutil
import sys
from types import ModuleType


def modules(package: str) -> list[ModuleType]:
    """A module, or a package and every module below it, but for those that run when they are imported."""
    root = importlib.import_module(package)
    below = pkgutil.walk_packages(getattr(root, "__path__", []), f"{package}.")
    names = [one.name for one in below if not one.name.endswith("__main__")]
    return [root, *(importlib.import_module(name) for name in names)]


def main() -> None:
    tried = failed = 0
    for package in sys.argv[1:]:
        for module in modules(package):
            result = doctest.testmod(module)
            tried, failed = tried + result.attempted, failed + result.failed
    print(f"Ran {tried} examples, {failed} failed")
    sys.exit(failed > 0)


if __name__ == "__main__":
    main()
