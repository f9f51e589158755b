"""The encoder of the estimate's network: a MobileNetV3 (Howard et al. 2019) that was trained on photographs.

Its weights come from the object detector in the package @vladmandic/human (MIT), file models/centernet.json, of which only the
encoder is used; batch normalisation is folded into its convolutions there. `npm pack @vladmandic/human@3.3.6` and unpack it so that
out/human/models/centernet.json exists. Sizes should be multiples of 32.
"""
import torch
import torch.nn as nn
import torch.nn.functional as F

from detector import stored_tensors

# of every block: width expanded to (0: not expanded), width it leaves with, kernel, stride, squeeze-and-excite width (0: none), hard swish
BLOCKS = [
    (0, 16, 3, 1, 0, False),
    (64, 24, 3, 2, 0, False),
    (72, 24, 3, 1, 0, False),
    (72, 32, 5, 2, 24, False),
    (96, 32, 5, 1, 24, False),
    (96, 32, 5, 1, 24, False),
    (192, 64, 3, 2, 0, True),
    (160, 64, 3, 1, 0, True),
    (144, 64, 3, 1, 0, True),
    (144, 64, 3, 1, 0, True),
    (384, 88, 3, 1, 96, True),
    (528, 88, 3, 1, 136, True),
    (528, 120, 5, 2, 136, True),
    (720, 120, 5, 1, 184, True),
    (720, 120, 5, 1, 184, True),
]
# blocks after which the decoder reads: at 1/2, 1/4, 1/8, 1/16 and 1/32 of the size
KEPT = {0: 16, 2: 24, 5: 32, 11: 88, 14: 120}


def padded(x, k, stride):
    """Zeros as much as keep the size (stride 1) or halve it; the odd one goes after, as the encoder was trained."""
    total = k - stride if stride == 2 else k - 1
    return F.pad(x, (total // 2, total - total // 2, total // 2, total - total // 2))


class Block(nn.Module):
    def __init__(self, inputs, expanded, outputs, k, stride, squeezed, swish):
        super().__init__()
        wide = expanded or inputs
        self.k, self.stride, self.same = k, stride, stride == 1 and inputs == outputs
        self.act = F.hardswish if swish else F.relu
        self.expand = nn.Conv2d(inputs, wide, 1) if expanded else None
        self.depthwise = nn.Conv2d(wide, wide, k, stride, groups=wide)
        self.squeeze = nn.ModuleList([nn.Conv2d(wide, squeezed, 1), nn.Conv2d(squeezed, wide, 1)]) if squeezed else None
        self.project = nn.Conv2d(wide, outputs, 1)

    def forward(self, x):
        y = self.act(self.expand(x)) if self.expand is not None else x
        y = self.act(self.depthwise(padded(y, self.k, self.stride)))
        if self.squeeze is not None:
            s = F.relu(self.squeeze[0](y.mean((2, 3), keepdim=True)))
            y = y * F.hardsigmoid(self.squeeze[1](s))
        y = self.project(y)
        return x + y if self.same else y


class Backbone(nn.Module):
    def __init__(self):
        super().__init__()
        self.first = nn.Conv2d(3, 16, 3, 2)
        inputs, blocks = 16, []
        for expanded, outputs, k, stride, squeezed, swish in BLOCKS:
            blocks.append(Block(inputs, expanded, outputs, k, stride, squeezed, swish))
            inputs = outputs
        self.blocks = nn.ModuleList(blocks)

    def forward(self, rgb):
        """rgb: n, 3, h, w in 0..1. Returns the planes at 1/2 to 1/32."""
        x = F.hardswish(self.first(padded(rgb * 255, 3, 2)))
        kept = []
        for k, block in enumerate(self.blocks):
            x = block(x)
            if k in KEPT:
                kept.append(x)
        return kept

    def read(self, folder='out/human/models'):
        tensors = stored_tensors(folder)

        def put(conv, weights, bias):
            w = torch.from_numpy(tensors['MobilenetV3/' + weights]).permute(3, 2, 0, 1)
            if conv.groups > 1:
                w = w.permute(1, 0, 2, 3)
            assert conv.weight.shape == w.shape, (weights, conv.weight.shape, w.shape)
            conv.weight.data.copy_(w)
            conv.bias.data.copy_(torch.from_numpy(tensors['MobilenetV3/' + bias]))

        put(self.first, 'Conv/Conv2D_weights', 'Conv/Conv2D_bn_offset')
        for k, block in enumerate(self.blocks):
            name = f'expanded_conv_{k}/' if k else 'expanded_conv/'
            if block.expand is not None:
                put(block.expand, name + 'expand/Conv2D_weights', name + 'expand/Conv2D_bn_offset')
            put(block.depthwise, name + 'depthwise/depthwise_weights', name + 'depthwise/depthwise_bn_offset')
            if block.squeeze is not None:
                put(block.squeeze[0], name + 'squeeze_excite/Conv/weights', name + 'squeeze_excite/Conv/biases')
                put(block.squeeze[1], name + 'squeeze_excite/Conv_1/weights', name + 'squeeze_excite/Conv_1/biases')
            put(block.project, name + 'project/Conv2D_weights', name + 'project/Conv2D_bn_offset')
        return self
