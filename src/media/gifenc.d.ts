declare module 'gifenc' {
  export type Rgb = [number, number, number];
  export interface Gif {
    writeFrame(index: Uint8Array, width: number, height: number, options?: { palette?: Rgb[]; delay?: number }): void;
    finish(): void;
    bytes(): Uint8Array;
  }
  export function GIFEncoder(options?: { auto?: boolean; initialCapacity?: number }): Gif;
  export function quantize(rgba: Uint8Array | Uint8ClampedArray, colours: number, options?: { format?: string }): Rgb[];
  export function applyPalette(rgba: Uint8Array | Uint8ClampedArray, palette: Rgb[], format?: string): Uint8Array;
}
