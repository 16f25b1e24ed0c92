"""Measure the typefaces that ship and write src/kizami/data/typeface-facts.json.

Run it after a typeface was added: PYTHONPATH=src .venv/bin/python scripts/measure-typefaces.py
"""

from __future__ import annotations

import json
from pathlib import Path

from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.lettering.typeface_facts import measure_typeface

TARGET = Path(__file__).parent.parent / "src" / "kizami" / "data" / "typeface-facts.json"

if __name__ == "__main__":
    facts = {code: measure_typeface(shipped_typeface(code)).to_table() for code in shipped_typeface_codes()}
    TARGET.write_text(json.dumps(facts, indent=1, ensure_ascii=False, sort_keys=True) + "\n", "utf-8")
