import type { EffectItem, Shot } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { clampNumber, hasSay } from '../../../core/values/params';
import { setNumber } from '../../../core/document/driven';
import { changeSettings } from '../../state/documentStore';
import type { Picking } from '../../state/picking';
import { placeAt } from './inSpace';
import { useView } from '../../state/viewStore';

/** A distance as a click gives it. */
const asSet = (distance: number): number => Number(distance.toPrecision(4));

/** Waits for a click that gives an effect one of its distances; null where that is none. */
export function pickFor({ id, kind }: EffectItem, name: string, prompt: string, by = 1): Picking | null {
  const param = effectOf(kind).params[name];
  if (param?.type !== 'number' || !param.distance) return null;
  return {
    id: `${id}:${name}`,
    prompt,
    take: ({ distance }) =>
      changeSettings((s) => setNumber(s, { place: 'effect', item: id, name }, asSet(clampNumber(param, distance * by)), useView.getState().frame)),
  };
}

/** A lamp is put so far before what is clicked, as a share of the way to it. */
const BEFORE = 0.85;

/** Puts an effect that has a place in space, or in the picture, where a click says. */
function placing(shot: Shot, item: EffectItem): Picking | null {
  const { place, centre, params } = effectOf(item.kind);
  const write = (values: Readonly<Record<string, number>>): void =>
    changeSettings((s) => {
      for (const [name, value] of Object.entries(values))
        setNumber(s, { place: 'effect', item: item.id, name }, asSet(value), useView.getState().frame);
    });
  if (place && hasSay(params[place.right]!, item.values, params))
    return {
      id: `${item.id}:place`,
      prompt: 'Click where the lamp hangs: just before what is there',
      take: ({ distance, x, y }) => {
        const z = BEFORE * (Number.isFinite(distance) ? distance : 100);
        const at = placeAt(shot, x, y, z);
        write({ [place.right]: at[0], [place.up]: -at[1], [place.distance]: at[2] });
      },
    };
  if (centre)
    return {
      id: `${item.id}:centre`,
      prompt: `Click where ${effectOf(item.kind).label.toLowerCase()} has its middle`,
      take: ({ x, y }) => write({ [centre.x]: 100 * x, [centre.y]: 100 * y }),
    };
  return null;
}

/** What a click in the picture sets while effects are worked on: the distance that the effect in hand offers, or else the first that offers one. */
export function usualPicking(shot: Shot, selected: string | null): Picking | null {
  const offering = shot.settings.effects.filter((e) => effectOf(e.kind).picking);
  const chosen = shot.settings.effects.find((e) => e.id === selected);
  const placed = chosen && placing(shot, chosen);
  if (placed) return placed;
  const item = chosen && effectOf(chosen.kind).picking ? chosen : offering.find((e) => effectOf(e.kind).group === 'lens');
  const picking = item && effectOf(item.kind).picking;
  return item && picking ? pickFor(item, picking.param, picking.prompt, picking.by) : null;
}
