"""The sample pieces drawn in a process of their own, beside the server that already answers."""

import multiprocessing
import threading
from multiprocessing.connection import Connection

from nebrel.demo.load import COMPLETE, INCOMPLETE, Told, load_demo
from nebrel.settings import Settings


def draw_beside(settings: Settings, told: Told) -> threading.Thread:
    """Begin to draw; `told` hears of every piece, in a thread that ends when all are there or the server does."""
    thread = threading.Thread(target=_follow, args=(settings, told), name="demo", daemon=True)
    thread.start()
    return thread


def _follow(settings: Settings, told: Told) -> None:
    context = multiprocessing.get_context("spawn")
    ours, theirs = context.Pipe(duplex=False)
    process = context.Process(target=_draw, args=(settings, theirs), daemon=True, name="nebrel-demo")
    process.start()
    theirs.close()
    try:
        while True:
            told(*ours.recv())
    except EOFError:
        process.join()
    print(COMPLETE if process.exitcode == 0 else INCOMPLETE, flush=True)


def _draw(settings: Settings, connection: Connection) -> None:
    load_demo(settings, lambda piece_id, revision: connection.send((piece_id, revision)))
