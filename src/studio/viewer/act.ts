import { newId } from '../../core/document/defaults';
import { lensBlur } from '../../core/effects/lens/lensBlur';
import { clampNumber } from '../../core/values/params';
import { changeSettings, shotOf, useDocument } from '../state/documentStore';
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
  const focuses = view.picking === 'focus' || view.chapter === 'effects';
  if (focuses && shot.settings.effects.some((e) => e.kind === lensBlur.kind)) {
    focusOn(probe.distance);
    view.set({ picking: null });
    return;
  }
  if (view.picking !== 'stake' && view.chapter !== 'calibrate') return;
  const id = newId();
  const place = outputToPlate(shot, x, y);
  changeSettings((s) => {
    s.stakes.push({ id, ...place, distance: Number(Math.min(1e6, Math.max(0.01, probe.distance)).toPrecision(3)) });
  });
  view.set({ picking: null, selectedStake: id });
}
