"""Reads the first sheet of a spreadsheet in a process of its own, held to a memory, a time and a number of cells.

A small file may unpack to a thousand times its size or repeat one cell a billion times. `python -m` this module reads
the file from standard input and writes its rows as JSON; whatever goes wrong, only this process ends.
"""

from __future__ import annotations

import datetime
import io
import json
import resource
import sys
import zipfile
from typing import Any

from python_calamine import CalamineError, CalamineWorkbook

MEMORY_MOST = 512 * 1024 * 1024
SECONDS_MOST = 10  # of the processor
UNPACKED_MOST = 60 * 1024 * 1024
CELLS_MOST = 400_000
TOO_LARGE, UNREADABLE = 3, 4  # how it ends


def hold() -> None:
    """Limit this process's memory and processor time."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_MOST, MEMORY_MOST))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS_MOST, SECONDS_MOST))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def rows_in(content: bytes) -> list[list[str]]:
    """Return the cells of the first sheet as text. Raises ValueError for no spreadsheet, OverflowError for too much."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            if sum(one.file_size for one in packed.infolist()) > UNPACKED_MOST:
                raise OverflowError
        with CalamineWorkbook.from_filelike(io.BytesIO(content)) as book:
            sheet = book.get_sheet_by_index(0)
            if sheet.total_height * sheet.total_width > CELLS_MOST:
                raise OverflowError
            return [[_text(cell) for cell in row] for row in sheet.to_python()]
    except (CalamineError, zipfile.BadZipFile, OSError, IndexError) as error:
        raise ValueError("no spreadsheet") from error


def _text(cell: Any) -> str:
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return f"{cell:.10g}"
    if isinstance(cell, datetime.datetime):
        return cell.date().isoformat()
    return str(cell)


def main() -> int:
    hold()
    try:
        rows = rows_in(sys.stdin.buffer.read())
    except (OverflowError, MemoryError):
        return TOO_LARGE
    except ValueError:
        return UNREADABLE
    sys.stdout.write(json.dumps(rows))
    return 0


if __name__ == "__main__":
    sys.exit(main())
