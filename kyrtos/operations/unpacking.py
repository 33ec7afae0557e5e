"""A shop's file unpacked once, in a process of its own under limits, before the worker trusts it.

``python -m kyrtos.operations.unpacking FILE`` says ``ok``, or what is wrong with it. It knows
neither Django nor the database: what it dies of, it dies of alone.
"""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path

_ROOT = Path(__file__).resolve().parents[2]
_MOST_CPU_S, _MOST_WAIT_S, _MOST_MEMORY_BYTES = 120, 240, 3 * 1024**3
_CHUNK = 1 << 20
_MOST_PART_BYTES = {"shop.json": 8_000_000, "people.json": 8_000_000, "rules.json": 8_000_000}
_MOST_JSON_BYTES, _MOST_JOB_BYTES = 400_000_000, 60_000_000
_MOST_HELD, _MOST_DEPTH = 6_000_000, 60  # lists and objects in a part; how deep they lie
_TOO_MUCH = "it takes more time or memory to read than the data of any shop"


def problem_of(content: bytes) -> str:
    """What is wrong with a shop's file; '' when every part of it can be unpacked and read."""
    with tempfile.NamedTemporaryFile(prefix="kyrtos-shop-") as held:
        held.write(content)
        held.flush()
        command = [sys.executable, "-m", "kyrtos.operations.unpacking", held.name]
        try:
            run = subprocess.run(
                command, capture_output=True, text=True, timeout=_MOST_WAIT_S, cwd=_ROOT
            )
        except subprocess.TimeoutExpired:
            return _TOO_MUCH
    if run.returncode:
        return _TOO_MUCH
    told = run.stdout.strip()
    return "" if told == "ok" else told


def main() -> None:
    """Look at the file that the command line names."""
    resource.setrlimit(resource.RLIMIT_CPU, (_MOST_CPU_S, _MOST_CPU_S))
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
    print(_looked_at(Path(sys.argv[1])) or "ok")


def _looked_at(path: Path) -> str:
    try:
        with zipfile.ZipFile(path) as held:
            for one in held.infolist():
                problem = _part(held, one)
                if problem:
                    return f"{one.filename[:80]}: {problem}"
    except MemoryError:
        return _TOO_MUCH
    except Exception as problem:  # a packed stream that is damaged raises what its method raises
        return f"the ZIP is damaged ({type(problem).__name__})"
    return ""


def _part(held: zipfile.ZipFile, one: zipfile.ZipInfo) -> str:
    """What is wrong with one part; it is read by pieces, so that its limits act meanwhile."""
    is_json = one.filename.endswith(".json")
    most = _MOST_PART_BYTES.get(one.filename, _MOST_JSON_BYTES)
    if one.filename.startswith("jobs/"):
        most = _MOST_JOB_BYTES
    pieces, size, opened = [], 0, 0
    with held.open(one) as stream:
        while piece := stream.read(_CHUNK):
            size += len(piece)
            opened += piece.count(b"[") + piece.count(b"{")
            if size > most:
                return f"it unpacks to more than {most // 1_000_000} MB"
            if is_json and opened > _MOST_HELD:
                return f"it holds more than {_MOST_HELD:,} lists"
            if is_json:
                pieces.append(piece)
    return _json_problem(b"".join(pieces)) if is_json else ""


def _json_problem(content: bytes) -> str:
    try:
        found = json.loads(content)  # a parser's own recursion ends at a thousand
    except (ValueError, RecursionError):
        return "it is no JSON, or lies too deep in itself"
    return f"it lies more than {_MOST_DEPTH} deep in itself" if _too_deep(found) else ""


def _too_deep(found: object) -> bool:
    level, depth = [found], 0
    while level:
        depth += 1
        if depth > _MOST_DEPTH:
            return True
        level = [
            inner
            for one in level
            if isinstance(one, dict | list)
            for inner in (one.values() if isinstance(one, dict) else one)
            if isinstance(inner, dict | list)
        ]
    return False


if __name__ == "__main__":
    main()
