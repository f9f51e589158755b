"""Writes training/people.bin, which ships with the app: the networks that tell where persons are, and small cases for the tests. Nothing is trained here.

- The masks: `npm pack @mediapipe/selfie_segmentation@0.1.1675465747` (Apache-2.0), unpacked so that out/selfie/selfie_segmentation.tflite and
  ..._landscape.tflite exist.
- The finder: what reads the encoder of the estimate's network in the object detector that it comes from,
  out/human/models/centernet.json (see detector.py), as far as it tells persons and animals.
- The surface of a face: out/human/models/facemesh.json, beside it.
"""
import json

import numpy as np

from detector import stored_tensors
from flatbuffer import Network
from layerFile import whole_numbers, written

SIZES = {'selfie_segmentation': (256, 256), 'selfie_segmentation_landscape': (256, 144)}
# what is told apart: person, and what stands on four legs or looks at one: bird, cat, dog, horse, sheep, cow, elephant, bear, zebra, giraffe, teddy bear
CLASSES = [0, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 77]
# layers of fewer weights keep 16 bits
SMALL = 16384


def layer(weights, bias, bits):
    return (*whole_numbers(weights.astype(np.float64), bits), bias)


def masks(name):
    """Layers of a mask's network in the order of their use."""
    net = Network(f'out/selfie/{name}.tflite')
    held = {}
    out = []
    for kind, inputs, outputs, options in net.operators:
        if kind == 'widen':
            held[outputs[0]] = net.weights(inputs[0])
            continue
        get = lambda i: held[i] if i in held else net.weights(i)
        if kind == 'convolve':
            w = get(inputs[1]).transpose(0, 3, 1, 2)
        elif kind == 'depthwise':
            w = get(inputs[1])[0].transpose(2, 0, 1)[:, None]
        elif kind == 'custom':
            # every pixel becomes four: outputs by row and column among these
            w = get(inputs[1])[0].reshape(4, -1)[:, :, None, None]
        else:
            continue
        bias = get(inputs[2])
        out.append(layer(w, np.repeat(bias, 4) if kind == 'custom' else bias, 16))
    return out


def finder():
    """Layers of the finder in the order of their use: what is told from 1/32, then with 1/16, 1/8 and 1/4 of the size."""
    tensors = stored_tensors()

    def get(name):
        found = [k for k in tensors if k.endswith('CenternetHead/' + name) or k == name]
        assert len(found) == 1, (name, found)
        return tensors[found[0]]

    out = []

    def put(weights, bias, rows=None):
        w = get(weights)
        w = w.transpose(2, 3, 0, 1) if w.shape[3] == 1 else w.transpose(3, 2, 0, 1)
        b = np.zeros(w.shape[0]) if bias is None else get(bias)
        if rows is not None:
            w, b = w[rows], b[rows]
        out.append(layer(w, b, 16 if w.size < SMALL else 8))

    def doubled(name):
        for branch in 'xy':
            part = f'{name}_upsample/branch_{branch}_upsample_resize/'
            put(part + 'depthwise_weights', None)
            put(part + 'separable_conv2d_weights', part + 'separable_conv2d_bn_offset')

    def beside(name):
        put(f'{name}_reverse/1x1/Conv2D_weights', f'{name}_reverse/1x1/Conv2D_bn_offset')
        put(f'{name}_reverse/3x3/depthwise_weights', None)
        put(f'{name}_reverse/3x3/separable_conv2d_weights', f'{name}_reverse/3x3/separable_conv2d_bn_offset')

    put('extern1/Conv2D_weights', 'extern1/Conv2D_bn_offset')
    for low, side in (('c5', 'c4'), ('c4', 'c3'), ('c3', 'c2')):
        doubled(low)
        beside(side)
    put('conv1x1_se_a/Conv2D_weights', 'conv1x1_se_a/Conv2D_bn_offset')
    put('conv1x1_se_b/weights', None)
    put('centernet_cls_output/depthwise_weights', None)
    put('centernet_cls_output/pointwise_weights', 'centernet_cls_output/biases', CLASSES)
    put('centernet_wh_output/depthwise_weights', None)
    put('centernet_wh_output/pointwise_weights', 'centernet_wh_output/biases')
    return out


def face():
    """Layers of a face's mesh in the order of their use; a bend that lets some through below zero is a layer of one weight a plane."""
    tensors = {k.replace('StatefulPartitionedCall/model_1/', ''): v for k, v in stored_tensors(name='facemesh').items()}
    out = []

    def put(weights, bias):
        w = tensors[weights]
        w = w.transpose(2, 3, 0, 1) if w.shape[3] == 1 and w.shape[2] > 1 and bias is None else w.transpose(3, 2, 0, 1)
        out.append(layer(w, np.zeros(w.shape[0]) if bias is None else tensors[bias], 16 if w.size < SMALL else 8))

    def bend(k):
        slopes = tensors[f'p_re_lu_{k}/Neg'].reshape(-1)
        out.append(layer(slopes[:, None, None, None], np.zeros(len(slopes)), 16))

    def convolved(k):
        put(f'conv2d_{k}/Conv2D_weights', f'conv2d_{k}/Conv2D_bn_offset')

    def apart(depthwise, pointwise, slope):
        put(f'depthwise_conv2d_{depthwise}/depthwise/ReadVariableOp', None)
        convolved(pointwise)
        bend(slope)

    convolved(1)
    bend(1)
    for k in range(1, 18):
        # the mesh goes on with the sixteenth; the fifteenth was the last that it shares
        apart(k, k + 1, k + 1)
    convolved(19)
    bend(19)
    apart(18, 20, 20)
    put('conv2d_21/Conv2D/ReadVariableOp', 'conv2d_21/BiasAdd/ReadVariableOp')
    # whether there is a face at all
    apart(23, 28, 26)
    convolved(29)
    bend(27)
    apart(24, 30, 28)
    put('conv2d_31/Conv2D/ReadVariableOp', 'conv2d_31/BiasAdd/ReadVariableOp')
    return out


if __name__ == '__main__':
    parts = [*(masks(name) for name in SIZES), finder(), face()]
    for part in parts:
        print(len(part), 'layers')
    file = written([each for part in parts for each in part])
    open('training/people.bin', 'wb').write(file)
    print(len(file), 'bytes')
