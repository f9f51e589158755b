import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { Calibration, Spacing } from '../../core/depth/calibrate';
import { formatMetres } from '../../core/values/params';
import { steady } from '../controls/steady';
import { useViewPart } from '../state/viewStore';
import { NAME_LEFT, NAME_WIDE } from '../score/measures';
import { HEAD } from './railLayout';

const SPACINGS: Record<Spacing, string> = { perspective: 'perspective', even: 'even', log: 'log' };

/** What the rail is, between which ends, and how its ruler is spaced: in the column of names. */
export function RailHead({ calibration: { near, far, spacing }, scaled }: { calibration: Calibration; scaled: boolean }) {
  const { ruler, set } = useViewPart('ruler', 'set');
  return (
    <Box
      sx={{
        position: 'absolute',
        zIndex: 1,
        left: NAME_LEFT,
        width: NAME_WIDE,
        top: HEAD,
        lineHeight: 1.35,
        color: 'var(--mute)',
        whiteSpace: 'nowrap',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px' }}>
        <Box component="span" sx={{ fontSize: 12, fontWeight: 600, color: 'var(--text)' }}>
          Depth rail
        </Box>
        {!scaled && (
          <Box
            component="span"
            title="No distance is known yet: the near end counts as 1 m. Set it, or put stakes, in Calibrate."
            sx={{ padding: '0 6px', border: '1px solid var(--line2)', borderRadius: '9px', fontSize: 10 }}
          >
            unscaled
          </Box>
        )}
      </Box>
      <Box className="mono" title="Near end to far end" sx={{ fontSize: 10.5, overflow: 'hidden', textOverflow: 'ellipsis' }}>
        {formatMetres(near)} to {formatMetres(far)}
      </Box>
      <RulerChoice value={ruler} of={spacing} onChange={(r) => set({ ruler: r })} />
    </Box>
  );
}

interface RulerProps {
  readonly value: Spacing | 'as-map';
  readonly of: Spacing;
  readonly onChange: (value: Spacing | 'as-map') => void;
}

const RulerChoice = steady(function RulerChoice({ value, of, onChange }: RulerProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const options: (Spacing | 'as-map')[] = ['as-map', 'perspective', 'even', 'log'];
  const name = (o: Spacing | 'as-map'): string => (o === 'as-map' ? `as the map, ${SPACINGS[of]}` : SPACINGS[o]);
  return (
    <>
      <Button
        onClick={(e) => setAnchor(e.currentTarget)}
        aria-haspopup="menu"
        sx={{ height: 17, padding: 0, border: 'none', color: 'var(--mute)', fontSize: 10.5 }}
        className="mono"
      >
        ruler: {value === 'as-map' ? SPACINGS[of] : SPACINGS[value]}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {options.map((o) => (
          <MenuItem
            key={o}
            selected={o === value}
            onClick={() => {
              onChange(o);
              setAnchor(null);
            }}
          >
            {name(o)}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
});
