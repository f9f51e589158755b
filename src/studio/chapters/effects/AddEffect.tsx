import SearchIcon from '@mui/icons-material/SearchOutlined';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import InputBase from '@mui/material/InputBase';
import { memo, useEffect, useState } from 'react';
import { effectGroups, type EffectDefinition, type EffectGroup } from '../../../core/effects/definition';
import { effects } from '../../../core/effects/registry';
import type { Shot } from '../../../core/document/schema';
import { PopButton } from '../../controls/PopButton';
import { useShot } from '../../state/documentStore';
import { useView } from '../../state/viewStore';
import { addEffect, freshEffect } from './effectActions';
import { heightOf, SmallPicture, useSmallPictures } from './smallPictures';

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

/** Size of a small picture, px. */
const WIDE = 92;
const HIGH = 62;

/** A shot with one effect alone, as it would be added. */
const alone = (shot: Shot, kind: string): Shot => ({
  ...shot,
  settings: { ...shot.settings, effects: [freshEffect(kind, shot)], camera: { ...shot.settings.camera, moves: [] } },
});

/** Effects by the group in which light meets them, each with what it does, and what it does to this very shot. */
function Choice({ found, onAdd }: { found: readonly EffectDefinition[]; onAdd: (kind: string) => void }) {
  const shot = useShot()!;
  const size = { width: WIDE, height: heightOf(shot, WIDE, HIGH) };
  const pictures = useSmallPictures(
    effects.map((e) => e.kind),
    size,
    (kind) => alone(shot, kind),
    shot.id,
  );
  return (
    <Box sx={{ columnWidth: 250, columnGap: 0, padding: '6px 0 10px' }}>
      {effectGroups.map((group) => {
        const members = found.filter((e) => e.group === group);
        return members.length === 0 ? null : (
          <Box key={group} role="group" aria-label={GROUP_LABELS[group]}>
            <Box sx={{ padding: '6px 14px 2px', fontSize: 11, color: 'var(--mute)', breakAfter: 'avoid' }}>{GROUP_LABELS[group]}</Box>
            {members.map((e) => (
              <ButtonBase
                key={e.kind}
                onClick={() => onAdd(e.kind)}
                sx={{
                  display: 'flex',
                  alignItems: 'flex-start',
                  gap: '9px',
                  width: '100%',
                  textAlign: 'left',
                  padding: '4px 14px',
                  breakInside: 'avoid',
                  '&:hover, &:focus-visible': { background: 'var(--line)' },
                }}
              >
                <SmallPicture of={pictures} name={e.kind} rounded />
                <Box sx={{ minWidth: 0 }}>
                  {e.label}
                  <Box sx={{ color: 'var(--mute)', fontSize: 11, lineHeight: 1.25 }}>{e.help}</Box>
                </Box>
              </ButtonBase>
            ))}
          </Box>
        );
      })}
      {found.length === 0 && <Box sx={{ padding: '10px 14px', color: 'var(--mute)' }}>No effect does that.</Box>}
    </Box>
  );
}

/** Effects that can be added, by the group in which light meets them, each with what it does; what is typed narrows them down. */
export const AddEffect = memo(function AddEffect() {
  const [text, setText] = useState('');
  const found = findEffects(text);
  return (
    <PopButton text="Add effect" label="Effects that can be added" width={790} onClosed={() => setText('')}>
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
            <Choice found={found} onAdd={add} />
          </>
        );
      }}
    </PopButton>
  );
});
