import type { MeshoptSimplifier as Simplifier } from 'meshoptimizer/simplifier';
import type { FlatMesh } from './tessellate';

/** So many triangles at once are made fewer: what the simplifier takes grows with them. */
const MOST_AT_ONCE = 4e5;
/** A band is made fewer by this at the most before all are put together: its borders stay as they are. */
const BAND_SHARE = 0.2;

/** px that each corner lies at: places of the picture, and the parallax that its inverse distance opens. */
function placesOf({ x, y, q }: FlatMesh, gain: number): Float32Array {
  const out = new Float32Array(x.length * 3);
  for (let i = 0; i < x.length; i++) {
    out[i * 3] = x[i]!;
    out[i * 3 + 1] = y[i]!;
    out[i * 3 + 2] = gain * q[i]!;
  }
  return out;
}

/** A mesh of the corners that its triangles use. */
export function compact(mesh: FlatMesh, triangles = mesh.triangles): FlatMesh {
  const to = new Int32Array(mesh.x.length).fill(-1);
  let count = 0;
  const kept = new Uint32Array(triangles.length);
  for (let t = 0; t < triangles.length; t++) {
    const i = triangles[t]!;
    if (to[i]! < 0) to[i] = count++;
    kept[t] = to[i]!;
  }
  const out = { x: new Float32Array(count), y: new Float32Array(count), q: new Float32Array(count), triangles: kept };
  for (let i = 0; i < to.length; i++) {
    const k = to[i]!;
    if (k < 0) continue;
    out.x[k] = mesh.x[i]!;
    out.y[k] = mesh.y[i]!;
    out.q[k] = mesh.q[i]!;
  }
  return out;
}

/**
 * The same surface with at most so many triangles: fewest where it is flat. Planes are linear in inverse distance over the picture, so that corners are
 * taken away in the space of places (px) and of the parallax that a camera opens (`gain` px for each 1/m), by quadric errors (Garland & Heckbert
 * 1997); every corner that stays is one that was there. `checkpoint` hears the share done and may throw.
 */
export async function reduced(mesh: FlatMesh, most: number, gain: number, checkpoint: (share: number) => void = () => undefined): Promise<FlatMesh> {
  const wanted = Math.max(1, Math.floor(most)) * 3;
  if (mesh.triangles.length <= wanted) return compact(mesh);
  // few need it: it is read when the first mesh is made
  const { MeshoptSimplifier: simplifier } = await import('meshoptimizer/simplifier');
  await simplifier.ready;
  const places = placesOf(mesh, gain);
  let { triangles } = mesh;
  if (triangles.length / 3 > MOST_AT_ONCE) triangles = inBands(simplifier, mesh, places, triangles, wanted, (s) => checkpoint(0.6 * s));
  if (triangles.length > wanted) [triangles] = simplifier.simplify(triangles, places, 3, wanted, 1e9, ['ErrorAbsolute']);
  checkpoint(1);
  return compact(mesh, triangles);
}

/** A first pass over bands of the picture one after the other: corners that two bands share stay. */
function inBands(
  simplifier: typeof Simplifier,
  mesh: FlatMesh,
  places: Float32Array,
  triangles: Uint32Array,
  wanted: number,
  checkpoint: (share: number) => void,
): Uint32Array {
  const count = Math.ceil(triangles.length / 3 / MOST_AT_ONCE);
  let height = 0;
  for (const y of mesh.y) if (y > height) height = y;
  const bandOf = (t: number): number => {
    const y = Math.min(mesh.y[triangles[t]!]!, mesh.y[triangles[t + 1]!]!, mesh.y[triangles[t + 2]!]!);
    return Math.min(count - 1, Math.floor((count * y) / (height + 1)));
  };
  const owner = new Int8Array(mesh.x.length).fill(-1);
  const lock = new Uint8Array(mesh.x.length);
  const sizes = new Int32Array(count);
  for (let t = 0; t < triangles.length; t += 3) {
    const b = bandOf(t);
    sizes[b]! += 3;
    for (let k = t; k < t + 3; k++) {
      const i = triangles[k]!;
      if (owner[i]! >= 0 && owner[i] !== b) lock[i] = 1;
      owner[i] = b;
    }
  }
  const bands = Array.from(sizes, (n) => new Uint32Array(n));
  const used = new Int32Array(count);
  for (let t = 0; t < triangles.length; t += 3) {
    const b = bandOf(t);
    bands[b]!.set(triangles.subarray(t, t + 3), used[b]);
    used[b]! += 3;
  }
  const out: Uint32Array[] = [];
  const none = new Float32Array(mesh.x.length);
  for (const [b, band] of bands.entries()) {
    checkpoint(b / count);
    const share = Math.max(BAND_SHARE, wanted / triangles.length);
    const target = Math.floor((band.length * share) / 3) * 3;
    out.push(simplifier.simplifyWithAttributes(band, places, 3, none, 1, [0], lock, target, 1e9, ['ErrorAbsolute', 'Sparse'])[0]);
  }
  const whole = new Uint32Array(out.reduce((n, b) => n + b.length, 0));
  let at = 0;
  for (const band of out) {
    whole.set(band, at);
    at += band.length;
  }
  return whole;
}
