import { OmbrageError } from '../error';
import type { KernelExports } from './kernelExports';

const PAGE = 65536;
const FIRST_FREE = 4096;

/** A WASM instance with memory that is laid out anew for every call: take(), use, reset(). */
export class Kernels {
  readonly run: KernelExports;
  private readonly memory: WebAssembly.Memory;
  private top = FIRST_FREE;

  constructor(module: WebAssembly.Module) {
    this.memory = new WebAssembly.Memory({ initial: 16 });
    const instance = new WebAssembly.Instance(module, { env: { memory: this.memory } });
    this.run = instance.exports as KernelExports;
  }

  /** bytes of memory it has grown to */
  get size(): number {
    return this.memory.buffer.byteLength;
  }

  reset(): void {
    this.top = FIRST_FREE;
  }

  /** How much of the memory is taken, and back to that. */
  bookmark(): number {
    return this.top;
  }

  back(bookmark: number): void {
    this.top = bookmark;
  }

  /** Address of `bytes` fresh bytes, 64-byte aligned; contents undefined. Views made before are invalid afterwards. */
  take(bytes: number): number {
    const at = this.top;
    this.top = Math.ceil((at + bytes) / 64) * 64;
    const missing = this.top - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE) + 16);
    return at;
  }

  /** Address of room for so many floats, 0 each, and as many as a kernel that takes four at a time may go beyond them. */
  room(length: number): number {
    const at = this.take((length + 4) * 4);
    this.floats(at, length + 4).fill(0);
    return at;
  }

  /** Address of a copy of numbers. */
  put(values: Float32Array): number {
    const at = this.take(values.byteLength);
    this.floats(at, values.length).set(values);
    return at;
  }

  putDoubles(values: Float64Array): number {
    const at = this.take(values.byteLength);
    new Float64Array(this.memory.buffer, at, values.length).set(values);
    return at;
  }

  floats(address: number, length: number): Float32Array {
    return new Float32Array(this.memory.buffer, address, length);
  }

  ints(address: number, length: number): Int32Array {
    return new Int32Array(this.memory.buffer, address, length);
  }

  bytes(address: number, length: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, address, length);
  }
}

let compiled: WebAssembly.Module | null = null;
let loaded: Kernels | null = null;

/** Gives this thread its kernels: the built module, base64. A page that only asks workers needs none. */
export function provideKernels(base64: string): void {
  compiled = new WebAssembly.Module(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)));
}

/** Kernels with memory of their own. Throws before they were provided. */
export function newKernels(): Kernels {
  if (!compiled) throw new OmbrageError('no-kernels', 'The computing kernels are not loaded in this thread.', 'Reload the page.');
  return new Kernels(compiled);
}

/** Memory of kernels only grows: what is larger than this is given back once a large piece of work is over, bytes. */
const KEPT_MEMORY = 96e6;

/** Gives the memory of this thread's kernels back where a large piece of work has left much of it. */
export function releaseKernels(kept = KEPT_MEMORY): void {
  if (loaded && loaded.size > kept) loaded = null;
}

/** The kernels of this thread. */
export const kernels = (): Kernels => (loaded ??= newKernels());
