"""Write the API's description to `web/openapi.json`, from which the typed client is generated."""

import json
import sys
from pathlib import Path

from nebrel.api.app import create_app
from nebrel.settings import Settings

TARGET = Path(__file__).parent.parent / "web" / "openapi.json"


def main() -> None:
    """Write the file, or with `--check` fail when it is out of date."""
    text = json.dumps(create_app(Settings()).openapi(), indent=1) + "\n"
    if "--check" in sys.argv[1:]:
        if TARGET.read_text() != text:
            sys.exit("web/openapi.json is out of date; run `make client` and commit the result.")
        return
    TARGET.write_text(text)


if __name__ == "__main__":
    main()
