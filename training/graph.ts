import type { WrittenConstant, WrittenNode } from '../src/formats/onnx/write';

/** A network that grows by a step at a time; each step answers the name of what comes out of it. */
export class GrowingGraph {
  readonly nodes: WrittenNode[] = [];
  readonly constants: WrittenConstant[] = [];
  private count = 0;

  constant(data: Float32Array | BigInt64Array, dims: readonly number[]): string {
    const name = `c${this.constants.length}`;
    this.constants.push({ name, dims, data });
    return name;
  }

  step(op: string, inputs: readonly string[], attributes?: WrittenNode['attributes']): string {
    const name = `v${this.count++}`;
    this.nodes.push({ op, inputs, outputs: [name], ...(attributes && { attributes }) });
    return name;
  }

  /** What a step made goes out under a name. */
  out(from: string, name: string): void {
    this.nodes.push({ op: 'Identity', inputs: [from], outputs: [name] });
  }

  floats = (...values: readonly number[]): string => this.constant(Float32Array.from(values), values.length === 1 ? [] : [values.length]);
  whole = (...values: readonly number[]): string => this.constant(BigInt64Array.from(values, BigInt), [values.length]);
}
