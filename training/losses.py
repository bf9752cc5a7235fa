"""What is asked of the network: depths up to a shift, steps between neighbours, normals, order, thickness, leaps."""

from dataclasses import dataclass

import torch
from torch import Tensor
from torch.nn import functional as of

PAIRS, APART, SOFT = 256, 0.04, 0.05
SCALES = (1, 2, 4)


@dataclass(frozen=True)
class Truth:
    """Truths of a batch, see `training.samples.Sample`; all float (B, C, N, N)."""

    covered: Tensor
    middle: Tensor
    thick: Tensor
    swollen: Tensor
    normals: Tensor
    edges: Tensor


def loss_of(said: Tensor, truth: Truth) -> tuple[Tensor, dict[str, float]]:
    """One number to make small, and its parts, each about 1 at the start of a training or below."""
    there = truth.covered
    inside = there.sum(dim=(1, 2, 3), keepdim=True).clamp(min=1)
    middle, thick, unsure = said[:, :1], said[:, 1:2], said[:, 6:7].clamp(-6, 3)
    front = middle + truth.swollen * torch.exp(thick.clamp(-2.5, 2.5))
    true_front = truth.middle + truth.swollen * torch.exp(truth.thick)

    def centred(values: Tensor) -> Tensor:
        return (values - (values * there).sum(dim=(1, 2, 3), keepdim=True) / inside) * there

    def mean(values: Tensor) -> Tensor:
        return ((values * there).sum(dim=(1, 2, 3), keepdim=True) / inside).mean()

    off = centred(front) - centred(true_front)
    depth = mean(off.abs())
    middles = mean((centred(middle) - centred(truth.middle)).abs())
    thickness = mean((thick - truth.thick).abs() * (truth.swollen + 0.02)) * 4
    steps = sum(_steps(off, there, scale) for scale in SCALES) / len(SCALES)
    normals = mean(1 - of.cosine_similarity(said[:, 2:5], truth.normals, dim=1, eps=1e-4).unsqueeze(1))
    facing = 1 - of.cosine_similarity(_normals_of(front, there), truth.normals, dim=1, eps=1e-4).unsqueeze(1)
    level = _inner(there) * (1 - truth.edges)
    bent = (facing * level).sum() / level.sum().clamp(min=1)
    leaps = of.binary_cross_entropy_with_logits(said[:, 5:6], truth.edges, there, reduction="sum") / inside.sum()
    order = _order(front, true_front, there)
    doubt = mean(off.abs().detach() * 20 * torch.exp(-unsure) + unsure) * 0.02
    parts = {
        "depth": 8 * depth,
        "middle": 4 * middles,
        "thick": thickness,
        "steps": 20 * steps,
        "normals": 1.0 * normals,
        "bent": 1.5 * bent,
        "leaps": 0.3 * leaps,
        "order": 0.3 * order,
        "doubt": doubt,
    }
    return sum(parts.values(), torch.zeros(())), {name: float(part.detach()) for name, part in parts.items()}


def _steps(off: Tensor, there: Tensor, scale: int) -> Tensor:
    """How much the error changes from place to place, where both are inside."""
    total = torch.zeros(())
    for axis in (2, 3):
        count = off.shape[axis] - scale
        both = there.narrow(axis, 0, count) * there.narrow(axis, scale, count)
        change = (off.narrow(axis, 0, count) - off.narrow(axis, scale, count)).abs()
        total = total + (change * both).sum() / both.sum().clamp(min=1) / scale
    return total


def _normals_of(front: Tensor, there: Tensor) -> Tensor:
    """Unit normals by central differences, (B, 3, N, N); lengths are in longer sides of the box."""
    from nebrel.core.figure.network import FILLED

    pitch = 1 / (FILLED * front.shape[-1])
    filled = front * there
    across = (filled.roll(-1, 3) - filled.roll(1, 3)) / (2 * pitch)
    down = (filled.roll(-1, 2) - filled.roll(1, 2)) / (2 * pitch)
    return of.normalize(torch.cat([-across, down, torch.ones_like(across)], dim=1), dim=1)


def _inner(there: Tensor) -> Tensor:
    return 1 - of.max_pool2d(1 - there, 3, stride=1, padding=1)


def _order(front: Tensor, true_front: Tensor, there: Tensor) -> Tensor:
    """Whether of two places the nearer one is said to be nearer (after Chen and others, "Single-Image Depth Perception
    in the Wild", 2016)."""
    batch = front.shape[0]
    size = front[0].numel()
    one, other = (torch.randint(size, (batch, PAIRS)) for _ in range(2))
    said, true, inside = (values.reshape(batch, -1) for values in (front, true_front, there))
    apart = true.gather(1, one) - true.gather(1, other)
    counts = inside.gather(1, one) * inside.gather(1, other) * (apart.abs() > APART)
    wrong = of.softplus(-(said.gather(1, one) - said.gather(1, other)) * apart.sign() / SOFT)
    return (wrong * counts).sum() / counts.sum().clamp(min=1)
