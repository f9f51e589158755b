import { focalPx } from '../optics';

/**
 * Where the camera stands and looks, told from where the plate was taken: x right, y down, z forward, metres. The turns are right-handed
 * about those axes, radians: yaw looks right, pitch looks up, roll turns the camera clockwise; the camera is rolled, then pitched, then
 * turned (R = Ry·Rx·Rz). `zoom`: focal length over that of the plate. `shiftX`, `shiftY`: the picture pushed right and down by so many
 * focal lengths of the plate (a shifted lens: nothing converges).
 */
export interface CameraPose {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly yaw: number;
  readonly pitch: number;
  readonly roll: number;
  readonly zoom: number;
  readonly shiftX: number;
  readonly shiftY: number;
}

/** Where the plate was taken. */
export const AT_PLATE: CameraPose = { x: 0, y: 0, z: 0, yaw: 0, pitch: 0, roll: 0, zoom: 1, shiftX: 0, shiftY: 0 };

export const poseOf = (part: Partial<CameraPose>): CameraPose => ({ ...AT_PLATE, ...part });

/** Several moves at once: places, turns and shifts add up, zooms multiply. */
export const addPoses = (a: CameraPose, b: CameraPose): CameraPose => ({
  x: a.x + b.x,
  y: a.y + b.y,
  z: a.z + b.z,
  yaw: a.yaw + b.yaw,
  pitch: a.pitch + b.pitch,
  roll: a.roll + b.roll,
  zoom: a.zoom * b.zoom,
  shiftX: a.shiftX + b.shiftX,
  shiftY: a.shiftY + b.shiftY,
});

export const isAtPlate = (p: CameraPose): boolean => (Object.keys(AT_PLATE) as (keyof CameraPose)[]).every((k) => p[k] === AT_PLATE[k]);

/** Where the camera has to shift its picture so that what lies at a distance stands still. Nothing at infinity. */
export const shiftFor = (x: number, y: number, distance: number): Pick<CameraPose, 'shiftX' | 'shiftY'> => ({
  shiftX: x / distance,
  shiftY: y / distance,
});

/** How a picture is seen: its size and focal length, px, and where the lens's axis meets it, px; its middle where not given. */
export interface PlateLens {
  readonly width: number;
  readonly height: number;
  readonly focalPx: number;
  readonly axisX?: number;
  readonly axisY?: number;
}

export const plateLens = (width: number, height: number, hfovDegrees: number): PlateLens => ({ width, height, focalPx: focalPx(width, hfovDegrees) });

/** A place in a picture, px (pixel centres at +½), and its inverse distance from the camera plane, 1/m. */
export interface Placed {
  x: number;
  y: number;
  q: number;
}

/**
 * The way between the plate and a moved view. A point at plate pixel (x, y) and inverse distance q lies on the ray
 * a = (x − cx)/f − tx·q, b = (y − cy)/f − ty·q, c = 1 − tz·q (times 1/q); turned by Rᵀ it is seen at f'·a'/c' with inverse distance q/c'
 * (Hartley & Zisserman 2004, eq. 6.7).
 */
export class ViewGeometry {
  /** Rᵀ by rows */
  readonly r: Float64Array;
  readonly tx: number;
  readonly ty: number;
  readonly tz: number;
  readonly f: number;
  readonly f2: number;
  readonly cx: number;
  readonly cy: number;
  readonly cx2: number;
  readonly cy2: number;

  /** `enlarged`: how much the finished view is enlarged about its middle; `pad`: px by which the plate's coordinates begin before its edge. */
  constructor(lens: PlateLens, pose: CameraPose, enlarged = 1, pad = 0) {
    const [cy, sy] = [Math.cos(pose.yaw), Math.sin(pose.yaw)];
    const [cp, sp] = [Math.cos(pose.pitch), Math.sin(pose.pitch)];
    const [cr, sr] = [Math.cos(pose.roll), Math.sin(pose.roll)];
    // R = Ry·Rx·Rz, its columns are the camera's axes in the plate's
    this.r = Float64Array.of(
      cy * cr + sy * sp * sr,
      cp * sr,
      -sy * cr + cy * sp * sr,
      -cy * sr + sy * sp * cr,
      cp * cr,
      sy * sr + cy * sp * cr,
      sy * cp,
      -sp,
      cy * cp,
    );
    this.tx = pose.x;
    this.ty = pose.y;
    this.tz = pose.z;
    const { width, height, focalPx: f, axisX = width / 2, axisY = height / 2 } = lens;
    this.f = f;
    this.f2 = f * pose.zoom * enlarged;
    this.cx = axisX + pad;
    this.cy = axisY + pad;
    // a shift is told in focal lengths of the plate, and grows with the zoom as everything does
    this.cx2 = width / 2 + enlarged * (axisX - width / 2 + f * pose.zoom * pose.shiftX);
    this.cy2 = height / 2 + enlarged * (axisY - height / 2 + f * pose.zoom * pose.shiftY);
  }

  /** Where a point of the plate is seen. False behind the camera. */
  forward(x: number, y: number, q: number, out: Placed): boolean {
    const { r } = this;
    const a = (x - this.cx) / this.f - this.tx * q;
    const b = (y - this.cy) / this.f - this.ty * q;
    const c = 1 - this.tz * q;
    const depth = r[6]! * a + r[7]! * b + r[8]! * c;
    if (!(depth > 1e-6)) return false;
    out.x = this.cx2 + (this.f2 * (r[0]! * a + r[1]! * b + r[2]! * c)) / depth;
    out.y = this.cy2 + (this.f2 * (r[3]! * a + r[4]! * b + r[5]! * c)) / depth;
    out.q = q / depth;
    return true;
  }

  /** Where in the plate a point of the view comes from. False where it lay behind the plate's camera. */
  backward(x: number, y: number, q: number, out: Placed): boolean {
    const { r } = this;
    const u = (x - this.cx2) / this.f2;
    const v = (y - this.cy2) / this.f2;
    const depth = r[2]! * u + r[5]! * v + r[8]! + this.tz * q;
    if (!(depth > 1e-6)) return false;
    out.x = this.cx + (this.f * (r[0]! * u + r[3]! * v + r[6]! + this.tx * q)) / depth;
    out.y = this.cy + (this.f * (r[1]! * u + r[4]! * v + r[7]! + this.ty * q)) / depth;
    out.q = q / depth;
    return true;
  }
}
