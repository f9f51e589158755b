"""The file of layers that the app reads (src/core/estimate/network/layers.ts): a 32-bit number of layers; for each, in the order of their use,
its output channels, input channels (1 where every plane has taps of its own), size, px, and bits (32 bits each), scales and biases (32-bit
floats), then its weights by output, input, row, column. All little-endian, everything padded to four bytes.
"""
import struct

import numpy as np


def whole_numbers(weights, bits):
    """Weights (output, input, row, column) as whole numbers of so many bits, and a scale for every output."""
    top, kind = (32767, np.int16) if bits == 16 else (127, np.int8)
    scale = np.maximum(1e-12, np.abs(weights).reshape(weights.shape[0], -1).max(1)) / top
    return np.round(weights / scale[:, None, None, None]).astype(kind), scale


def written(layers):
    """Bytes of the file; `layers`: whole numbers, scales, biases of each."""
    out = bytearray(struct.pack('<I', len(layers)))
    for q, scale, bias in layers:
        out += struct.pack('<IIII', q.shape[0], q.shape[1], q.shape[2], 8 * q.itemsize)
        out += scale.astype('<f4').tobytes() + bias.astype('<f4').tobytes()
        out += q.tobytes()
        out += b'\0' * (-len(out) % 4)
    return bytes(out)
