import Button from '@mui/material/Button';
import { setNumber } from '../../../core/document/driven';
import type { EffectItem } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { clampNumber } from '../../../core/values/params';
import { steady } from '../../controls/steady';
import { changeSettings } from '../../state/documentStore';
import type { Picking } from '../../state/picking';
import { useView, useViewPart } from '../../state/viewStore';

/** So much is added on either side, that what is clicked is taken in whole. */
const MARGIN = 0.05;

/** Sets two distances of an effect by two clicks, in either order. */
export const PairButton = steady(function PairButton({ item }: { item: EffectItem }) {
  const { picking, set } = useViewPart('picking', 'set');
  const pair = effectOf(item.kind).pair;
  if (!pair) return null;
  const id = `${item.id}:pair`;
  const waits = picking?.id.startsWith(id) ?? false;
  const [first, second] = pair.prompts;
  const take = (a: number, b: number): void => {
    const { params } = effectOf(item.kind);
    const ends = { [pair.from]: Math.min(a, b) * (1 - MARGIN), [pair.to]: Math.max(a, b) * (1 + MARGIN) };
    changeSettings((s) => {
      for (const [name, value] of Object.entries(ends)) {
        const param = params[name];
        if (param?.type !== 'number') continue;
        setNumber(s, { place: 'effect', item: item.id, name }, Number(clampNumber(param, value).toPrecision(4)), useView.getState().frame);
      }
    });
    set({ picking: null });
  };
  const begin = (): Picking => ({
    id,
    prompt: first,
    take: ({ distance: from }) => set({ picking: { id: `${id} 2`, prompt: second, take: ({ distance }) => take(from, distance) } }),
  });
  return (
    <Button
      fullWidth
      aria-pressed={waits}
      sx={{ marginTop: '6px', ...(waits && { borderColor: 'var(--paper)' }) }}
      onClick={() => set({ picking: waits ? null : begin() })}
    >
      {waits ? picking!.prompt : pair.label}
    </Button>
  );
});
