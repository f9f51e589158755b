import type { NetworkFacts, Port } from '../../core/estimate/own/guess';
import { OmbrageError } from '../../core/error';
import type { OnnxFacts, OnnxPort } from './read';
import { readOnnx } from './read';

/** Names of number types, by their numbers in ONNX. */
const TYPES: Readonly<Record<number, string>> = {
  1: 'float32',
  2: 'uint8',
  3: 'int8',
  6: 'int32',
  7: 'int64',
  9: 'bool',
  10: 'float16',
  11: 'float64',
  16: 'bfloat16',
};

const portOf = ({ name, type, dims }: OnnxPort): Port => ({ name, type: TYPES[type] ?? `${type}`, dims });

/** So many steps from the picture constants are looked for. */
const FIRST_STEPS = 3;
const ARITHMETIC = new Set(['Sub', 'Div', 'Mul', 'Add', 'Cast', 'Transpose', 'Identity']);

/** Constants of three numbers, one for each colour, that a picture meets in its first steps. */
function firstConstants({ inputs, nodes, constants }: OnnxFacts): readonly (readonly number[])[] {
  const found: (readonly number[])[] = [];
  let at = inputs[0]?.name;
  for (let step = 0; at !== undefined && step < FIRST_STEPS; step++) {
    const next = nodes.find((node) => node.inputs.includes(at!));
    if (!next || !ARITHMETIC.has(next.op)) break;
    for (const name of next.inputs) {
      const constant = constants.get(name);
      if (constant?.length === 3) found.push(constant);
    }
    at = next.outputs[0];
  }
  return found;
}

/** Size and step of the first convolution. */
function firstPatch({ nodes, shapes }: OnnxFacts): NetworkFacts['patch'] {
  const conv = nodes.find((node) => node.op === 'Conv');
  const size = conv && shapes.get(conv.inputs[1] ?? '')?.at(-1);
  return size === undefined ? null : { size, step: conv?.ints.strides?.at(-1) ?? 1 };
}

/** Bytes that a network may fill: it is copied into the memory of its runtime. */
export const MOST_BYTES = 1.2e9;

/** Refuses a file that is too large before it is read. */
export function checkNetworkSize(name: string, bytes: number): void {
  if (bytes <= MOST_BYTES) return;
  throw new OmbrageError(
    'too-large',
    `${name} fills ${(bytes / 1e9).toFixed(1)} GB; ${(MOST_BYTES / 1e9).toFixed(1)} GB can be run here.`,
    'Choose a smaller network, or one with numbers of 16 bits.',
  );
}

/** What is known of a network from its file. Throws OmbrageError that names it. */
export function networkFacts(bytes: Uint8Array, name: string): NetworkFacts {
  const facts = readOnnx(bytes, name);
  if (facts.elsewhere)
    throw new OmbrageError('weights-elsewhere', `${name} keeps what it learned in a file of its own beside it.`, 'Save the network as one file.');
  return {
    inputs: facts.inputs.map(portOf),
    outputs: facts.outputs.map(portOf),
    notes: facts.notes,
    first: firstConstants(facts),
    patch: firstPatch(facts),
  };
}
