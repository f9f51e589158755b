"""Turns the network that ships (training/network.bin, see export.py) back into one that can be trained on, out/training/network.pt. Batch normalisation was folded into the convolutions; it is set up again from what the rendered scenes give, so that
the network answers as before, in training as in use."""
import struct

import numpy as np
import torch
import torch.nn.functional as F

from network import Network
from train import SHAPES, load


def read_layers(path):
    data = open(path, 'rb').read()
    (count,), at = struct.unpack_from('<I', data), 4
    for _ in range(count):
        outputs, inputs, size, bits = struct.unpack_from('<IIII', data, at)
        at += 16
        scale, bias = (np.frombuffer(data, '<f4', outputs, at + 4 * outputs * k) for k in (0, 1))
        at += 8 * outputs
        n = outputs * inputs * size * size
        q = np.frombuffer(data, np.int8 if bits == 8 else '<i2', n, at).reshape(outputs, inputs, size, size)
        at += n * bits // 8
        at += -at % 4
        yield torch.from_numpy((q * scale[:, None, None, None]).astype(np.float32)), torch.from_numpy(bias.copy())


def recover():
    """The network with its normalisation standing for nothing, and its (convolution, normalisation) pairs in the order of use."""
    net = Network()
    pairs = [(net.backbone.first, None)]
    for each in net.backbone.blocks:
        parts = [each.expand, each.depthwise, *(each.squeeze or []), each.project]
        pairs += [(part, None) for part in parts if part is not None]
    pairs.append((net.bottom[0], net.bottom[1]))
    pairs += [(part[0], part[1]) for part in reversed(net.up)]
    pairs.append((net.out, None))
    with torch.no_grad():
        for k, ((conv, norm), (weight, bias)) in enumerate(zip(pairs, read_layers('training/network.bin'), strict=True)):
            conv.weight.copy_(weight if k else weight / 255)
            if norm is None:
                conv.bias.copy_(bias)
            else:
                norm.weight.fill_(1)
                norm.bias.copy_(bias)
                norm.running_mean.zero_()
                norm.running_var.fill_(1 - norm.eps)
    return net.eval(), [pair for pair in pairs if pair[1] is not None]


def set_up_norms(net, pairs, pictures):
    """Gives every normalisation the means and variances that the pictures bring to it, and the gain and offset that undo them."""
    sums = [torch.zeros(3, conv.weight.shape[0]) for conv, _ in pairs]

    def note(total):
        def hook(_module, _inputs, output):
            total[0] += output.mean((0, 2, 3))
            total[1] += (output**2).mean((0, 2, 3))
            total[2] += 1

        return hook

    hooks = [conv.register_forward_hook(note(total)) for (conv, _), total in zip(pairs, sums)]
    with torch.no_grad():
        for batch in pictures.split(8):
            net(batch)
        for hook in hooks:
            hook.remove()
        for (_, norm), (total, squares, count) in zip(pairs, sums):
            mean = total / count
            var = squares / count - mean**2
            norm.running_mean.copy_(mean)
            norm.running_var.copy_(var)
            norm.weight.copy_(torch.sqrt(var + norm.eps))
            norm.bias.add_(mean)


if __name__ == '__main__':
    net, pairs = recover()
    rgbs = [sharp for sharp, _ in load()[0][:240]]
    pictures = torch.stack([torch.from_numpy(a.astype(np.float32) / 255).permute(2, 0, 1) for a in rgbs])
    pictures = F.interpolate(pictures, size=SHAPES[0], mode='bilinear', align_corners=False)
    before = torch.cat([net(p) for p in pictures[:16].split(8)]).detach()
    set_up_norms(net, pairs, pictures)
    after = torch.cat([net(p) for p in pictures[:16].split(8)]).detach()
    torch.save(net.state_dict(), 'out/training/network.pt')
    print('answers change by', (after - before).abs().max().item(), 'at most')
