"""`nebrel tokens`: who may work on this server from elsewhere."""

from pathlib import Path
from typing import Annotated

import typer


def tokens(
    add: Annotated[str | None, typer.Option(help="Give out a new token under this name.")] = None,
    revoke: Annotated[str | None, typer.Option(help="Let the token of this name open nothing any more.")] = None,
    data: Annotated[Path | None, typer.Option(help="Folder that keeps pieces and results.")] = None,
) -> int:
    """Tell who may work on this server from elsewhere: list the access tokens, give one out, or revoke one.

    A server that runs goes by it at once.
    """
    from nebrel.jobs.workshop import open_workshop
    from nebrel.settings import Settings

    settings = Settings() if data is None else Settings(data_dir=data)
    workshop = open_workshop(settings)
    try:
        if revoke is not None:
            workshop.tokens.revoke(revoke)
            print(f"{revoke} is revoked.")
        if add is not None:
            print(f"{add}: {workshop.tokens.add(add)}")
            print("Open the server's address with /?token= and this behind it; it is not shown again.")
        if add is None and revoke is None:
            given = workshop.tokens.all()
            for each in given:
                print(f"{each.name}, since {each.created:%Y-%m-%d}")
            if not given:
                print("No token was given out; give one out with --add NAME.")
    finally:
        workshop.close()
    return 0
