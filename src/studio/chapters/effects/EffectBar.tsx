import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { EffectItem } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { steady } from '../../controls/steady';
import { useViewPart } from '../../state/viewStore';
import { copyEffects, pasteEffects, useCopied } from './effectActions';

const SMALL = { height: 24, padding: '0 9px' };

/** What can be done with the effect in hand: seen alone, left out for a moment, copied; and what was copied is put in. */
export const EffectBar = steady(function EffectBar({ item }: { item: EffectItem | null }) {
  const { alone, without, set } = useViewPart('alone', 'without', 'set');
  const copied = useCopied((s) => s.items);
  if (!item && copied.length === 0) return null;
  const back = (): void => {
    if (without) set({ without: null });
  };
  return (
    <Box
      role="toolbar"
      aria-label={item ? `With ${effectOf(item.kind).label}` : 'Effects that were copied'}
      sx={{ display: 'flex', flexWrap: 'wrap', gap: '6px', padding: '8px 14px', borderBottom: '1px solid var(--line)' }}
    >
      {item && (
        <>
          <Button
            aria-pressed={alone === item.id}
            title="The picture with this effect alone"
            sx={{ ...SMALL, ...(alone === item.id && { borderColor: 'var(--paper)' }) }}
            onClick={() => set({ alone: alone === item.id ? null : item.id })}
          >
            Alone
          </Button>
          <Button
            title="Hold: the picture without this effect (f)"
            sx={{ ...SMALL, ...(without === item.id && { borderColor: 'var(--paper)' }) }}
            onPointerDown={() => set({ without: item.id })}
            onPointerUp={back}
            onPointerLeave={back}
            onPointerCancel={back}
            onKeyDown={(e) => (e.key === ' ' || e.key === 'Enter') && set({ without: item.id })}
            onKeyUp={back}
            onBlur={back}
          >
            Without
          </Button>
          <Button title="For other shots and projects, too" sx={SMALL} onClick={() => copyEffects([item])}>
            Copy
          </Button>
        </>
      )}
      {copied.length > 0 && (
        <Button title={copied.map((e) => effectOf(e.kind).label).join(', ')} sx={SMALL} onClick={pasteEffects}>
          Paste {effectOf(copied[0]!.kind).label.toLowerCase()}
        </Button>
      )}
    </Box>
  );
});
