import { readLayers } from '../src/core/estimate/network/layers';
import { BLOCKS, type Block } from '../src/core/estimate/network/unet';
import type { Taps } from '../src/core/kernels/convolveHost';
import { writeOnnx } from '../src/formats/onnx/write';
import { GrowingGraph } from './graph';

/** A network of the layers that ours is made of. */
class Growing extends GrowingGraph {
  /** A convolution by taps with a border of zeros, as the kernels lay it. */
  conv({ outputs, inputs, size, weights, bias }: Taps, from: string, stride: 1 | 2 = 1): string {
    const before = (size - stride) >> 1;
    const after = size - stride - before;
    return this.step('Conv', [from, this.constant(weights, [outputs, inputs, size, size]), this.constant(bias, [outputs])], {
      kernel_shape: [size, size],
      strides: [stride, stride],
      pads: [before, before, after, after],
      group: inputs === 1 && outputs > 1 ? outputs : 1,
    });
  }

  hardGate(from: string): string {
    const open = this.step('Clip', [this.step('Add', [from, this.floats(3)]), this.floats(0), this.floats(6)]);
    return this.step('Div', [open, this.floats(6)]);
  }

  bend = (from: string, swish: boolean): string => (swish ? this.step('Mul', [from, this.hardGate(from)]) : this.step('Relu', [from]));
}

function down(g: Growing, from: string, { widened, stride, weighed, swish }: Block, next: () => Taps, sides: { channels: number }): string {
  const before = sides.channels;
  const wide = widened ? g.bend(g.conv(next(), from), swish) : from;
  let passed = g.bend(g.conv(next(), wide, stride), swish);
  if (weighed) {
    const means = g.step('GlobalAveragePool', [passed]);
    const squeezed = g.step('Relu', [g.conv(next(), means)]);
    passed = g.step('Mul', [passed, g.hardGate(g.conv(next(), squeezed))]);
  }
  const narrow = next();
  sides.channels = narrow.outputs;
  const out = g.conv(narrow, passed);
  return stride === 1 && narrow.outputs === before ? g.step('Add', [out, from]) : out;
}

/** Where a pixel lies, -1..1 across and down, in planes as large as those of `like`. */
function place(g: Growing, like: string): readonly string[] {
  const one = g.step('ReduceMax', [like], { axes: [1], keepdims: 1 });
  const ones = g.step('Add', [g.step('Mul', [one, g.floats(0)]), g.floats(1)]);
  return [3, 2].map((axis) => {
    const count = g.step('ReduceSum', [ones, g.whole(axis)], { keepdims: 1 });
    const upTo = g.step('CumSum', [ones, g.constant(BigInt64Array.of(BigInt(axis)), [])]);
    const middle = g.step('Div', [g.step('Sub', [upTo, g.floats(0.5)]), count]);
    return g.step('Sub', [g.step('Mul', [middle, g.floats(2)]), g.floats(1)]);
  });
}

/**
 * The estimate's network (training/network.bin) as an ONNX file: sRGB values 0..1 in, any sides that are multiples of 32; nearness at half the size
 * out.
 */
export function ourNetworkAsOnnx(file: Uint8Array): Uint8Array {
  const layers = readLayers(file);
  let at = 0;
  const next = (): Taps => layers[at++]!;
  const g = new Growing();
  const stem = next();
  const sides = { channels: stem.outputs };
  let current = g.bend(g.conv(stem, 'picture', 2), true);
  const kept: string[] = [];
  for (const block of BLOCKS) {
    current = down(g, current, block, next, sides);
    if (block.kept) kept.push(current);
  }
  current = g.step('Relu', [g.conv(next(), kept.at(-1)!)]);
  for (const finer of kept.slice(0, -1).reverse()) {
    const large = g.step('Resize', [current, '', g.floats(1, 1, 2, 2)], {
      mode: 'nearest',
      coordinate_transformation_mode: 'asymmetric',
      nearest_mode: 'floor',
    });
    current = g.step('Relu', [g.conv(next(), g.step('Concat', [large, finer, ...place(g, finer)], { axis: 1 }))]);
  }
  g.out(g.conv(next(), current), 'nearness');
  return writeOnnx({
    name: 'estimate',
    inputs: [{ name: 'picture', dims: [1, 3, 'height', 'width'] }],
    outputs: [{ name: 'nearness', dims: [1, 1, 'rows', 'columns'] }],
    nodes: g.nodes,
    constants: g.constants,
    notes: { values: 'unit', gives: 'nearness' },
  });
}
