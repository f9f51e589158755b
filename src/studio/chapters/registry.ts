import type { ComponentType } from 'react';
import { calibrationOf } from '../../core/document/calibrationOf';
import { isTimed } from '../../core/document/driven';
import type { Shot } from '../../core/document/schema';
import { formatMetres } from '../../core/values/params';
import type { ChapterThumbs } from '../../engine/messages/protocol';
import type { Picking, PictureDrag } from '../state/picking';
import type { Placement } from '../picture/geometry';
import { registryOf } from '../../core/values/registry';
import { chapterNames, type Chapter } from '../state/chapterFacts';
import { useView } from '../state/viewStore';
import { dragPicture } from './camera/dragPicture';
import { SafeFrame } from './camera/SafeFrame';
import { stakePicking } from './calibrate/picking';
import { Stakes } from './calibrate/StakeMarks';
import { layerInHand } from './depth/layerActions';
import { toolOf } from './depth/tools/registry';
import { EffectHandles } from './effects/EffectHandles';
import { usualPicking } from './effects/picking';

export interface OnPictureProps {
  readonly shot: Shot;
  readonly place: Placement;
  /** where the view is on the page */
  readonly box: () => DOMRect;
}

/** A chapter of the workspace; what it is to the picture stands in `state/chapterFacts.ts`. */
export interface ChapterDefinition {
  /** what stands under its name, such as how much there is in it */
  figure(shot: Shot): string;
  /** the small picture of what leaves it */
  readonly thumb: keyof ChapterThumbs;
  /** its panel comes when it is first looked at */
  load(): Promise<{ default: ComponentType }>;
  /** what a click in the picture does without being asked for; null where it does nothing */
  picking?(shot: Shot): Picking | null;
  /** a click in the picture that is no picking */
  click?(shot: Shot, at: { readonly x: number; readonly y: number }): void;
  /** what is taken hold of on the picture */
  readonly OnPicture?: ComponentType<OnPictureProps>;
  /** that stays while the plate or depth is peeked at */
  readonly overPeek?: boolean;
  /** what stands over the picture by itself */
  readonly BesidePicture?: ComponentType<Pick<OnPictureProps, 'shot' | 'place'>>;
  /** what a drag that begins on something so far away does; null where it moves the picture about */
  drag?(shot: Shot, distance: number): PictureDrag | null;
}

const shortMetres = (v: number): string => (v === Infinity ? '∞' : String(Number(formatMetres(v).replace(' m', ''))));

const all: Readonly<Record<Chapter, ChapterDefinition>> = {
  plate: {
    figure: ({ plate }) => `${plate.width}×${plate.height}`,
    thumb: 'plate',
    load: () => import('./plate/PlatePanel').then((m) => ({ default: m.PlatePanel })),
  },
  depth: {
    figure: ({ settings }) => `${settings.layers.length} ${settings.layers.length === 1 ? 'layer' : 'layers'}`,
    thumb: 'depth',
    load: () => import('./depth/DepthPanel').then((m) => ({ default: m.DepthPanel })),
    click: (shot, at) => {
      const layer = layerInHand();
      if (layer) toolOf(layer).click?.(shot, layer, at);
    },
  },
  calibrate: {
    figure: ({ settings }) => {
      const c = calibrationOf(settings.calibration);
      return `${shortMetres(c.near)}–${shortMetres(c.far)} m`;
    },
    thumb: 'calibrate',
    load: () => import('./calibrate/CalibratePanel').then((m) => ({ default: m.CalibratePanel })),
    picking: () => stakePicking,
    BesidePicture: Stakes,
  },
  effects: {
    figure: ({ settings }) => `${settings.effects.filter((e) => e.on).length} on`,
    thumb: 'effects',
    load: () => import('./effects/EffectsPanel').then((m) => ({ default: m.EffectsPanel })),
    picking: (shot) => usualPicking(shot, useView.getState().selectedEffect),
    OnPicture: EffectHandles,
  },
  camera: {
    figure: ({ settings: { camera } }) => {
      const on = camera.moves.filter((m) => m.on).length;
      return camera.stereo.on ? 'two eyes' : on === 0 ? 'still' : `${on} ${on === 1 ? 'move' : 'moves'}`;
    },
    thumb: 'camera',
    drag: dragPicture,
    OnPicture: SafeFrame,
    overPeek: true,
    load: () => import('./camera/CameraPanel').then((m) => ({ default: m.CameraPanel })),
  },
  output: {
    figure: ({ plate, settings }) =>
      isTimed({ plate, settings })
        ? `${(settings.time.length / settings.time.fps).toFixed(1)} s`
        : `${settings.framing.width}×${settings.framing.height}`,
    thumb: 'camera',
    load: () => import('./output/OutputPanel').then((m) => ({ default: m.OutputPanel })),
  },
};

export const chapterRegistry = registryOf<ChapterDefinition & { readonly kind: Chapter }>(
  'panel of a chapter',
  chapterNames.map((kind) => ({ kind, ...all[kind] })),
);
export const chapterOf: (kind: Chapter) => ChapterDefinition = chapterRegistry.named;
