import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ListSubheader from '@mui/material/ListSubheader';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { memo, useState } from 'react';
import { newEffect } from '../../../core/document/defaults';
import { effectGroups, type EffectGroup } from '../../../core/effects/definition';
import { effects } from '../../../core/effects/registry';
import { changeSettings } from '../../state/documentStore';
import { isFull } from '../../state/room';
import { useViewPart } from '../../state/viewStore';

export const GROUP_LABELS: Record<EffectGroup, string> = { surface: 'Surface', air: 'Air', lens: 'Lens', frame: 'Frame' };

/** Effects that can be added, by the group in which light meets them, each with what it does. */
export const AddEffect = memo(function AddEffect() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { set } = useViewPart('set');
  const add = (kind: string): void => {
    setAnchor(null);
    if (isFull('effects')) return;
    const item = newEffect(kind);
    changeSettings((s) => void s.effects.push(item));
    set({ selectedEffect: item.id });
  };
  return (
    <>
      <Button sx={{ height: 24, padding: '0 8px' }} aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Add effect
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)} slotProps={{ paper: { sx: { maxWidth: 320 } } }}>
        {effectGroups.flatMap((group) => {
          const members = effects.filter((e) => e.group === group);
          if (members.length === 0) return [];
          return [
            <ListSubheader
              key={group}
              role="presentation"
              disableSticky
              sx={{ lineHeight: '22px', fontSize: 11, color: 'var(--mute)', background: 'none', padding: '2px 14px' }}
            >
              {GROUP_LABELS[group]}
            </ListSubheader>,
            ...members.map((e) => (
              <MenuItem key={e.kind} onClick={() => add(e.kind)} sx={{ whiteSpace: 'normal' }}>
                <Box>
                  {e.label}
                  <Box sx={{ color: 'var(--mute)', fontSize: 11 }}>{e.help}</Box>
                </Box>
              </MenuItem>
            )),
          ];
        })}
      </Menu>
    </>
  );
});
