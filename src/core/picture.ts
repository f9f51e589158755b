/** Linear-light RGBA, interleaved, premultiplied float32; rows from the top. data.length = 4·width·height */
export interface Picture {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** One float32 per pixel: nearness 0..1, distance in metres (Infinity allowed), a matte 0..1, … */
export interface Plane {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** Garbage collectors of browsers do not count memory that workers share, and let hundreds of megabytes of it lie: by each lies a buffer as long, which is never touched and so takes none, but counts. */
const counted = new WeakMap<ArrayBufferLike, ArrayBuffer>();

/** A float buffer that workers can share where the page allows it. */
export function newFloats(length: number, shared = false): Float32Array {
  if (!shared || typeof SharedArrayBuffer === 'undefined') return new Float32Array(length);
  const buffer = new SharedArrayBuffer(length * 4);
  counted.set(buffer, new ArrayBuffer(length * 4));
  return new Float32Array(buffer);
}

/** Bytes and whole numbers that workers can share where the page allows it. */
export const newBytes = (length: number, shared = false): Uint8Array => new Uint8Array(newFloats(Math.ceil(length / 4), shared).buffer, 0, length);
export const newInts = (length: number, shared = false): Int32Array => new Int32Array(newFloats(length, shared).buffer);

/** Whether a buffer lies in memory that workers share. */
export const isShared = ({ buffer }: Float32Array): boolean => typeof SharedArrayBuffer !== 'undefined' && buffer instanceof SharedArrayBuffer;

export const newPicture = (width: number, height: number, shared = false): Picture => ({
  width,
  height,
  data: newFloats(width * height * 4, shared),
});

export const newPlane = (width: number, height: number, shared = false): Plane => ({
  width,
  height,
  data: newFloats(width * height, shared),
});

/** A plane holding one value everywhere. */
export function constantPlane(width: number, height: number, value: number): Plane {
  const plane = newPlane(width, height);
  plane.data.fill(value);
  return plane;
}

/** A decoded still as it comes from its file: sRGB-encoded, straight alpha, 8 or 16 bits a channel. */
export interface Raster {
  /** true: the alpha channel is no transparency and is not looked at */
  readonly opaque?: boolean;
  readonly width: number;
  readonly height: number;
  /** 1 grey, 2 grey and alpha, 3 RGB, 4 RGBA */
  readonly channels: 1 | 2 | 3 | 4;
  readonly data: Uint8Array | Uint8ClampedArray | Uint16Array;
}

/** Largest value of a raster's samples: 255 or 65535. */
export const fullScale = (raster: Raster): number => (raster.data instanceof Uint16Array ? 65535 : 255);
