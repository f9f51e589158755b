import { flatSchema, type Flat, type FlatsContent } from '../../../../../core/depth/layers/flats/content';
import { freePlace } from '../../../../../core/depth/layers/flats/place';
import { newId } from '../../../../../core/document/defaults';
import { engine } from '../../../../../engine/pool/engine';
import { sha256 } from '../../../../../formats/bytes/sha256';
import { database } from '../../../../../store/database';
import { putMedia } from '../../../../../store/media';
import { shotOf, useDocument } from '../../../../state/documentStore';
import { useSession } from '../../../../state/sessionStore';
import { layerStart } from '../../../../picture/probe';
import { changeContent, layerById } from '../../layerActions';
import { useFlats } from './flatsStore';

function add(layerId: string, flat: Partial<Flat> & Pick<Flat, 'name'>): void {
  if (!layerById(layerId)) return;
  const id = newId();
  const shot = shotOf(useDocument.getState());
  changeContent<FlatsContent>(layerId, (c) => {
    const last = c.flats[c.flats.length - 1];
    const made = flatSchema.parse({ distance: last?.distance ?? 3, ...flat, id });
    const place = freePlace(c.flats, made, shot ? shot.plate.width / shot.plate.height : 1);
    // it stands where its foot is, a little before what lies there
    const under = shot && layerStart(shot, useSession.getState().preview).distanceAt(place.x, Math.min(0.99, place.y));
    const distance = under && Number.isFinite(under) ? Number(Math.min(1e6, 0.98 * under).toPrecision(3)) : made.distance;
    c.flats.push({ ...made, ...place, distance });
  });
  useFlats.getState().set({ flat: id });
}

export async function addPicture(layerId: string, file: File): Promise<void> {
  const { facts, raster, sha256: hash } = await engine().decode(file, file.name);
  await putMedia(database(), hash, file.name, file);
  await engine().hold('raster', hash, raster);
  const media = { sha256: hash, name: file.name.slice(0, 200), width: facts.width, height: facts.height };
  add(layerId, { name: file.name.replace(/\.[^.]+$/, '').slice(0, 200), media, aspect: Math.min(100, Math.max(0.01, facts.width / facts.height)) });
}

export const addCard = (layerId: string): void => add(layerId, { name: 'Card', aspect: 0.7 });

const TEXT_PX = 200;

/** Words as a picture: sharp, see-through around. */
export async function pictureOfText(text: string, colour: string): Promise<{ media: NonNullable<Flat['media']>; aspect: number }> {
  const font = `600 ${TEXT_PX}px "Hanken Grotesk Variable", sans-serif`;
  const measure = new OffscreenCanvas(1, 1).getContext('2d')!;
  measure.font = font;
  const width = Math.min(6000, Math.max(8, Math.ceil(measure.measureText(text).width + TEXT_PX * 0.2)));
  const height = Math.ceil(TEXT_PX * 1.3);
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d')!;
  Object.assign(context, { font, fillStyle: colour, textBaseline: 'middle', textAlign: 'center' });
  context.fillText(text, width / 2, height * 0.52, width);
  const blob = await canvas.convertToBlob({ type: 'image/png' });
  const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
  await putMedia(database(), hash, 'words.png', blob);
  return { media: { sha256: hash, name: 'words.png', width, height }, aspect: width / height };
}

export async function addText(layerId: string, text: string): Promise<void> {
  const { media, aspect } = await pictureOfText(text, '#efe9dc');
  add(layerId, { name: text.slice(0, 200), text, media, aspect, height: 0.14, colour: '#efe9dc' });
}

/** Says something else, or in another colour. */
export async function setText(layerId: string, flat: Flat, text: string, colour: string): Promise<void> {
  const { media, aspect } = await pictureOfText(text, colour);
  changeContent<FlatsContent>(layerId, (c) => {
    const found = c.flats.find((f) => f.id === flat.id);
    if (found) Object.assign(found, { text, name: text.slice(0, 200), media, aspect, colour });
  });
}
