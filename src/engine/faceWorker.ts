import * as Comlink from 'comlink';
import type { FaceWorkerApi, SmallPicture } from './face';

/** What is used of the face model's package. */
interface FacePackage {
  readonly env: { setEnv(env: Record<string, unknown>): void };
  readonly nets: Record<'tinyFaceDetector' | 'faceLandmark68Net', { loadFromUri(uri: string): Promise<void> }>;
  readonly tf: {
    setBackend(name: string): Promise<boolean>;
    ready(): Promise<void>;
    tensor3d(values: Int32Array, shape: [number, number, number], kind: 'int32'): { dispose(): void };
  };
  readonly TinyFaceDetectorOptions: new (options: { inputSize: number; scoreThreshold: number }) => unknown;
  detectAllFaces(
    input: unknown,
    options: unknown,
  ): {
    withFaceLandmarks(): Promise<
      readonly {
        detection: { score: number; box: { width: number; height: number } };
        landmarks: { positions: readonly { x: number; y: number }[] };
      }[]
    >;
  };
}

/** Sides of the square that the detector looks at: the small one finds the usual portrait, the large one a face farther off. */
const SIDES = [320, 608];
const LEAST_SCORE = 0.35;

async function load(): Promise<FacePackage> {
  const face = (await import('@vladmandic/face-api')) as unknown as FacePackage;
  // a worker has no document: what the package would make there, it is given
  face.env.setEnv({
    Canvas: OffscreenCanvas,
    CanvasRenderingContext2D: OffscreenCanvasRenderingContext2D,
    Image: ImageBitmap,
    ImageData,
    Video: class {},
    createCanvasElement: () => new OffscreenCanvas(1, 1),
    createImageElement: () => null,
    createVideoElement: () => null,
    fetch: (address: string) => fetch(address),
    readFile: () => Promise.reject(new Error('no files here')),
  });
  await face.tf.setBackend('cpu');
  await face.tf.ready();
  const models = new URL('/face', self.location.origin).href;
  await Promise.all([face.nets.tinyFaceDetector.loadFromUri(models), face.nets.faceLandmark68Net.loadFromUri(models)]);
  return face;
}

const api: FaceWorkerApi = {
  async find({ width, height, rgb }: SmallPicture, report) {
    const face = await load();
    report(0.3);
    for (const [k, inputSize] of SIDES.entries()) {
      const input = face.tf.tensor3d(Int32Array.from(rgb), [height, width, 3], 'int32');
      const found = await face
        .detectAllFaces(input, new face.TinyFaceDetectorOptions({ inputSize, scoreThreshold: LEAST_SCORE }))
        .withFaceLandmarks();
      input.dispose();
      const [largest] = [...found].sort((a, b) => b.detection.box.width * b.detection.box.height - a.detection.box.width * a.detection.box.height);
      if (largest) return { faces: found.length, points: largest.landmarks.positions.map(({ x, y }) => ({ x: x / width, y: y / height })) };
      report(0.3 + (0.7 * (k + 1)) / SIDES.length);
    }
    return null;
  },
};

Comlink.expose(api);
