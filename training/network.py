"""The network of the estimate. It is U-shaped (Ronneberger et al. 2015), reads a picture (n, 3, h, w, sRGB 0..1; sides multiples of 32) and
where in it a pixel lies, and answers nearness 0..1 at half its size."""
import torch
import torch.nn as nn
import torch.nn.functional as F

from backbone import KEPT, Backbone

# planes of the decoder, from 1/2 to 1/32 of the size
PLANES = [16, 24, 40, 64, 96]


def place(like):
    """Where a pixel lies: planes of -1..1 across and down."""
    n, _, h, w = like.shape
    y = ((torch.arange(h) + 0.5) / h * 2 - 1).view(1, 1, h, 1).expand(n, 1, h, w)
    x = ((torch.arange(w) + 0.5) / w * 2 - 1).view(1, 1, 1, w).expand(n, 1, h, w)
    return torch.cat([x, y], 1)


class Network(nn.Module):
    def __init__(self):
        super().__init__()
        c, kept = PLANES, list(KEPT.values())
        self.backbone = Backbone()
        self.bottom = nn.Sequential(nn.Conv2d(kept[-1], c[-1], 1, bias=False), nn.BatchNorm2d(c[-1]), nn.ReLU())
        # two more planes each: where a pixel lies
        self.up = nn.ModuleList(
            [
                nn.Sequential(nn.Conv2d(c[k + 1] + kept[k] + 2, c[k], 3, 1, 1, bias=False), nn.BatchNorm2d(c[k]), nn.ReLU())
                for k in range(len(c) - 1)
            ]
        )
        self.out = nn.Conv2d(c[0], 1, 3, 1, 1)

    def forward(self, rgb):
        kept = self.backbone(rgb)
        x = self.bottom(kept[-1])
        for k in range(len(self.up) - 1, -1, -1):
            x = F.interpolate(x, scale_factor=2, mode='nearest')
            x = self.up[k](torch.cat([x, kept[k], place(x)], 1))
        return self.out(x)[:, 0]
