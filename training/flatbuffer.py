"""Reads a network that is stored as a flatbuffer (.tflite): its operators in the order of their use, each with its options and its weights.

Only what the networks here need: one subgraph, weights of 32 or 16 bits. The format is the open schema of TensorFlow Lite; fields
are told apart by their number there.
"""
import struct

import numpy as np

KINDS = {0: 'add', 1: 'mean', 3: 'convolve', 4: 'depthwise', 6: 'widen', 14: 'logistic', 18: 'multiply', 19: 'rectify', 23: 'resize', 32: 'custom', 40: 'mean', 117: 'swish'}
TYPES = {0: '<f4', 1: '<f2', 2: '<i4'}


class Network:
    def __init__(self, path):
        self.data = open(path, 'rb').read()
        root = self._inside(0)
        codes = [self._code(c) for c in self._tables(root, 1)]
        self._buffers = self._tables(root, 4)
        graph = self._tables(root, 2)[0]
        self._tensors = self._tables(graph, 0)
        self.inputs, self.outputs = self.numbers(graph, 1), self.numbers(graph, 2)
        self.operators = []
        for table in self._tables(graph, 3):
            at = self._field(table, 0)
            kind = codes[self._at('<I', at) if at else 0]
            if kind not in KINDS:
                raise ValueError(f'operator {kind} is not one of {KINDS}')
            options = self._field(table, 4)
            self.operators.append((KINDS[kind], self.numbers(table, 1), self.numbers(table, 2), self._inside(options) if options else None))

    def option(self, options, number, usual=0):
        at = None if options is None else self._field(options, number)
        return self.data[at] if at else usual

    def shape(self, tensor):
        return self.numbers(self._tensors[tensor], 0)

    def weights(self, tensor):
        """The numbers that are stored for a tensor; None where it is worked out."""
        table = self._tensors[tensor]
        at = self._field(table, 2)
        start, count = self._vector(self._buffers[self._at('<I', at) if at else 0], 0)
        if count == 0:
            return None
        at = self._field(table, 1)
        kind = np.dtype(TYPES[self.data[at] if at else 0])
        read = np.frombuffer(self.data, kind, count // kind.itemsize, start).reshape(self.shape(tensor))
        return read if kind == np.dtype('<i4') else read.astype(np.float32)

    def numbers(self, table, number):
        start, count = self._vector(table, number)
        return list(struct.unpack_from(f'<{count}i', self.data, start)) if count else []

    def _at(self, kind, at):
        return struct.unpack_from(kind, self.data, at)[0]

    def _inside(self, at):
        return at + self._at('<I', at)

    def _field(self, table, number):
        layout = table - self._at('<i', table)
        if 4 + 2 * number >= self._at('<H', layout):
            return None
        offset = self._at('<H', layout + 4 + 2 * number)
        return table + offset if offset else None

    def _vector(self, table, number):
        at = self._field(table, number)
        if at is None:
            return 0, 0
        at = self._inside(at)
        return at + 4, self._at('<I', at)

    def _tables(self, table, number):
        start, count = self._vector(table, number)
        return [self._inside(start + 4 * k) for k in range(count)]

    def _code(self, table):
        """An operator's number: it has two fields, the older of which ends at 127."""
        old, new = self._field(table, 0), self._field(table, 3)
        return max(self._at('<b', old) if old else 0, self._at('<i', new) if new else 0)
