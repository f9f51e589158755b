import { cornersInSpace, placesInTexture } from '../../core/mesh/scene';
import { storedZip } from '../bytes/zip';
import { png } from '../png/png';
import type { WrittenScene } from './definition';
import { textureOf } from './texture';

/** Lines that are put together at once: a string that grows line by line takes too long. */
const LINES = 20_000;

/** Text of many lines, as bytes. */
class Lines {
  private readonly parts: Uint8Array[] = [];
  private lines: string[] = [];
  private readonly encoder = new TextEncoder();
  add(line: string): void {
    this.lines.push(line);
    if (this.lines.length >= LINES) this.flush();
  }
  private flush(): void {
    this.parts.push(this.encoder.encode(`${this.lines.join('\n')}\n`));
    this.lines = [];
  }
  done(): Blob {
    if (this.lines.length > 0) this.flush();
    return new Blob(this.parts as Uint8Array<ArrayBuffer>[]);
  }
}

const short = (v: number): string => String(Number(v.toPrecision(7)));

/** A scene as OBJ with its materials and pictures, in a zip: metres, one object for each surface. */
export async function encodeObjZip({ scene, name: called, encoders }: WrittenScene): Promise<Uint8Array> {
  // readers take a space for the end of a file's name
  const name = called.trim().replace(/\s+/g, '-');
  const text = new Lines();
  text.add(`mtllib ${name}.mtl`);
  const materials: string[] = [];
  const pictures: { name: string; blob: Blob }[] = [];
  let first = 1;
  for (const surface of scene.surfaces) {
    const corners = cornersInSpace(surface.mesh, scene.lens, scene.sky);
    const places = placesInTexture(surface);
    text.add(`o ${surface.name}`);
    for (let i = 0; i < corners.length; i += 3) text.add(`v ${short(corners[i]!)} ${short(corners[i + 1]!)} ${short(corners[i + 2]!)}`);
    // its pictures begin below
    for (let i = 0; i < places.length; i += 2) text.add(`vt ${short(places[i]!)} ${short(1 - places[i + 1]!)}`);
    text.add(`usemtl ${surface.name}`);
    const { triangles } = surface.mesh;
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [triangles[t]! + first, triangles[t + 1]! + first, triangles[t + 2]! + first];
      text.add(`f ${a}/${a} ${b}/${b} ${c}/${c}`);
    }
    first += surface.mesh.x.length;
    const file = `${name}-${surface.name}.png`;
    // lit by itself alone
    materials.push(`newmtl ${surface.name}`, 'Ka 1 1 1', 'Kd 1 1 1', 'Ks 0 0 0', 'illum 0', `map_Kd ${file}`, `map_Ka ${file}`, '');
    const picture = textureOf(surface.texture);
    const bytes = (await png.writePicture!(picture, { bits: 8, quality: 1, encoders })) as Uint8Array<ArrayBuffer>;
    pictures.push({ name: file, blob: new Blob([bytes]) });
  }
  const zip = await storedZip([
    { name: `${name}.obj`, blob: text.done() },
    { name: `${name}.mtl`, blob: new Blob([materials.join('\n')]) },
    ...pictures,
  ]);
  return new Uint8Array(await zip.arrayBuffer());
}
