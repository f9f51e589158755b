import type { FileRef } from '../need/fileRef';
import { namedMove } from '../camera/registry';
import { namedCleanup } from '../depth/cleanup/registry';
import { namedLayer } from '../depth/layers/registry';
import { effectDefaults } from '../effects/definition';
import { namedEffect } from '../effects/registry';
import { defaultsOf } from '../values/params';
import { OUTPUT_LIMIT } from '../limits';
import {
  calibrationSchema,
  cameraSchema,
  DOCUMENT_VERSION,
  timeSchema,
  USUAL_HFOV,
  type CleanupItem,
  type EffectItem,
  type Layer,
  type MoveItem,
  type Project,
  type Settings,
  type Shot,
} from './schema';

/** Twelve hexadecimal digits by chance. (`randomUUID` is there only on localhost and over TLS.) */
export const newId = (): string => Array.from(crypto.getRandomValues(new Uint8Array(6)), (b) => b.toString(16).padStart(2, '0')).join('');

export const newLayer = (kind: string, media?: FileRef): Layer => {
  const definition = namedLayer(kind);
  return {
    id: newId(),
    kind,
    name: definition.label,
    visible: true,
    opacity: 1,
    blend: definition.blend ?? 'replace',
    locked: false,
    values: defaultsOf(definition.params),
    drives: {},
    ...(media && { media }),
    ...(definition.content && { content: definition.content.parse({}) }),
  };
};

export const newCleanup = (kind: string): CleanupItem => ({
  kind,
  on: true,
  values: defaultsOf(namedCleanup(kind).params),
  drives: {},
});

export const newEffect = (kind: string): EffectItem => ({
  id: newId(),
  kind,
  on: true,
  values: effectDefaults(namedEffect(kind)) as EffectItem['values'],
  drives: {},
});

export const newMove = (kind: string): MoveItem => ({
  id: newId(),
  kind,
  on: true,
  values: defaultsOf(namedMove(kind).params),
  drives: {},
});

/** What a shot is called by its file: without its ending, where something is left then. */
const shotName = (file: string): string => (file.replace(/\.[^.]+$/, '').trim() || file.trim() || 'Unnamed').slice(0, 200);

/** A shot of a plate: estimated depth, no scale yet, a lens blur focused on the middle distance. */
export function newShot(plate: Shot['plate']): Shot {
  const shrink = Math.min(1, OUTPUT_LIMIT / Math.max(plate.width, plate.height));
  const settings: Settings = {
    framing: {
      width: Math.max(16, Math.round(plate.width * shrink)),
      height: Math.max(16, Math.round(plate.height * shrink)),
      mode: 'fill',
      scale: 1,
      x: 0,
      y: 0,
      turns: 0,
    },
    hfovDegrees: plate.hfovFromFile ?? USUAL_HFOV,
    layers: [newLayer('estimate')],
    cleanup: [],
    calibration: calibrationSchema.parse({ near: 1, far: 30 }),
    stakes: [],
    effects: [newEffect('lens-blur')],
    camera: cameraSchema.parse({}),
    time: timeSchema.parse({}),
    drives: {},
  };
  return { id: newId(), name: shotName(plate.name), plate, settings, takes: [], take: null, previousTake: null };
}

export const newProject = (name: string): Project => ({ version: DOCUMENT_VERSION, id: newId(), name, shots: [] });

export { calibrationOf, storedFar } from './calibrationOf';
