import type { Shot } from '../core/document/schema';
import { newPlane, type Plane, type Raster } from '../core/picture';

/** A clip in which a bright thing walks before a wall, as a plate. */
export const walkPlate = (frames: number): Shot['plate'] => ({
  sha256: 'a'.repeat(64),
  name: 'walk.mp4',
  width: 64,
  height: 36,
  bits: 8,
  hfovFromFile: 54,
  clip: { frames, fps: 24 },
});

const onWalker = (frame: number, x: number, y: number): boolean => x >= 8 + 2 * frame && x < 28 + 2 * frame && y > 9 && y < 30;

/** A frame of it. */
export const walkRaster = (frame: number): Raster => ({
  width: 64,
  height: 36,
  channels: 3,
  data: Uint8Array.from({ length: 64 * 36 * 3 }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % 64, Math.floor(i / 192)];
    return (onWalker(frame, x, y) ? 160 : 50) + ((x * 7 + y * 13 + (i % 3) * 29) % 60);
  }),
});

/** Its depth at half the size, which may have been found better since. */
export function walkDepth(frame: number, version = 0): Plane {
  const plane = newPlane(32, 18);
  for (let i = 0; i < plane.data.length; i++) {
    const [x, y] = [(i % 32) * 2, Math.floor(i / 32) * 2];
    plane.data[i] = onWalker(frame, x, y) ? 0.75 + 0.05 * version : 0.1 + (0.2 * y) / 36;
  }
  return plane;
}
