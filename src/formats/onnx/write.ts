import { PbfWriter } from 'pbf';

/** Types of numbers, as ONNX counts them. */
export const ONNX_TYPES = { float32: 1, uint8: 2, int64: 7, float16: 10 } as const;
export type OnnxType = keyof typeof ONNX_TYPES;

export interface WrittenPort {
  readonly name: string;
  readonly type?: OnnxType;
  readonly dims: readonly (number | string)[];
}

export interface WrittenNode {
  readonly op: string;
  readonly inputs: readonly string[];
  readonly outputs: readonly string[];
  readonly attributes?: Readonly<Record<string, number | string | readonly number[]>>;
}

/** A constant: floats, or whole numbers such as sizes and places. */
export interface WrittenConstant {
  readonly name: string;
  readonly dims: readonly number[];
  readonly data: Float32Array | BigInt64Array;
}

export interface WrittenGraph {
  readonly name: string;
  readonly inputs: readonly WrittenPort[];
  readonly outputs: readonly WrittenPort[];
  readonly nodes: readonly WrittenNode[];
  readonly constants: readonly WrittenConstant[];
  readonly notes?: Readonly<Record<string, string>>;
}

/** Version of the file's form, and of the operators' definitions. */
const IR = 8;
const OPSET = 17;

const KINDS = { float: 1, int: 2, string: 3, ints: 7 } as const;

const port = (w: WrittenPort, pbf: PbfWriter): void => {
  pbf.writeStringField(1, w.name);
  pbf.writeMessage(
    2,
    (_, type) =>
      type.writeMessage(
        1,
        (__, tensor) => {
          tensor.writeVarintField(1, ONNX_TYPES[w.type ?? 'float32']);
          tensor.writeMessage(
            2,
            (___, shape) => {
              for (const d of w.dims)
                shape.writeMessage(1, (side, dim) => (typeof side === 'number' ? dim.writeVarintField(1, side) : dim.writeStringField(2, side)), d);
            },
            null,
          );
        },
        null,
      ),
    null,
  );
};

const attribute = ([name, value]: readonly [string, number | string | readonly number[]], pbf: PbfWriter): void => {
  pbf.writeStringField(1, name);
  if (typeof value === 'string') {
    pbf.writeBytesField(4, new TextEncoder().encode(value));
    pbf.writeVarintField(20, KINDS.string);
  } else if (typeof value !== 'number') {
    pbf.writePackedVarint(8, [...value]);
    pbf.writeVarintField(20, KINDS.ints);
  } else if (Number.isInteger(value)) {
    pbf.writeVarintField(3, value);
    pbf.writeVarintField(20, KINDS.int);
  } else {
    pbf.writeFloatField(2, value);
    pbf.writeVarintField(20, KINDS.float);
  }
};

const node = (w: WrittenNode, pbf: PbfWriter): void => {
  for (const name of w.inputs) pbf.writeStringField(1, name);
  for (const name of w.outputs) pbf.writeStringField(2, name);
  pbf.writeStringField(4, w.op);
  for (const entry of Object.entries(w.attributes ?? {})) pbf.writeMessage(5, attribute, entry);
};

const constant = (w: WrittenConstant, pbf: PbfWriter): void => {
  pbf.writePackedVarint(1, [...w.dims]);
  pbf.writeVarintField(2, w.data instanceof Float32Array ? ONNX_TYPES.float32 : ONNX_TYPES.int64);
  pbf.writeStringField(8, w.name);
  pbf.writeBytesField(9, new Uint8Array(w.data.buffer, w.data.byteOffset, w.data.byteLength));
};

/** Writes a network as an ONNX file (onnx.proto, ONNX 1.17). */
export function writeOnnx(graph: WrittenGraph): Uint8Array {
  const pbf = new PbfWriter();
  pbf.writeVarintField(1, IR);
  pbf.writeStringField(2, 'ombrage');
  pbf.writeMessage(
    7,
    (g, to) => {
      for (const one of g.nodes) to.writeMessage(1, node, one);
      to.writeStringField(2, g.name);
      for (const one of g.constants) to.writeMessage(5, constant, one);
      for (const one of g.inputs) to.writeMessage(11, port, one);
      for (const one of g.outputs) to.writeMessage(12, port, one);
    },
    graph,
  );
  pbf.writeMessage(8, (_, to) => to.writeVarintField(2, OPSET), null);
  for (const entry of Object.entries(graph.notes ?? {}))
    pbf.writeMessage(
      14,
      ([key, value], to) => {
        to.writeStringField(1, key);
        to.writeStringField(2, value);
      },
      entry,
    );
  return pbf.finish();
}
