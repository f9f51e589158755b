import { swellings, type HeadShape } from './parts';

export type Point3 = readonly [number, number, number];

/** Half axes of the skull, in heights of the head from crown to chin: to the side, up, down, to the front, to the back. */
const SKULL = { side: 0.335, up: 0.5, down: 0.53, front: 0.4, back: 0.47 };
const RADIANS = Math.PI / 180;

/** Distance of the surface from the middle of the head in a direction: degrees to the side (0 faces forward) and up. */
export function headRadius(across: number, up: number, shape: HeadShape): number {
  const a = across * RADIANS;
  const e = up * RADIANS;
  const x = Math.cos(e) * Math.sin(a);
  const y = Math.sin(e);
  const z = Math.cos(e) * Math.cos(a);
  // the face narrows towards the chin
  const side = SKULL.side * (1 - 0.16 * Math.max(0, -y) * Math.max(0, z) - 0.1 * Math.max(0, -y));
  let r = 1 / Math.hypot(x / side, y / (y > 0 ? SKULL.up : SKULL.down), z / (z > 0 ? SKULL.front : SKULL.back));
  for (const s of swellings) {
    const p = shape[s.part];
    if (p.relief === 0) continue;
    const pair = s.across !== 0;
    for (const sign of pair ? [-1, 1] : [1]) {
      const da = (across - (pair ? sign * (s.across * (s.part === 'ears' ? 1 : p.size) + p.across) : p.across)) / (s.wide * p.size);
      if (da > 3 || da < -3) continue;
      const de = (up - (s.up + p.up)) / (s.tall * p.size);
      const d = da * da + de * de;
      if (d < 9) r += s.height * p.relief * Math.exp(-d);
    }
  }
  return r;
}

/** A point of the surface, head coordinates: x right in the picture of a head facing the camera, y down, z away from the camera. */
export function headPoint(across: number, up: number, shape: HeadShape): Point3 {
  const r = headRadius(across, up, shape);
  const a = across * RADIANS;
  const e = up * RADIANS;
  return [r * Math.cos(e) * Math.sin(a), -r * Math.sin(e), -r * Math.cos(e) * Math.cos(a)];
}

/** Nods (pitch, positive looks up), turns (yaw, positive looks to the right of the picture), then leans (roll); degrees. */
export function turn([x, y, z]: Point3, yaw: number, pitch: number, roll: number): Point3 {
  const [cr, sr] = [Math.cos(roll * RADIANS), Math.sin(roll * RADIANS)];
  const [cp, sp] = [Math.cos(pitch * RADIANS), Math.sin(pitch * RADIANS)];
  const [cy, sy] = [Math.cos(yaw * RADIANS), Math.sin(yaw * RADIANS)];
  // about the axis that points right: up is turned towards the back
  const y1 = cp * y + sp * z;
  const z1 = -sp * y + cp * z;
  // about the upright axis
  const x2 = cy * x - sy * z1;
  const z2 = sy * x + cy * z1;
  // about the line of sight
  return [cr * x2 - sr * y1, sr * x2 + cr * y1, z2];
}

/** Triangles in head coordinates: xyz of the corners and three indices a face. */
export interface HeadMesh {
  readonly xyz: Float64Array;
  readonly faces: Uint32Array;
  /** corners of the head proper come first; then those of neck and shoulders, which do not turn with it */
  readonly headCorners: number;
}

const COLUMNS = 112;
const ROWS = 84;

/** −1..1 to degrees to the side, finer in front, where the features are. */
const columnAngle = (t: number): number => 180 * Math.sign(t) * (0.42 * Math.abs(t) + 0.58 * Math.abs(t) ** 2.4);

let kept: { key: string; mesh: HeadMesh } | null = null;

/** The surface as a mesh; `body` adds neck and shoulders below it. The last one is kept: turning a head does not change it. */
export function headMesh(shape: HeadShape, body: boolean): HeadMesh {
  const key = JSON.stringify([shape, body]);
  if (kept?.key !== key) kept = { key, mesh: makeMesh(shape, body) };
  return kept.mesh;
}

function makeMesh(shape: HeadShape, body: boolean): HeadMesh {
  const xyz: number[] = [];
  const faces: number[] = [];
  const grid = (columns: number, rows: number, at: (u: number, v: number) => Point3): void => {
    const first = xyz.length / 3;
    for (let j = 0; j <= rows; j++) for (let i = 0; i <= columns; i++) xyz.push(...at(i / columns, j / rows));
    const w = columns + 1;
    for (let j = 0; j < rows; j++)
      for (let i = 0; i < columns; i++) {
        const k = first + j * w + i;
        faces.push(k, k + 1, k + w, k + 1, k + w + 1, k + w);
      }
  };
  grid(COLUMNS, ROWS, (u, v) => headPoint(columnAngle(2 * u - 1), 90 - 180 * v, shape));
  const headCorners = xyz.length / 3;
  if (body) {
    // neck: from inside the skull down and a little back
    grid(28, 6, (u, v) => {
      const a = 2 * Math.PI * u;
      const r = 0.205 + 0.05 * v * v;
      return [r * Math.sin(a), 0.28 + 0.42 * v, 0.07 + 0.05 * v - r * 0.95 * Math.cos(a)];
    });
    // shoulders: a rounded slope from the neck to the upper arms
    grid(40, 14, (u, v) => {
      const a = 2 * Math.PI * u;
      const out = Math.sin((v * Math.PI) / 2);
      const drop = 0.56 + 0.14 * v + 0.75 * Math.max(0, v - 0.45) ** 1.6;
      return [(0.2 + 0.78 * out) * Math.sin(a), drop + 0.1 * out * Math.abs(Math.sin(a)), 0.12 - (0.17 + 0.2 * out) * Math.cos(a)];
    });
  }
  return { xyz: Float64Array.from(xyz), faces: Uint32Array.from(faces), headCorners };
}
