// What the core uses beyond the language itself and finds in every browser, worker and Node: nothing else of them is known to it.
declare namespace WebAssembly {
  class Module {
    constructor(bytes: Uint8Array);
  }
  class Memory {
    constructor(size: { initial: number; maximum?: number });
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  type Exports = Record<string, unknown>;
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Exports;
  }
}
declare function structuredClone<T>(value: T): T;
declare function atob(base64: string): string;
declare const crypto: { getRandomValues<T extends Uint8Array>(bytes: T): T };
