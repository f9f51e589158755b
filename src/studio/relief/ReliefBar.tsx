import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Slider from '@mui/material/Slider';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { DENSITIES, FORMS, useRelief, type Form } from './reliefStore';

const LABELS: Readonly<Record<Form, string>> = { surface: 'Surface', points: 'Points', wire: 'Wire' };
const EVERY = ['every pixel', 'every 2nd', 'every 4th', 'every 8th', 'every 16th'];

/** How the scene is drawn, how far things stand apart, and the way back to the picture. */
export function ReliefBar({ onHome }: { onHome: () => void }) {
  const { form, density, strength, cut, behind, set } = useRelief();
  return (
    <Box
      role="toolbar"
      aria-label="In space"
      sx={{
        position: 'absolute',
        left: 12,
        right: 12,
        bottom: 12,
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        justifyContent: 'center',
        gap: '8px 12px',
        pointerEvents: 'none',
        '& > *': { pointerEvents: 'auto', background: 'rgba(26,26,25,.85)', borderRadius: '4px' },
      }}
    >
      <ToggleButtonGroup exclusive size="small" value={form} aria-label="Drawn as" onChange={(_, next: Form | null) => next && set({ form: next })}>
        {FORMS.map((f) => (
          <ToggleButton key={f} value={f}>
            {LABELS[f]}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Select
        value={density}
        onChange={(e) => set({ density: e.target.value })}
        inputProps={{ 'aria-label': 'Density' }}
        fullWidth={false}
        sx={{ height: 26, width: 118 }}
      >
        {DENSITIES.map((d, k) => (
          <MenuItem key={d} value={d}>
            {EVERY[k]}
          </MenuItem>
        ))}
      </Select>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '10px', padding: '0 10px', height: 26, width: 230, whiteSpace: 'nowrap' }}>
        <span>Relief</span>
        <Slider
          aria-label="Relief strength"
          size="small"
          min={0}
          max={200}
          value={Math.round(100 * strength)}
          valueLabelDisplay="off"
          getAriaValueText={(v) => `${v} %`}
          onChange={(_, v) => set({ strength: v / 100 })}
          onDoubleClick={() => set({ strength: 1 })}
        />
        <span className="mono" style={{ width: 48, textAlign: 'right', flexShrink: 0 }}>
          {Math.round(100 * strength)} %
        </span>
      </Box>
      <ToggleButtonGroup size="small" value={[...(cut ? ['cut'] : []), ...(behind && cut ? ['behind'] : [])]} aria-label="Edges">
        <ToggleButton value="cut" title="Cut at edges; otherwise near and far are stretched into one" onClick={() => set({ cut: !cut })}>
          Cut
        </ToggleButton>
        <ToggleButton value="behind" disabled={!cut} title="What lies behind edges, as far as moves look" onClick={() => set({ behind: !behind })}>
          Behind
        </ToggleButton>
      </ToggleButtonGroup>
      <Button onClick={onHome} title="Where the plate was taken (Home)" sx={{ height: 26 }}>
        Back to the plate
      </Button>
    </Box>
  );
}
