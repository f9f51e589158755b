import type { Activation, Maps, Taps } from './convolveHost';

/** The convolution of convolveHost, one pixel at a time, to be read. */
export function convolveTwin(maps: Maps, taps: Taps, activation: Activation, stride: 1 | 2 = 1, before = (taps.size - stride) >> 1): Maps {
  const { outputs, inputs, size } = taps;
  const apart = inputs === 1 && maps.channels > 1;
  const width = Math.ceil(maps.width / stride);
  const height = Math.ceil(maps.height / stride);
  const at = (c: number, x: number, y: number): number =>
    x < 0 || y < 0 || x >= maps.width || y >= maps.height ? 0 : maps.data[(c * maps.height + y) * maps.width + x]!;
  const data = new Float32Array(outputs * width * height);
  for (let o = 0; o < outputs; o++)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        let sum = taps.bias[o]!;
        for (let c = 0; c < inputs; c++)
          for (let dy = 0; dy < size; dy++)
            for (let dx = 0; dx < size; dx++)
              sum +=
                taps.weights[((o * inputs + c) * size + dy) * size + dx]! * at(apart ? o : c, x * stride + dx - before, y * stride + dy - before);
        if (activation === 'rectify') sum = Math.max(0, sum);
        if (activation === 'swish') sum *= Math.min(Math.max(sum + 3, 0), 6) / 6;
        data[(o * height + y) * width + x] = sum;
      }
  return { channels: outputs, width, height, data };
}
