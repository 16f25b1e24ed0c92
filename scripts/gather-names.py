"""Write src/kizami/data/forecast-names.txt: the names that a forecast tries when it is given none.

A thousand real given and family names of eight locales from faker (MIT licence, beside the file).
Run it once: PYTHONPATH=src:. .venv/bin/python scripts/gather-names.py
"""

from __future__ import annotations

from pathlib import Path

from benchmarks.names import names

TARGET = Path(__file__).parent.parent / "src" / "kizami" / "data" / "forecast-names.txt"

if __name__ == "__main__":
    TARGET.write_text("\n".join(names(1000)) + "\n", "utf-8")
