import type { RowKernel } from '../run';
import { viewKernel } from '../camera/viewKernel';
import { blurKernel } from '../kernels/blurKernel';

/** Every row kernel, so that a worker that lends a hand finds it by its name. */
const all: readonly RowKernel<unknown>[] = [blurKernel, viewKernel];

const byName = new Map(all.map((kernel) => [kernel.name, kernel]));

/** The kernel of a name. Throws where there is none: a kernel that is used stands in the list above. */
export function rowKernel(name: string): RowKernel<unknown> {
  const found = byName.get(name);
  if (!found) throw new Error(`no row kernel "${name}"`);
  return found;
}
