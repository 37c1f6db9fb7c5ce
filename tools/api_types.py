"""The TypeScript types of the API, generated from its OpenAPI document.

python -m tools.api_types            write frontend/src/kit/api/schema.d.ts
python -m tools.api_types --check    exit 1 if that file is not what would be written
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
TARGET = ROOT / "frontend" / "src" / "kit" / "api" / "schema.d.ts"


def generated() -> str:
    from true_backdrop.web.app import create_app

    with tempfile.TemporaryDirectory() as name:
        document, out = Path(name) / "openapi.json", Path(name) / "schema.d.ts"
        document.write_text(json.dumps(create_app().openapi(), sort_keys=True))
        subprocess.run(
            ["npx", "--no-install", "openapi-typescript", str(document), "-o", str(out)],
            cwd=ROOT / "frontend",
            check=True,
            capture_output=True,
        )
        return out.read_text()


def main() -> int:
    text = generated()
    if "--check" in sys.argv:
        if TARGET.is_file() and TARGET.read_text() == text:
            return 0
        print(f"{TARGET.relative_to(ROOT)} is not current; run: python -m tools.api_types")
        return 1
    TARGET.parent.mkdir(parents=True, exist_ok=True)
    TARGET.write_text(text)
    return 0


if __name__ == "__main__":
    sys.exit(main())
