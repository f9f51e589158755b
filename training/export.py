"""Writes the taught network as training/network.bin, which ships with the app, and a small case for the tests.

Batch normalisation is folded into the convolutions; weights are 8-bit with a scale for every output channel. The file: a
32-bit number of layers; for each its output and input channels (32 bits each), scales and biases (32-bit floats), then its
weights by output, input, row, column; the last layer is the answer's. All little-endian, everything padded to four bytes.
"""
import json
import struct

import numpy as np
import torch

from train import Network, with_place


def folded(conv, norm=None):
    w = conv.weight.detach().numpy().astype(np.float64)
    b = conv.bias.detach().numpy().astype(np.float64) if conv.bias is not None else np.zeros(w.shape[0])
    if norm is not None:
        k = norm.weight.detach().numpy() / np.sqrt(norm.running_var.numpy() + norm.eps)
        w = w * k[:, None, None, None]
        b = norm.bias.detach().numpy() + (b - norm.running_mean.numpy()) * k
    return w, b


net = Network()
net.load_state_dict(torch.load('out/training/network.pt'))
net.eval()
layers = []
for stage in net.down:
    for part in stage:
        layers.append(folded(part[0], part[1]))
for part in net.up:
    layers.append(folded(part[0], part[1]))
layers.append(folded(net.out))

out = bytearray(struct.pack('<I', len(layers)))
for w, b in layers:
    scale = np.abs(w).reshape(w.shape[0], -1).max(1) / 127
    q = np.round(w / scale[:, None, None, None]).astype(np.int8)
    out += struct.pack('<II', w.shape[0], w.shape[1])
    out += scale.astype('<f4').tobytes() + b.astype('<f4').tobytes()
    out += q.tobytes()
    out += b'\0' * (-len(out) % 4)
open('training/network.bin', 'wb').write(out)

rng = np.random.RandomState(3)
rgb = np.round(np.clip(np.add.outer(np.linspace(0.1, 0.8, 32), np.linspace(0, 0.2, 48))[:, :, None] + 0.1 * rng.rand(32, 48, 3), 0, 1) * 255) / 255
with torch.no_grad():
    answer = net(with_place(torch.from_numpy(rgb.astype(np.float32)).permute(2, 0, 1)[None]))[0].numpy()
case = {'width': 48, 'height': 32, 'rgb': [int(v) for v in np.round(rgb * 255).reshape(-1)], 'answer': [round(float(v), 4) for v in answer.reshape(-1)]}
json.dump(case, open('src/core/estimate/network/case.json', 'w'), separators=(',', ':'))
print(len(out), 'bytes', answer.shape)
