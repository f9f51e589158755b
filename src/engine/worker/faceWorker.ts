import * as Comlink from 'comlink';
import { largestFace } from '../../core/estimate/face/faces';
import { readWeights, type Weights } from '../../core/estimate/face/tensors';
import { kernelBytes } from '../../core/kernels/build/kernelBytes';
import { provideKernels } from '../../core/kernels/loader';
import type { FaceWorkerApi } from '../pool/face';

provideKernels(kernelBytes);

async function fetched(name: string): Promise<Response> {
  const response = await fetch(new URL(`/face/${name}`, self.location.origin).href);
  if (!response.ok) throw new Error(`the face model could not be fetched (${response.status})`);
  return response;
}

async function weightsOf(name: string): Promise<Weights> {
  const [layout, bytes] = await Promise.all([fetched(`${name}.json`), fetched(`${name}.bin`)]);
  return readWeights(await layout.json(), new Uint8Array(await bytes.arrayBuffer()));
}

const api: FaceWorkerApi = {
  async find(picture, report) {
    const [detector, landmarks] = await Promise.all([weightsOf('detector'), weightsOf('landmarks')]);
    report(0.1);
    return largestFace(picture, { detector, landmarks }, (share) => report(0.1 + 0.9 * share));
  },
};

Comlink.expose(api);
