"""Writes a trained network as training/network.bin, which ships with the app, and a small case for the tests.

Batch normalisation is folded into the convolutions; weights are whole numbers of 8 bits, in small layers of 16, with a scale for
every output channel. The file: layerFile.py.
"""
import json

import numpy as np
import torch

from layerFile import whole_numbers, written
from network import Network


# layers of fewer weights keep 16 bits: together they are small, and what they lose is lost to all that follows
SMALL = 16384


def folded(conv, norm=None, gain=1):
    """The layer's weights and biases as the app uses them; the layer itself goes on with what the bits leave of them."""
    k = np.ones(conv.weight.shape[0])
    w = conv.weight.detach().numpy().astype(np.float64)
    b = conv.bias.detach().numpy().astype(np.float64) if conv.bias is not None else np.zeros(w.shape[0])
    if norm is not None:
        k = norm.weight.detach().numpy() / np.sqrt(norm.running_var.numpy() + norm.eps)
        b = norm.bias.detach().numpy() + (b - norm.running_mean.numpy()) * k
    k = (k * gain)[:, None, None, None]
    q, scale = whole_numbers(w * k, 16 if conv.weight.numel() < SMALL else 8)
    conv.weight.data = torch.from_numpy((q * scale[:, None, None, None] / np.where(k == 0, 1, k)).astype(np.float32))
    return q, scale, b


def answer_to(rgb):
    with torch.no_grad():
        return net(torch.from_numpy(rgb.astype(np.float32)).permute(2, 0, 1)[None])[0].numpy()


rng = np.random.RandomState(3)
rgb = np.add.outer(np.linspace(0.1, 0.8, 64), np.linspace(0, 0.2, 96))[:, :, None] + 0.1 * rng.rand(64, 96, 3)
rgb[20:44, 30:60] = 0.7 - rgb[20:44, 30:60]
rgb = np.round(np.clip(rgb, 0, 1) * 255) / 255

net = Network()
net.load_state_dict(torch.load('out/training/network.pt'))
net.eval()
whole = answer_to(rgb)
# the encoder was trained on 0..255, the app gives 0..1
layers = [folded(net.backbone.first, gain=255)]
for each in net.backbone.blocks:
    parts = [each.expand, each.depthwise, *(each.squeeze or []), each.project]
    layers += [folded(part) for part in parts if part is not None]
layers.append(folded(net.bottom[0], net.bottom[1]))
layers += [folded(part[0], part[1]) for part in reversed(net.up)]
layers.append(folded(net.out))

out = written(layers)
open('training/network.bin', 'wb').write(out)

answer = answer_to(rgb)
case = {'width': 96, 'height': 64, 'rgb': [int(v) for v in np.round(rgb * 255).reshape(-1)], 'answer': [round(float(v), 4) for v in answer.reshape(-1)]}
json.dump(case, open('src/core/estimate/network/case.json', 'w'), separators=(',', ':'))
print(len(out), 'bytes; whole numbers change the answer by', np.abs(answer - whole).max(), 'at most, in', np.ptp(whole))
