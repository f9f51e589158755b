import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../../core/random';
import { FULL, packMesh, unpackMesh } from './packed';
import { escaped } from './embedding';
import { base64 } from './document';
import { seenAt } from './facts';

describe('a mesh in few bytes', () => {
  test('comes back as it was, to half a step of its numbers', () => {
    const random = seededRandom(3);
    const n = 500;
    const of = (most: number): Float32Array => Float32Array.from({ length: n }, () => most * random());
    const mesh = { x: of(1600), y: of(900), q: of(0.8), triangles: Uint32Array.from({ length: 3000 }, () => Math.floor(n * random())) };
    const { corners, triangles } = unpackMesh(packMesh(mesh, 1600, 900, 0.8), n, 1000);
    expect(triangles).toEqual(mesh.triangles);
    for (let i = 0; i < n; i++) {
      expect(Math.abs((corners[i * 4]! / FULL) * 1600 - mesh.x[i]!)).toBeLessThanOrEqual(1600 / FULL / 2 + 1e-4);
      expect(Math.abs((corners[i * 4 + 1]! / FULL) * 900 - mesh.y[i]!)).toBeLessThanOrEqual(900 / FULL / 2 + 1e-4);
      expect(Math.abs((corners[i * 4 + 2]! / FULL) * 0.8 - mesh.q[i]!)).toBeLessThanOrEqual(0.8 / FULL / 2 + 1e-6);
    }
  });

  test('numbers of triangles may be far apart', () => {
    const triangles = Uint32Array.of(0, 2_999_999, 1, 70_000, 3, 2_000_000);
    const n = 3_000_000;
    const zero = new Float32Array(n);
    expect(unpackMesh(packMesh({ x: zero, y: zero, q: zero, triangles }, 1, 1, 1), n, 2).triangles).toEqual(triangles);
  });
});

test('text is harmless, and bytes are base64 of any length', () => {
  expect(escaped(`<a href="x">'&\u0000\`</a>`)).toBe('&#60;a href=&#34;x&#34;&#62;&#39;&#38;&#96;&#60;/a&#62;');
  const bytes = Uint8Array.from({ length: 100_001 }, (_, i) => i * 7);
  expect(new Uint8Array(Buffer.from(base64(bytes), 'base64'))).toEqual(bytes);
});

test('what stands still stays in its place, what is nearer goes the other way', () => {
  const facts = { width: 100, height: 50, focal: 80, most: 1, still: 0.25, aside: 0.1, up: 0.05, enlarged: 1 };
  expect(seenAt(facts, 30, 20, 0.25, 0.1, 0.05)).toEqual({ x: 30, y: 20 });
  const near = seenAt(facts, 30, 20, 0.5, 0.1, 0.05);
  expect(near.x).toBeCloseTo(30 - 80 * 0.1 * 0.25, 9);
  expect(near.y).toBeCloseTo(20 + 80 * 0.05 * 0.25, 9);
});
