import * as Comlink from 'comlink';
import type * as Runtime from 'onnxruntime-web';
import { foundUse } from '../../core/estimate/own/guess';
import type { OpenNetwork } from '../../core/estimate/own/runs';
import { checkNetworkSize, networkFacts } from '../../formats/onnx/facts';
import { openNetwork } from '../../formats/onnx/session';
import { sha256 } from '../../formats/bytes/sha256';
import { errorsCross } from '../messages/errors';
import type { NetworkWorkerApi } from '../messages/networkCalls';

errorsCross();

/** More threads than these wait for each other. */
const MOST_THREADS = 8;

/** The runtime, from this site alone: for the graphics processor where there is one. */
async function runtimeFor(): Promise<{ readonly runtime: typeof Runtime; readonly providers: readonly string[] }> {
  const gpu = (navigator as { gpu?: { requestAdapter(): Promise<unknown> } }).gpu;
  const adapter = await gpu?.requestAdapter().catch(() => null);
  const address = new URL(`/onnx/ort.${adapter ? 'webgpu' : 'wasm'}.min.mjs`, self.location.origin).href;
  const runtime = (await import(/* turbopackIgnore: true */ address)) as typeof Runtime;
  runtime.env.wasm.wasmPaths = new URL('/onnx/', self.location.origin).href;
  runtime.env.wasm.numThreads = self.crossOriginIsolated ? Math.min(MOST_THREADS, navigator.hardwareConcurrency) : 1;
  return { runtime, providers: adapter ? ['webgpu', 'wasm'] : ['wasm'] };
}

let opened: OpenNetwork | null = null;
/** one run at a time */
let last: Promise<unknown> = Promise.resolve();

async function bytesOf(file: Blob, name: string): Promise<Uint8Array> {
  checkNetworkSize(name, file.size);
  return new Uint8Array(await file.arrayBuffer());
}

const api: NetworkWorkerApi = {
  async read(file, name) {
    const bytes = await bytesOf(file, name);
    return foundUse(networkFacts(bytes, name), { sha256: await sha256(bytes), name });
  },
  async open(file, name) {
    const bytes = await bytesOf(file, name);
    const { runtime, providers } = await runtimeFor();
    await opened?.close();
    opened = await openNetwork(runtime, bytes, name, providers);
  },
  async run(asked) {
    const run = last.then(async () => {
      const started = performance.now();
      const answer = await opened!.run(asked);
      return { ...answer, seconds: (performance.now() - started) / 1000 };
    });
    last = run.catch(() => undefined);
    const answer = await run;
    return Comlink.transfer(answer, [answer.data.buffer as ArrayBuffer]);
  },
};

Comlink.expose(api);
