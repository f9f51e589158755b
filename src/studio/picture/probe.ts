import { nearnessAtDistance, nearnessOf } from '../../core/depth/calibrate';
import { calibrationOf } from '../../core/document/defaults';
import type { LayerStart } from '../../core/depth/definition';
import type { Settings, Shot } from '../../core/document/schema';
import { lensBlur, lensBlurRadius, type LensBlurValues } from '../../core/effects/lens/lensBlur';
import { renderLens } from '../../core/shot/frame';
import { applyAffine, invertAffine } from '../../core/raster/resample';
import { framingAffine } from '../../core/document/framing';
import { valuesSchema } from '../../core/values/params';
import type { PreviewPart } from '../../engine/messages/protocol';
import { shotNow } from '../state/shotNow';

export interface Probe {
  /** metres */
  readonly distance: number;
  readonly nearness: number;
  /** the cleaned map, 0..1 */
  readonly raw: number;
  /** the depth stack before clean-up, 0..1; NaN where nothing is known */
  readonly stack: number;
  /** signed blur radius in px of the output, null where no lens blur is on */
  readonly blur: number | null;
}

/** The lens blur that acts, if there is one. */
export const activeLensBlur = (settings: Settings): LensBlurValues | null => {
  const item = settings.effects.find((e) => e.on && e.kind === lensBlur.kind);
  return item ? valuesSchema(lensBlur.params).parse(item.values) : null;
};

/** What the picture holds at a place of the output, 0..1. */
export function probeAt(part: PreviewPart, shot: Shot, x: number, y: number): Probe | null {
  if (x < 0 || y < 0 || x >= 1 || y >= 1) return null;
  const { width, height } = part.size;
  const i = Math.floor(y * height) * width + Math.floor(x * width);
  const raw = part.raw[i];
  const distance = part.distance[i];
  if (raw === undefined || distance === undefined) return null;
  const { settings } = shotNow(shot);
  const { framing, calibration } = settings;
  const blur = activeLensBlur(settings);
  const lens = renderLens({ plate: shot.plate, settings, size: framing });
  const c = calibrationOf(calibration);
  const nearness = part.stage === 'full' ? nearnessOf(raw, c) : nearnessAtDistance(distance, c);
  return { distance, nearness, raw, stack: part.stack[i] ?? raw, blur: blur && lensBlurRadius(blur, lens, 1, distance) };
}

/** Place in the output (0..1) to place in the plate (0..1), and back. */
export function outputToPlate(shot: Shot, x: number, y: number): { x: number; y: number } {
  const p = applyAffine(framingAffine(shot.plate, shotNow(shot).settings.framing, { width: 1, height: 1 }), x, y);
  return { x: p.x / shot.plate.width, y: p.y / shot.plate.height };
}

export function plateToOutput(shot: Shot, x: number, y: number): { x: number; y: number } {
  const m = invertAffine(framingAffine(shot.plate, shotNow(shot).settings.framing, { width: 1, height: 1 }));
  return applyAffine(m, x * shot.plate.width, y * shot.plate.height);
}

/** What lies at places of the plate, for what begins on it: from the picture as it is shown. */
export function layerStart(shot: Shot, part: PreviewPart | null): LayerStart {
  const { plate, settings } = shotNow(shot);
  return {
    plate,
    focalPx: plate.width / 2 / Math.tan((settings.hfovDegrees * Math.PI) / 360),
    distanceAt(x, y) {
      const o = plateToOutput(shot, x, y);
      return (part && probeAt(part, shot, o.x, o.y)?.distance) ?? null;
    },
  };
}

/** The middle of the raw map's values at places of the plate; null where nothing is known. */
export function rawUnder(shot: Shot, part: PreviewPart | null, places: readonly { readonly x: number; readonly y: number }[]): number | null {
  const found = places
    .flatMap(({ x, y }) => {
      const o = plateToOutput(shot, x, y);
      return (part && probeAt(part, shot, o.x, o.y)?.raw) ?? [];
    })
    .sort((a, b) => a - b);
  return found[found.length >> 1] ?? null;
}
