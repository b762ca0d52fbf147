"""What tests of the core and of the desk share."""

from __future__ import annotations

import pytest

from grey_current.air import compiled


@pytest.fixture(scope="module")
def compiled_kernel():
    """The compiled kernel, as in the program; the other tests go on without it."""
    compiled.load()
    yield
    compiled._loaded.clear()
