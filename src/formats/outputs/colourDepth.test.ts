import { describe, expect, test } from '@jest/globals';
import { clipOutputs, clipSize } from './clips';
import { colourLayouts, pictureSize, sizeWithColour, withDepth } from './colourDepth';

const size = { width: 2, height: 1 };
const rgba = Uint8ClampedArray.of(10, 20, 30, 255, 40, 50, 60, 255);
const near = Float32Array.of(1, 0);

describe('colour and depth in one picture', () => {
  test('beside each other', () => {
    expect([...withDepth(rgba, near, size, 'beside')]).toEqual([10, 20, 30, 255, 40, 50, 60, 255, 255, 255, 255, 255, 0, 0, 0, 255]);
  });
  test('over each other', () => {
    expect([...withDepth(rgba, near, size, 'below')]).toEqual([10, 20, 30, 255, 40, 50, 60, 255, 255, 255, 255, 255, 0, 0, 0, 255]);
    expect(sizeWithColour(size, 'below')).toEqual({ width: 2, height: 2 });
  });
  test('depth as alpha keeps the colours of what is farthest', () => {
    expect([...withDepth(rgba, near, size, 'alpha')]).toEqual([10, 20, 30, 255, 40, 50, 60, 1]);
  });
  test('each layout is an output, at the size that it needs', () => {
    for (const layout of colourLayouts) {
      const output = clipOutputs.find((o) => o.colour === layout)!;
      const even = clipSize(output.kind, 641, 361);
      expect(pictureSize(output, even)).toEqual(sizeWithColour({ width: 640, height: 360 }, layout));
    }
  });
});
