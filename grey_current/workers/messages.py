"""Values that go through a pipe between the program and its helpers, each with its length before
it.
"""

from __future__ import annotations

import pickle
import struct
from typing import IO, Any

_LENGTH = struct.Struct("=Q")


def packed(value: object) -> bytes:
    """A value as it goes through a pipe. Raises what `pickle` does for one that cannot."""
    body = pickle.dumps(value, protocol=pickle.HIGHEST_PROTOCOL)
    return _LENGTH.pack(len(body)) + body


def received(pipe: IO[bytes]) -> Any:
    """The next value; waits for it. Raises `EOFError` when the other side has gone."""
    head = pipe.read(_LENGTH.size)
    if len(head) < _LENGTH.size:
        raise EOFError
    (length,) = _LENGTH.unpack(head)
    body = pipe.read(length)
    if len(body) < length:
        raise EOFError
    return pickle.loads(body)  # nobody else writes into this pipe
