import type { EffectItem, Shot } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { clampNumber } from '../../../core/values/params';
import { setNumber } from '../../../core/document/driven';
import { changeSettings } from '../../state/documentStore';
import type { Picking } from '../../state/picking';
import { useView } from '../../state/viewStore';

/** A distance as a click gives it. */
const asSet = (distance: number): number => Number(distance.toPrecision(4));

/** Waits for a click that gives an effect one of its distances; null where that is none. */
export function pickFor({ id, kind }: EffectItem, name: string, prompt: string): Picking | null {
  const param = effectOf(kind).params[name];
  if (param?.type !== 'number' || !param.distance) return null;
  return {
    id: `${id}:${name}`,
    prompt,
    take: ({ distance }) =>
      changeSettings((s) => setNumber(s, { place: 'effect', item: id, name }, asSet(clampNumber(param, distance)), useView.getState().frame)),
  };
}

/** What a click in the picture sets while effects are worked on: the distance that the effect in hand offers, or else the first that offers one. */
export function usualPicking(shot: Shot, selected: string | null): Picking | null {
  const offering = shot.settings.effects.filter((e) => effectOf(e.kind).picking);
  const chosen = shot.settings.effects.find((e) => e.id === selected);
  const item = chosen && effectOf(chosen.kind).picking ? chosen : offering.find((e) => effectOf(e.kind).group === 'lens');
  const picking = item && effectOf(item.kind).picking;
  return item && picking ? pickFor(item, picking.param, picking.prompt) : null;
}
