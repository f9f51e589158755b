import { describe, expect, test } from '@jest/globals';
import { parseHex, srgbToLinear, toOklab } from '../core/raster/colour';
import { tokens } from './tokens';

const luminance = (hex: string): number => {
  const [r, g, b] = parseHex(hex).map(srgbToLinear) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
/** Contrast ratio of WCAG 2. */
const contrast = (a: string, b: string): number => {
  const [x, y] = [luminance(a), luminance(b)].sort((p, q) => q - p) as [number, number];
  return (x + 0.05) / (y + 0.05);
};

describe('text meets AA on everything it stands on', () => {
  for (const text of ['text', 'mute', 'paper'] as const)
    for (const behind of ['base', 'panel', 'raise', 'surround'] as const)
      test(`${text} on ${behind}`, () => expect(contrast(tokens[text], tokens[behind])).toBeGreaterThanOrEqual(4.5));
  test('dark text on the primary button', () => expect(contrast(tokens.base, tokens.paper)).toBeGreaterThanOrEqual(4.5));
});

describe('colour means distance', () => {
  const chroma = (hex: string): number => Math.hypot(...toOklab(parseHex(hex)).slice(1));
  test('the interface itself has no hue', () => {
    for (const name of ['surround', 'base', 'panel', 'raise', 'paper', 'text', 'mute', 'faint'] as const)
      expect(chroma(tokens[name])).toBeLessThan(0.025);
  });
  test('near and far are plainly told apart, and neither is the colour of errors', () => {
    for (const name of ['near', 'far', 'alert'] as const) expect(chroma(tokens[name])).toBeGreaterThan(0.07);
    const [near, far, alert] = [tokens.near, tokens.far, tokens.alert].map((h) => toOklab(parseHex(h)));
    const hue = (c: readonly number[]): number => Math.atan2(c[2]!, c[1]!);
    expect(Math.abs(hue(near!) - hue(far!))).toBeGreaterThan(1.5);
    expect(Math.abs(hue(near!) - hue(alert!))).toBeGreaterThan(0.5);
  });
});
