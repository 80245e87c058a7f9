"""Whether files, functions and lines stay as short as a reader can take in. Prints those that do not; exits 1 then.

Files have at most 350 lines, functions 60, lines 130 characters. A line may be longer if it holds one string or ends in a
comment that says why (``# long: …``).
"""

from __future__ import annotations

import ast
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

MOST_LINES, MOST_IN_FUNCTION, LONGEST_LINE = 350, 60, 130
ENDINGS = {".py", ".ts", ".vue", ".sh"}
#: Recorded or made by programs.
EXCEPT = ("web/package-lock.json", "/migrations/")


def long_functions(path: Path, text: str) -> Iterator[str]:
    if path.suffix != ".py":
        return
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) and node.end_lineno:
            lines = node.end_lineno - node.lineno + 1
            if lines > MOST_IN_FUNCTION:
                yield f"{path}:{node.lineno}: {node.name} has {lines} lines"


def faults() -> Iterator[str]:
    listed = subprocess.run(
        ["git", "ls-files", "-co", "--exclude-standard"], capture_output=True, text=True, check=True
    )
    for name in listed.stdout.splitlines():
        path = Path(name)
        if (path.suffix not in ENDINGS and path.parent.name != "bin") or any(part in name for part in EXCEPT):
            continue
        if not path.is_file():
            continue
        text = path.read_text()
        lines = text.splitlines()
        if len(lines) > MOST_LINES:
            yield f"{path}: {len(lines)} lines"
        for number, line in enumerate(lines, 1):
            if len(line) > LONGEST_LINE and "# long:" not in line:
                yield f"{path}:{number}: {len(line)} characters"
        yield from long_functions(path, text)


if __name__ == "__main__":
    found = list(faults())
    print("\n".join(found))
    sys.exit(bool(found))
