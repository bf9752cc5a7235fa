"""Train the network of depths, in slices: `python -m training.train --minutes 20` goes on where the last one stopped.

Solids are drawn by a process of its own and looked at several times, each time in another light, paint and hand.
"""

import argparse
import multiprocessing
import time
from collections.abc import Iterator
from copy import deepcopy
from pathlib import Path

import numpy as np
import torch

from training.losses import Truth, loss_of
from training.network import FigureNet
from training.samples import Sample, draw_solid, sample_of

STATE = Path(__file__).parent / ".state" / "checkpoint.pt"
SEED = 20261127
# Share of all the time, side of the picture, pictures at once.
STAGES = ((0.5, 64, 16), (0.85, 96, 12), (1.0, 128, 8))
LOOKS, POOL = 4, 384
RATE, WARM_UP, LEAST_RATE, DECAY = 1.5e-3, 300, 2e-5, 1e-4
AVERAGE = 0.999
TELL, SAVE = 100, 120.0


class Training:
    """The network, its average, the optimiser and how far it is; all of it is kept in one small file."""

    def __init__(self, hours: float) -> None:
        torch.manual_seed(SEED)
        self.net = FigureNet().to(memory_format=torch.channels_last)
        self.average = deepcopy(self.net).eval()
        self.optimiser = torch.optim.AdamW(self.net.parameters(), lr=RATE, weight_decay=DECAY)
        self.step, self.spent, self.total = 0, 0.0, 3600 * hours

    def load(self) -> None:
        """Go on where the last slice stopped, where there was one."""
        if STATE.exists():
            kept = torch.load(STATE, weights_only=True)
            self.net.load_state_dict(kept["net"])
            self.average.load_state_dict(kept["average"])
            self.optimiser.load_state_dict(kept["optimiser"])
            self.step, self.spent = kept["step"], kept["spent"]

    def save(self) -> None:
        """Keep everything; a slice that is stopped while it does so leaves the last file whole."""
        STATE.parent.mkdir(exist_ok=True)
        kept = {
            "net": self.net.state_dict(),
            "average": self.average.state_dict(),
            "optimiser": self.optimiser.state_dict(),
            "step": self.step,
            "spent": self.spent,
        }
        torch.save(kept, STATE.with_suffix(".new"))
        STATE.with_suffix(".new").replace(STATE)

    def stage(self) -> tuple[int, int]:
        """Side of the picture and pictures at once, by how much of the time is spent."""
        done = self.spent / self.total
        return next((side, at_once) for share, side, at_once in (*STAGES, (2.0, 128, 8)) if done < share)

    def learn(self, samples: list[Sample]) -> dict[str, float]:
        """One step."""
        done = min(1.0, self.spent / self.total)
        rate = LEAST_RATE + 0.5 * (RATE - LEAST_RATE) * (1 + np.cos(np.pi * done))
        for group in self.optimiser.param_groups:
            group["lr"] = float(rate) * min(1.0, (self.step + 1) / WARM_UP)
        inputs = torch.from_numpy(np.stack([each.inputs for each in samples])).to(memory_format=torch.channels_last)
        self.net.train()
        loss, parts = loss_of(self.net(inputs), truth_of(samples))
        self.optimiser.zero_grad(set_to_none=True)
        loss.backward()
        torch.nn.utils.clip_grad_norm_(self.net.parameters(), 2.0)
        self.optimiser.step()
        self.step += 1
        keep = min(AVERAGE, 1 - 1 / (1 + self.step / 10))
        with torch.no_grad():
            for mine, its in zip(self.average.state_dict().values(), self.net.state_dict().values(), strict=True):
                if mine.dtype.is_floating_point:
                    mine.lerp_(its, 1 - keep)
                else:
                    mine.copy_(its)
        return {**parts, "all": float(loss.detach())}


def batches(training: Training) -> Iterator[list[Sample]]:
    """Samples without end, of solids that are drawn beside."""
    rng = np.random.default_rng((SEED, training.step))
    while True:
        side, at_once = training.stage()
        context = multiprocessing.get_context("spawn")
        queue = context.Queue(maxsize=64)
        drawer = context.Process(target=_draw, args=(queue, side, int(rng.integers(1 << 30))), daemon=True)
        drawer.start()
        try:
            pool: list[tuple[int, object]] = []
            while training.stage()[0] == side:
                samples = []
                while len(samples) < at_once:
                    while len(pool) < POOL and (not queue.empty() or len(pool) < at_once):
                        pool.append((LOOKS, queue.get()))
                    pick = int(rng.integers(len(pool)))
                    left, seen = pool[pick]
                    samples.append(sample_of(seen, rng))
                    # Where drawing is slower than learning, what is there is looked at more often.
                    if left > 1 or queue.empty():
                        pool[pick] = (max(1, left - 1), seen)
                    else:
                        pool.pop(pick)
                yield samples
        finally:
            drawer.kill()


def _draw(queue: multiprocessing.Queue, side: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    while True:
        queue.put(draw_solid(rng, side))


def truth_of(samples: list[Sample]) -> Truth:
    """What samples should be said of, as the loss takes it."""

    def gathered(name: str) -> torch.Tensor:
        found = np.stack([np.asarray(getattr(each, name), dtype=np.float32) for each in samples])
        return torch.from_numpy(found if found.ndim == 4 else found[:, np.newaxis])

    return Truth(*(gathered(name) for name in ("covered", "middle", "thick", "swollen", "normals", "edges")))


def main() -> None:
    """Train for a slice of time."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=240, help="of this slice")
    parser.add_argument("--hours", type=float, default=4, help="of the whole training, by which its rate falls")
    parser.add_argument("--threads", type=int, default=1)
    wish = parser.parse_args()
    torch.set_num_threads(wish.threads)
    training = Training(wish.hours)
    training.load()
    begun, saved, told = time.perf_counter(), time.perf_counter(), {}
    before = training.spent
    for samples in batches(training):
        parts = training.learn(samples)
        now = time.perf_counter()
        training.spent = before + now - begun
        told = {name: 0.98 * told.get(name, part) + 0.02 * part for name, part in parts.items()}
        if training.step % TELL == 0:
            words = " ".join(f"{name} {part:.3f}" for name, part in told.items())
            print(f"{training.step} {training.spent / 60:.1f} min {len(samples[0].swollen)} px {words}", flush=True)
        over = now - begun > 60 * wish.minutes or training.spent >= training.total
        if over or now - saved > SAVE:
            training.save()
            saved = now
        if over:
            return


if __name__ == "__main__":
    main()
