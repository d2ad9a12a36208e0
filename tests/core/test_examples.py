"""The examples in the docstrings of the core do what they say."""

from __future__ import annotations

import doctest
import pkgutil
from importlib import import_module

import cultrix_core
import pytest

MODULES = sorted(
    module.name
    for module in pkgutil.walk_packages(cultrix_core.__path__, "cultrix_core.")
    if not module.name.endswith("__main__")
)


def test_there_are_examples() -> None:
    finder = doctest.DocTestFinder()
    assert sum(bool(test.examples) for name in MODULES for test in finder.find(import_module(name))) >= 3


@pytest.mark.parametrize("name", MODULES)
def test_examples(name: str) -> None:
    assert doctest.testmod(import_module(name)).failed == 0
