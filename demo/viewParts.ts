import { ViewGeometry, type CameraPose, type Placed, type PlateLens } from '../src/core/camera/pose';

/** What a pixel of a moved view is: away from edges, beside one, not seen in the plate, or from outside its frame. */
export const PART = { core: 0, edge: 1, uncovered: 2, outside: 3 } as const;
/** Parallax, px, by which surfaces are told apart. */
const APART = 0.75;

/** Neighbours whose places move apart by more than APART, and what lies within 1 px of them. */
function besideEdges(lens: PlateLens, distance: Float32Array, apart: (x: number, y: number, a: number, b: number) => number): Uint8Array {
  const { width: w, height: h } = lens;
  const out = new Uint8Array(w * h);
  const mark = (x: number, y: number): void => {
    for (let v = Math.max(0, y - 1); v <= Math.min(h - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(w - 1, x + 1); u++) out[v * w + u] = 1;
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      if (x + 1 < w && apart(x + 1, y + 0.5, 1 / distance[i]!, 1 / distance[i + 1]!) > APART) {
        mark(x, y);
        mark(x + 1, y);
      }
      if (y + 1 < h && apart(x + 0.5, y + 1, 1 / distance[i]!, 1 / distance[i + w]!) > APART) {
        mark(x, y);
        mark(x, y + 1);
      }
    }
  return out;
}

/**
 * The parts of a view, told from the exact distances of plate and view: a pixel is uncovered where none of the 2x2 plate pixels round its
 * place lies at a depth that lands within APART of it.
 */
export function viewParts(lens: PlateLens, pose: CameraPose, plate: Float32Array, view: Float32Array): Uint8Array {
  const { width: w, height: h } = lens;
  const g = new ViewGeometry(lens, pose);
  const [a, b]: [Placed, Placed] = [
    { x: 0, y: 0, q: 0 },
    { x: 0, y: 0, q: 0 },
  ];
  const between = (x: number, y: number, qa: number, qb: number): number => {
    g.forward(x, y, qa, a);
    g.forward(x, y, qb, b);
    return Math.hypot(a.x - b.x, a.y - b.y);
  };
  const inPlate = besideEdges(lens, plate, between);
  const inView = besideEdges(lens, view, (x, y, qa, qb) => {
    g.backward(x, y, qa, a);
    g.backward(x, y, qb, b);
    return Math.hypot(a.x - b.x, a.y - b.y);
  });
  const out = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const from: Placed = { x: 0, y: 0, q: 0 };
      g.backward(x + 0.5, y + 0.5, 1 / view[i]!, from);
      if (from.x < 0 || from.y < 0 || from.x >= w || from.y >= h) {
        out[i] = PART.outside;
        continue;
      }
      const [x0, y0] = [Math.floor(from.x - 0.5), Math.floor(from.y - 0.5)];
      let seen = false;
      for (let v = Math.max(0, y0); v <= Math.min(h - 1, y0 + 1); v++)
        for (let u = Math.max(0, x0); u <= Math.min(w - 1, x0 + 1); u++) seen ||= between(from.x, from.y, 1 / plate[v * w + u]!, from.q) <= APART;
      const beside = inView[i] || inPlate[Math.min(h - 1, Math.floor(from.y)) * w + Math.min(w - 1, Math.floor(from.x))];
      out[i] = !seen ? PART.uncovered : beside ? PART.edge : PART.core;
    }
  return out;
}
