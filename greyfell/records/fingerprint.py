"""What a record is known by: conclusions are kept under it."""

import hashlib
import json
from collections.abc import Mapping
from typing import Any


def record_hash(document: Mapping[str, Any]) -> str:
    """A record's fingerprint: SHA-256 over its canonical JSON, whatever the order of its keys."""
    text = json.dumps(
        document, sort_keys=True, separators=(",", ":"), ensure_ascii=False, default=str
    )
    return hashlib.sha256(text.encode()).hexdigest()
