"""Access tokens with names: for everyone who works on this server from elsewhere, one of their own."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select

from nebrel.core.errors import BadValueError, ConflictError, NotFoundError
from nebrel.store.database import Database
from nebrel.store.tables import TokenRow

_BYTES = 24
LONGEST_NAME = 80


@dataclass(frozen=True)
class AccessToken:
    """A token that was given out; the token itself is not kept."""

    name: str
    created: datetime


class AccessTokens:
    """The tokens that open this server."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[AccessToken]:
        """All of them, the oldest first."""
        with self._database.reading() as session:
            rows = session.scalars(select(TokenRow).order_by(TokenRow.id))
            return [AccessToken(row.name, row.created.replace(tzinfo=UTC)) for row in rows]

    def add(self, name: str) -> str:
        """A new token, which is told this once.

        Raises:
            BadValueError: the name is empty or longer than 80 letters.
            ConflictError: there is one of this name.
        """
        if not 0 < len(name.strip()) <= LONGEST_NAME:
            raise BadValueError(f"A token needs a name of up to {LONGEST_NAME} letters, such as whose it is.")
        token = secrets.token_urlsafe(_BYTES)
        with self._database.writing() as session:
            if session.scalar(select(TokenRow).where(TokenRow.name == name.strip())) is not None:
                raise ConflictError(f"There is a token named {name.strip()} already; revoke it first, or name another.")
            session.add(TokenRow(name=name.strip(), digest=_digest(token)))
        return token

    def revoke(self, name: str) -> None:
        """Let a token open nothing any more.

        Raises:
            NotFoundError: there is none of this name.
        """
        with self._database.writing() as session:
            row = session.scalar(select(TokenRow).where(TokenRow.name == name.strip()))
            if row is None:
                raise NotFoundError(f"There is no token named {name.strip()}.")
            session.delete(row)

    def holder(self, token: str) -> str | None:
        """The name that a token was given out under; None where it opens nothing."""
        with self._database.reading() as session:
            return session.scalar(select(TokenRow.name).where(TokenRow.digest == _digest(token)))


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
