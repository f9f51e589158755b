import { keepPlace, type StrokesContent } from '../../core/depth/layers/brush/content';
import { newId } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import { lensBlur } from '../../core/effects/lens/lensBlur';
import { clampNumber } from '../../core/values/params';
import { changeContent, isLocked } from '../chapters/depth/layerActions';
import { strokeWith, useBrush } from '../chapters/depth/tools/brush/brushStore';
import { changeSettings, shotOf, useDocument } from '../state/documentStore';
import { isFull } from '../state/room';
import { useSession } from '../state/sessionStore';
import { useView } from '../state/viewStore';
import { outputToPlate, probeAt } from './probe';

/** Focuses the lens blur on a distance; the blur in hand, or the first. */
export function focusOn(distance: number, key?: string): void {
  const { selectedEffect } = useView.getState();
  changeSettings((s) => {
    const blurs = s.effects.filter((e) => e.kind === lensBlur.kind);
    const item = blurs.find((e) => e.id === selectedEffect) ?? blurs[0];
    if (item) item.values.focus = Number(clampNumber(lensBlur.params.focus, distance).toPrecision(4));
  }, key);
}

/** A click in the picture, at a place of the output 0..1: focuses in Effects, puts a stake in Calibrate. */
export function clickPicture(x: number, y: number): void {
  const shot = shotOf(useDocument.getState());
  const part = useSession.getState().preview;
  if (!shot || !part) return;
  const probe = probeAt(part, shot, x, y);
  if (!probe) return;
  const view = useView.getState();
  if (view.chapter === 'depth') {
    actInDepth(shot, x, y, probe.stack);
    return;
  }
  const focuses = view.picking === 'focus' || view.chapter === 'effects';
  if (focuses && shot.settings.effects.some((e) => e.kind === lensBlur.kind)) {
    focusOn(probe.distance);
    view.set({ picking: null });
    return;
  }
  if (view.picking !== 'stake' && view.chapter !== 'calibrate') return;
  if (isFull('stakes')) return;
  const id = newId();
  const place = outputToPlate(shot, x, y);
  changeSettings((s) => {
    s.stakes.push({ id, ...place, distance: Number(Math.min(1e6, Math.max(0.01, probe.distance)).toPrecision(3)) });
  });
  view.set({ picking: null, selectedStake: id });
}

/** In Depth: takes the distance for the brush where one is asked for, or dabs with the brush. `raw` is the stack before clean-up there. */
function actInDepth(shot: Shot, x: number, y: number, raw: number): void {
  const view = useView.getState();
  const layer = shot.settings.layers.find((l) => l.id === view.selectedLayer);
  if (layer?.kind !== 'brush') return;
  const brush = useBrush.getState();
  if (view.picking === 'distance') {
    if (raw === raw) brush.set({ mode: 'set', nearness: raw });
    view.set({ picking: null });
    return;
  }
  if (isLocked(layer)) return;
  const place = outputToPlate(shot, x, y);
  changeContent<StrokesContent>(layer.id, (c) => void c.strokes.push(strokeWith(brush, newId(), [keepPlace(place.x), keepPlace(place.y), 1])));
}
