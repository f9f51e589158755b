import * as z from 'zod';
import { create } from 'zustand';
import { breakBeyond } from '../../../core/camera/breaks';
import { rulerDistance, rulerOf } from '../../../core/depth/ruler';
import { calibrationOf } from '../../../core/document/calibrationOf';
import { newEffect, newId } from '../../../core/document/defaults';
import { copyOf } from '../../../core/values/copy';
import { ENDLESS, writeJson } from '../../../core/values/endless';
import { effectSchema, type EffectItem, type Shot } from '../../../core/document/schema';
import type { EffectStart } from '../../../core/effects/definition';
import { knowsEffect, namedEffect } from '../../../core/effects/registry';
import { renderLens } from '../../../core/shot/frame';
import { changeSettings, shotOf, useDocument } from '../../state/documentStore';
import { isFull } from '../../state/room';
import { useSession } from '../../state/sessionStore';
import { useView } from '../../state/viewStore';
import { focusOf } from '../camera/judge';

/** What a shot is like where a new effect begins: from its picture's own depths, as far as they are known. */
export function effectStart(shot: Shot): EffectStart {
  const { near, far, spacing } = calibrationOf(shot.settings.calibration);
  const choice = useView.getState().ruler;
  const ruler = rulerOf({ near, far }, choice === 'as-map' ? spacing : choice);
  const bins = useSession.getState().preview?.histogram;
  const at = (share: number): number => {
    let [sum, k] = [0, 0];
    if (bins) while (k < bins.length && (sum += bins[k]!) < share) k++;
    const z = rulerDistance(ruler, bins ? Math.min(0.995, (k + 0.5) / bins.length) : share);
    return Number.isFinite(z) ? z : 50 * near;
  };
  const { width, height } = shot.settings.framing;
  const { focalPx } = renderLens({ plate: shot.plate, settings: shot.settings, size: shot.settings.framing });
  const subject = focusOf(shot.settings) ?? at(0.4);
  const { relief } = useSession.getState();
  return {
    subject,
    behind: (relief && breakBeyond(relief, subject)) ?? Number((1.3 * subject).toPrecision(3)),
    near: at(0.05),
    middle: at(0.5),
    far: at(0.95),
    tangentX: width / 2 / focalPx,
    tangentY: height / 2 / focalPx,
  };
}

/** An effect as it would be added to a shot: so that it is seen at once. */
export function freshEffect(kind: string, shot: Shot): EffectItem {
  const item = newEffect(kind);
  const start = effectStart(shot);
  const started = namedEffect(kind).startOn?.(start) as EffectItem['values'] | undefined;
  // a reach that is switched on later lies about the subject
  const reach: EffectItem['values'] = 'reachFrom' in item.values ? { reachFrom: 0, reachTo: start.behind } : {};
  return { ...item, values: { ...item.values, ...reach, ...started } };
}

/** Adds effects on top of those of their groups, and takes the last in hand. */
function put(items: readonly EffectItem[]): void {
  const last = items[items.length - 1];
  if (!last || isFull('effects')) return;
  changeSettings((s) => void s.effects.push(...items));
  useView.getState().set({ selectedEffect: last.id });
}

export function addEffect(kind: string): void {
  const shot = shotOf(useDocument.getState());
  if (shot) put([freshEffect(kind, shot)]);
}

/** Another one like it, right after it. */
export function duplicateEffect(id: string): void {
  if (isFull('effects')) return;
  const copy = newId();
  changeSettings((s) => {
    const at = s.effects.findIndex((e) => e.id === id);
    const item = s.effects[at];
    if (item) s.effects.splice(at + 1, 0, { ...copyOf(item), id: copy });
  });
  useView.getState().set({ selectedEffect: copy });
}

const PLACE = 'ombrage.copied';
const copiedSchema = z.array(effectSchema).max(100);

/** Effects that were copied: in this browser, so that other shots and projects can take them. */
export const useCopied = create<{ items: readonly EffectItem[] }>()(() => ({ items: recall() }));

function recall(): readonly EffectItem[] {
  try {
    return copiedSchema.parse(JSON.parse(localStorage.getItem(PLACE) ?? '[]', (_, v: unknown) => (v === ENDLESS ? Infinity : v)));
  } catch {
    return [];
  }
}

export function copyEffects(items: readonly EffectItem[]): void {
  useCopied.setState({ items });
  try {
    localStorage.setItem(PLACE, writeJson(items));
  } catch {
    // where there is no room they are kept while the page lives
  }
}

export function pasteEffects(): void {
  const layers = shotOf(useDocument.getState())?.settings.layers ?? [];
  put(
    useCopied
      .getState()
      .items.filter((e) => knowsEffect(e.kind))
      // a region is of the shot that its layer is in
      .map(({ region, ...e }) => ({ ...copyOf(e), ...(layers.some((l) => l.id === region?.layer) && { region }), id: newId() })),
  );
}
