import { skyDistance } from '../../core/mesh/scene';
import { namedSheets, sheetsOf, thinned } from '../../core/mesh/sheet';
import { spreadOf } from '../../core/mesh/spread';
import { tessellate } from '../../core/mesh/tessellate';
import { laidScene } from '../../core/shot/sceneOut';
import type { ChainInputs, ShotRequest } from '../../core/shot/stage';
import type { ReliefPart, ReliefSpec, ReliefSurface } from '../messages/protocol';
import { textureOf } from '../../formats/mesh/texture';
import { pictureBitmap } from './paint';

/** The scene of a shot as surfaces to be seen in space, with a sample at every `step`-th px. Throws Aborted, OmbrageError. */
export async function reliefPart(request: ShotRequest, inputs: ChainInputs, { step, cut, behind, pictures }: ReliefSpec): Promise<ReliefPart> {
  const { plate, lens } = await laidScene(request, inputs, { effects: 'surface', hidden: behind });
  const sheets = sheetsOf(plate, { behind, stretched: !cut });
  const surfaces: ReliefSurface[] = [];
  for (const { name, sheet } of namedSheets(sheets)) {
    const { x, y, q, triangles } = tessellate(step > 1 ? thinned(sheet, step) : sheet, () => inputs.run.checkpoint(0.5));
    const corners = new Float32Array(x.length * 3);
    for (let i = 0; i < x.length; i++) {
      corners[i * 3] = x[i]!;
      corners[i * 3 + 1] = y[i]!;
      corners[i * 3 + 2] = q[i]!;
    }
    const texture = pictures ? textureOf(sheet) : null;
    surfaces.push({ name, corners, triangles, picture: texture && { bitmap: await pictureBitmap(texture), opaque: texture.opaque } });
  }
  const { q } = sheets.front;
  const sky = skyDistance(q);
  const { middle } = spreadOf(q.length, (i) => q[i]!);
  return { surfaces, lens, step, sky, middle: 1 / Math.max(1 / sky, middle) };
}
