/** Gives Node.js bitmaps as far as painting asks for them; `made` is told of each and makes what stands for it. */
export function giveBitmaps<T>(made: (image: { readonly data: Uint8ClampedArray; readonly width: number; readonly height: number }) => T): void {
  Object.assign(globalThis, {
    ImageData: class {
      constructor(
        readonly data: Uint8ClampedArray,
        readonly width: number,
        readonly height: number,
      ) {}
    },
    createImageBitmap: (image: Parameters<typeof made>[0]) => Promise.resolve(made(image)),
  });
}
