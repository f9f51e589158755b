import Button from '@mui/material/Button';
import type { EffectItem } from '../../../core/document/schema';
import { steady } from '../../controls/steady';
import { useViewPart } from '../../state/viewStore';
import { pickFor } from './picking';

interface Props {
  readonly item: EffectItem;
  readonly param: string;
  readonly label: string;
  readonly prompt: string;
  readonly by?: number | undefined;
}

/** Waits for a click in the picture that sets one of an effect's distances; pressed again it waits no more. */
export const PickButton = steady(function PickButton({ item, param, label, prompt, by }: Props) {
  const { picking, set } = useViewPart('picking', 'set');
  const own = pickFor(item, param, prompt, by);
  const waits = own !== null && picking?.id === own.id;
  return (
    <Button
      fullWidth
      aria-pressed={waits}
      sx={{ marginTop: '6px', ...(waits && { borderColor: 'var(--paper)' }) }}
      onClick={() => set({ picking: waits ? null : own })}
    >
      {waits ? prompt : label}
    </Button>
  );
});
