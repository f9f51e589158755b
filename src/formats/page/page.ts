import { deflateSync } from 'fflate';
import type { SceneMesh } from '../../core/mesh/scene';
import { gainFor } from '../../core/mesh/spread';
import type { Picture } from '../../core/picture';
import { linearToSrgb } from '../../core/raster/colour';
import type { Encoders } from '../definition';
import { textureOf } from '../mesh/texture';
import { base64, documentOf } from './document';
import { runtime } from './build/runtime';
import { packMesh } from './packed';
import type { PageFacts, PageMotion } from './facts';

/** Quality of the pictures in a page. */
const QUALITY = 0.86;
/** Not more than this is enlarged to keep the border out of view. */
const MOST_ENLARGED = 1.35;

/** What a page is made of. */
export interface PageChoice {
  /** by how much the nearest passes the farthest from one side to the other, share of the width */
  readonly parallax: number;
  /** the distance that stands still, m */
  readonly stands: number;
  /** what the page says to who does not see it */
  readonly words: string;
  /** its title */
  readonly name: string;
}

/** How a scene moves in a page. Exact for an eye that goes aside and does not turn. */
export function motionOf({ surfaces, lens, sky, spread }: SceneMesh, { parallax, stands }: Pick<PageChoice, 'parallax' | 'stands'>): PageMotion {
  const { width, height, focalPx: focal } = lens;
  const front = surfaces[0]!.mesh;
  // the scale of what is packed: the very nearest
  const most = surfaces.reduce((far, { mesh }) => mesh.q.reduce((m, q) => Math.max(m, q), far), 1e-9);
  const ends = { least: Math.max(spread.least, 1 / sky), most: Math.max(spread.most, 1 / sky) };
  const still = Math.min(ends.most, Math.max(ends.least, 1 / stands));
  // from one side to the other: half of it each way
  const aside = gainFor(parallax, width, ends) / (2 * focal);
  const up = aside / 2;
  // how far anything at the border moves
  let reach = 0;
  for (let i = 0; i < front.x.length; i++) {
    const edge = front.x[i]! < 1 || front.y[i]! < 1 || front.x[i]! > width - 1 || front.y[i]! > height - 1;
    if (edge) reach = Math.max(reach, Math.abs(front.q[i]! - still));
  }
  const [across, along] = [focal * aside * reach, focal * up * reach];
  const enlarged = Math.min(MOST_ENLARGED, Math.max(width / 2 / Math.max(1, width / 2 - across), height / 2 / Math.max(1, height / 2 - along)));
  return { width, height, focal, most, still, aside, up, enlarged };
}

/** The colour that most of a picture has, for what is seen round it, as #rrggbb. */
function meanColour({ data }: Picture): string {
  const sum = [0, 0, 0];
  for (let i = 0; i < data.length; i += 4) for (let c = 0; c < 3; c++) sum[c]! += data[i + c]!;
  // darker, so that the picture stands out
  return `#${sum
    .map((s) =>
      Math.round(255 * 0.45 * linearToSrgb(Math.min(1, (4 * s) / data.length)))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}

/**
 * A page of its own in one file: the scene, moved by pointer, finger, keys or tilt. It asks nothing of any place; without scripts it is the picture. All text
 * that was given is escaped.
 */
export async function encodePage(scene: SceneMesh, choice: PageChoice, encoders: Encoders): Promise<Uint8Array> {
  const facts = motionOf(scene, choice);
  const { width, height } = facts;
  let opaque = true;
  const pictures: string[] = [];
  const surfaces: PageFacts['surfaces'][number][] = [];
  let round = '#1a1a19';
  for (const { name, mesh, texture } of scene.surfaces) {
    const picture = textureOf(texture);
    if (name === 'front') round = meanColour(picture);
    opaque &&= picture.opaque;
    const bytes = await encoders.webp(picture, QUALITY);
    const alt = name === 'front' ? ' id="front" alt=""' : ' id="behind" alt="" hidden';
    pictures.push(`<img${alt} src="data:image/webp;base64,${base64(bytes)}" width="${width}" height="${height}">`);
    surfaces.push({
      picture: name,
      corners: mesh.x.length,
      triangles: mesh.triangles.length / 3,
      mesh: base64(deflateSync(packMesh(mesh, width, height, facts.most), { level: 9 })),
    });
  }
  return documentOf({
    name: choice.name,
    words: choice.words,
    size: facts,
    round,
    style: `#front,canvas{position:absolute;inset:0;width:100%;height:100%;display:block}
#front{object-fit:cover;transform:scale(${facts.enlarged.toFixed(5)})}
#tilt{position:fixed;right:12px;bottom:12px;font:14px system-ui,sans-serif;padding:8px 12px;border:1px solid #0006;border-radius:6px;background:#efe9dc;color:#1a1a19}`,
    inside: pictures.join('\n'),
    beside: '<button id="tilt" type="button" hidden>Move it with the phone</button>',
    facts: { ...facts, opaque, surfaces } satisfies PageFacts,
    script: runtime,
  });
}
