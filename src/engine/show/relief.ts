import { skyDistance } from '../../core/mesh/scene';
import { behindSheet, frontSheet, lyingOver, stretched, thinned, type Sheet } from '../../core/mesh/sheet';
import { tessellate } from '../../core/mesh/tessellate';
import { laidScene } from '../../core/shot/sceneOut';
import type { ChainInputs, ShotRequest } from '../../core/shot/stage';
import type { ReliefPart, ReliefSpec, ReliefSurface } from '../messages/protocol';
import { textureOf } from '../../formats/mesh/texture';
import { pictureBitmap } from './paint';

const isEmpty = ({ q }: Sheet): boolean => q.every((v) => v < 0);

/** The distance that half of a surface lies nearer than, m. */
function middleOf(q: Float32Array): number {
  const some: number[] = [];
  const step = Math.max(1, Math.floor(q.length / 5000));
  for (let i = 0; i < q.length; i += step) if (q[i]! > 1e-6) some.push(q[i]!);
  some.sort((a, b) => a - b);
  return some.length === 0 ? 10 : 1 / some[some.length >> 1]!;
}

/** The scene of a shot as surfaces to be seen in space, with a sample at every `step`-th px. Throws Aborted, OmbrageError. */
export async function reliefPart(request: ShotRequest, inputs: ChainInputs, { step, cut, behind }: ReliefSpec): Promise<ReliefPart> {
  const { plate, lens } = await laidScene(request, inputs, { effects: 'surface' });
  const front = frontSheet(plate);
  const hidden = behind && cut ? behindSheet(plate) : null;
  const sheets: { readonly name: ReliefSurface['name']; readonly sheet: Sheet }[] = [
    { name: 'front', sheet: !cut ? stretched(front) : hidden && !isEmpty(hidden) ? lyingOver(front, hidden) : front },
    ...(hidden && !isEmpty(hidden) ? [{ name: 'behind' as const, sheet: hidden }] : []),
  ];
  const surfaces: ReliefSurface[] = [];
  for (const { name, sheet } of sheets) {
    const { x, y, q, triangles } = tessellate(step > 1 ? thinned(sheet, step) : sheet, () => inputs.run.checkpoint(0.5));
    const corners = new Float32Array(x.length * 3);
    for (let i = 0; i < x.length; i++) {
      corners[i * 3] = x[i]!;
      corners[i * 3 + 1] = y[i]!;
      corners[i * 3 + 2] = q[i]!;
    }
    surfaces.push({ name, corners, triangles, picture: await pictureBitmap(textureOf(sheet)) });
  }
  return { surfaces, lens, step, sky: skyDistance(front.q), middle: middleOf(front.q) };
}
