import type * as Runtime from 'onnxruntime-web';
import { OmbrageError } from '../../core/error';
import type { NetworkRun, OpenNetwork } from '../../core/estimate/own/runs';

type Session = Runtime.InferenceSession;

/** What the runtime does with a network, said of the file. */
function errorOf(error: unknown, name: string, doing: 'open' | 'run'): OmbrageError {
  const text = error instanceof Error ? error.message : String(error);
  const op = /(?:Could not find an implementation for |No Op registered for |Op \()([\w.]+)/.exec(text)?.[1];
  if (op)
    return new OmbrageError(
      'unknown-operator',
      `${name} uses ${op}, which cannot be run here.`,
      'Export the network with ONNX operators of version 17 or older.',
    );
  if (/alloc|memory|Aborted|out of bounds|Array buffer|^\d+$/i.test(text))
    return new OmbrageError('no-memory', `There is not enough memory for ${name}.`, 'Close other programs, or choose a smaller network.');
  const first = text
    .split('\n')[0]!
    .replace(/^.*?ERROR_MESSAGE:?\s*/, '')
    .slice(0, 200);
  return doing === 'open'
    ? new OmbrageError('not-a-network', `${name} cannot be opened: ${first}`, 'Choose an undamaged .onnx file.')
    : new OmbrageError('network-failed', `${name} could not be run: ${first}`, 'Choose another size for it, or another network.');
}

/** Halves come as their bits, or as numbers where the runtime's language knows them. */
async function floatsOf({ type, data }: Runtime.Tensor): Promise<Float32Array | null> {
  if (type === 'float32') return data as Float32Array;
  if (type === 'float16' && data instanceof Uint16Array) {
    const { DataUtils } = await import('three');
    return Float32Array.from(data, (bits) => DataUtils.fromHalfFloat(bits));
  }
  return ['float16', 'float64', 'uint8', 'int32'].includes(type) ? Float32Array.from(data as Float64Array) : null;
}

/** Opens a network for running, `providers` in their order. Throws OmbrageError that names the file. */
export async function openNetwork(runtime: typeof Runtime, bytes: Uint8Array, name: string, providers: readonly string[]): Promise<OpenNetwork> {
  let session: Session;
  try {
    session = await runtime.InferenceSession.create(bytes, {
      executionProviders: [...providers],
      graphOptimizationLevel: 'all',
      logSeverityLevel: 4,
    });
  } catch (error) {
    throw errorOf(error, name, 'open');
  }
  const tensorOf = async ({ type, data, dims }: NetworkRun): Promise<Runtime.Tensor> => {
    if (type === 'uint8')
      return new runtime.Tensor(
        'uint8',
        Uint8Array.from(data, (v) => Math.round(v)),
        dims,
      );
    if (type === 'float32') return new runtime.Tensor('float32', data, dims);
    const { DataUtils } = await import('three');
    return new runtime.Tensor(
      'float16',
      Uint16Array.from(data, (v) => DataUtils.toHalfFloat(v)),
      dims,
    );
  };
  return {
    async run(asked) {
      const tensor = await tensorOf(asked);
      try {
        const answers = await session.run({ [asked.input]: tensor }, [asked.output]);
        const answer = answers[asked.output]!;
        const data = await floatsOf(answer);
        if (!data)
          throw new OmbrageError(
            'wrong-answer',
            `${name} answers in ${answer.type}, which is no depth.`,
            'Choose a network that gives one plane of depth.',
          );
        // the runtime's own memory is given back below
        const kept = { dims: [...answer.dims], data: data.slice() };
        answer.dispose();
        return kept;
      } catch (error) {
        throw error instanceof OmbrageError ? error : errorOf(error, name, 'run');
      } finally {
        tensor.dispose();
      }
    },
    close: () => session.release(),
  };
}
