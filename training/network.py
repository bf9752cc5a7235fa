"""The network: a U-Net at half the resolution of its picture, which says what swelling gets wrong.

After Ronneberger, Fischer and Brox, "U-Net", 2015; pixels go into channels and back by sub-pixel convolution (Shi and
others, "Real-Time Single Image and Video Super-Resolution", 2016).
"""

import torch
from torch import Tensor, nn

from nebrel.core.figure.network import INPUTS, OUTPUTS

WIDTHS = (32, 56, 96, 144, 176)


def _block(entering: int, leaving: int) -> nn.Sequential:
    return nn.Sequential(
        nn.Conv2d(entering, leaving, 3, padding=1, bias=False),
        nn.BatchNorm2d(leaving),
        nn.ReLU(inplace=True),
        nn.Conv2d(leaving, leaving, 3, padding=1, bias=False),
        nn.BatchNorm2d(leaving),
        nn.ReLU(inplace=True),
    )


class FigureNet(nn.Module):
    """Float (B, INPUTS, N, N) in, (B, OUTPUTS, N, N) out; N in whole steps of 32."""

    def __init__(self, widths: tuple[int, ...] = WIDTHS) -> None:
        super().__init__()
        self.into = nn.PixelUnshuffle(2)
        entering = [4 * INPUTS, *widths[:-1]]
        self.down = nn.ModuleList(_block(one, other) for one, other in zip(entering, widths, strict=True))
        pairs = list(zip(reversed(widths[1:]), reversed(widths[:-1]), strict=True))
        self.up = nn.ModuleList(_block(below + beside, beside) for below, beside in pairs)
        self.say = nn.Conv2d(widths[0], 4 * OUTPUTS, 3, padding=1)
        nn.init.zeros_(self.say.weight)
        nn.init.zeros_(self.say.bias)
        self.out = nn.PixelShuffle(2)

    def forward(self, seen: Tensor) -> Tensor:
        found = self.into(seen)
        kept = []
        for number, block in enumerate(self.down):
            found = block(found if number == 0 else nn.functional.max_pool2d(found, 2))
            kept.append(found)
        for block, beside in zip(self.up, reversed(kept[:-1]), strict=True):
            wider = nn.functional.interpolate(found, scale_factor=2.0, mode="nearest")
            found = block(torch.cat([wider, beside], dim=1))
        return self.out(self.say(found))
