import SearchIcon from '@mui/icons-material/SearchOutlined';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import InputBase from '@mui/material/InputBase';
import { memo, useEffect, useState } from 'react';
import { effectGroups, type EffectDefinition, type EffectGroup } from '../../../core/effects/definition';
import { effects } from '../../../core/effects/registry';
import { PopButton } from '../../controls/PopButton';
import { useView } from '../../state/viewStore';
import { addEffect } from './effectActions';

export const GROUP_LABELS: Record<EffectGroup, string> = { surface: 'Surface', air: 'Air', lens: 'Lens', frame: 'Frame' };

/** Words of a search, all of which are in what an effect is called, does or sets. */
export function findEffects(text: string, all: readonly EffectDefinition[] = effects): readonly EffectDefinition[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const told = (e: EffectDefinition): string =>
    [
      e.label,
      e.help,
      GROUP_LABELS[e.group],
      ...Object.values(e.params)
        .filter((p) => p.section !== 'Reach')
        .map((p) => p.label),
    ]
      .join(' ')
      .toLowerCase();
  return all.filter((e) => words.every((w) => told(e).includes(w)));
}

/** While effects are chosen from, the shot is surveyed: a new one begins where the scene is best cut. */
function Surveying() {
  useEffect(() => {
    const { set } = useView.getState();
    set({ adding: true });
    return () => set({ adding: false });
  }, []);
  return null;
}

/** Effects that can be added, by the group in which light meets them, each with what it does; what is typed narrows them down. */
export const AddEffect = memo(function AddEffect() {
  const [text, setText] = useState('');
  const found = findEffects(text);
  return (
    <PopButton text="Add effect" label="Effects that can be added" width={560} onClosed={() => setText('')}>
      {(close) => {
        const add = (kind: string | undefined): void => {
          close();
          if (kind) addEffect(kind);
        };
        return (
          <>
            <Surveying />
            <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', padding: '8px 14px', borderBottom: '1px solid var(--line)' }}>
              <SearchIcon sx={{ fontSize: 16, color: 'var(--mute)' }} />
              <InputBase
                autoFocus
                fullWidth
                value={text}
                placeholder="Find an effect"
                inputProps={{ 'aria-label': 'Find an effect' }}
                onChange={(e) => setText(e.target.value)}
                onKeyDown={(e) => {
                  if (e.key !== 'Enter') return;
                  // the button that gets the focus back is not pressed by it
                  e.preventDefault();
                  add(found[0]?.kind);
                }}
              />
            </Box>
            <Box sx={{ columnCount: 2, columnGap: 0, padding: '6px 0 10px' }}>
              {effectGroups.map((group) => {
                const members = found.filter((e) => e.group === group);
                return members.length === 0 ? null : (
                  <Box key={group} role="group" aria-label={GROUP_LABELS[group]} sx={{ breakInside: group === 'frame' ? 'auto' : 'avoid' }}>
                    <Box sx={{ padding: '6px 14px 2px', fontSize: 11, color: 'var(--mute)' }}>{GROUP_LABELS[group]}</Box>
                    {members.map((e) => (
                      <ButtonBase
                        key={e.kind}
                        onClick={() => add(e.kind)}
                        sx={{
                          display: 'block',
                          width: '100%',
                          textAlign: 'left',
                          padding: '3px 14px 4px',
                          breakInside: 'avoid',
                          '&:hover, &:focus-visible': { background: 'var(--raise)' },
                        }}
                      >
                        {e.label}
                        <Box sx={{ color: 'var(--mute)', fontSize: 11, lineHeight: 1.3 }}>{e.help}</Box>
                      </ButtonBase>
                    ))}
                  </Box>
                );
              })}
              {found.length === 0 && <Box sx={{ padding: '10px 14px', color: 'var(--mute)' }}>No effect does that.</Box>}
            </Box>
          </>
        );
      }}
    </PopButton>
  );
});
