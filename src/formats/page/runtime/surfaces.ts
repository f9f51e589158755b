import type { PageFacts } from '../facts';
import { unpackMesh } from '../packed';

/** A surface ready to be drawn. */
export interface Surface {
  readonly corners: Uint16Array;
  readonly triangles: Uint32Array;
  readonly picture: HTMLImageElement;
}

/** Reads the surfaces that stand in the page. */
export const readSurfaces = (facts: PageFacts): Promise<Surface[]> =>
  Promise.all(
    facts.surfaces.map(async ({ picture: id, corners, triangles, mesh }) => {
      const picture = document.getElementById(id) as HTMLImageElement;
      const packed = Uint8Array.from(atob(mesh), (c) => c.charCodeAt(0));
      const open = new Blob([packed]).stream().pipeThrough(new DecompressionStream('deflate-raw'));
      const [bytes] = await Promise.all([new Response(open).arrayBuffer(), picture.decode()]);
      return { ...unpackMesh(new Uint8Array(bytes), corners, triangles), picture };
    }),
  );
