import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { Calibration, Spacing } from '../../core/depth/calibrate';
import { formatMetres } from '../../core/values/params';
import { steady } from '../controls/steady';
import { useViewPart } from '../state/viewStore';

const SPACINGS: Record<Spacing, string> = { perspective: 'perspective', even: 'even', log: 'log' };

/** What the rail is, between which ends, and how its ruler is spaced. */
export function RailHead({ calibration: { near, far, spacing }, scaled }: { calibration: Calibration; scaled: boolean }) {
  const { ruler, set } = useViewPart('ruler', 'set');
  return (
    <Box
      sx={{ position: 'absolute', left: 14, right: 14, top: 5, height: 24, display: 'flex', alignItems: 'center', gap: '12px', color: 'var(--mute)' }}
    >
      <Box component="span" sx={{ fontWeight: 600, color: 'var(--text)', whiteSpace: 'nowrap' }}>
        Depth rail
      </Box>
      <Box component="span" className="mono" sx={{ whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis', minWidth: 0 }}>
        near end {formatMetres(near)}, far end {formatMetres(far)}
      </Box>
      {!scaled && (
        <Box
          component="span"
          title="No distance is known yet: the near end counts as 1 m. Set it, or put stakes, in Calibrate."
          sx={{ padding: '0 7px', border: '1px solid var(--line2)', borderRadius: '9px', fontSize: 11 }}
        >
          unscaled
        </Box>
      )}
      <Box sx={{ flex: 1 }} />
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
        sx={{ height: 22, padding: '0 8px', border: 'none', color: 'var(--mute)' }}
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
