import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Tooltip from '@mui/material/Tooltip';
import Typography from '@mui/material/Typography';
import { memo, type ReactNode } from 'react';
import { steady } from './steady';

const Title = memo(Typography) as typeof Typography;

const WIDE = { flex: 1 };

/** A part of a panel under a heading. */
export function Section({ title, aside, children, last }: { title?: string; aside?: ReactNode; children: ReactNode; last?: boolean }) {
  return (
    <Box component="section" sx={{ padding: '10px 14px', borderBottom: last ? 'none' : '1px solid var(--line)' }}>
      {title && (
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', marginBottom: '5px', minHeight: 20 }}>
          <Title variant="h3" component="h3">
            {title}
          </Title>
          {aside}
        </Box>
      )}
      {children}
    </Box>
  );
}

/** A chapter's name at the head of its panel. */
export function PanelHead({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <Box
      sx={{ display: 'flex', alignItems: 'center', gap: '8px', padding: '0 14px', height: 38, flexShrink: 0, borderBottom: '1px solid var(--line)' }}
    >
      <Title variant="h2" component="h2" sx={WIDE}>
        {title}
      </Title>
      {children}
    </Box>
  );
}

export function LabelRow({ label, help, children }: { label: string; help?: string | undefined; children: ReactNode }) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '92px 1fr', alignItems: 'center', columnGap: '9px', minHeight: 26 }}>
      <Tooltip title={help ?? ''} placement="left">
        <Box component="span" sx={{ color: 'var(--mute)', whiteSpace: 'nowrap' }}>
          {label}
        </Box>
      </Tooltip>
      {children}
    </Box>
  );
}

export const ToggleRow = steady(function ToggleRow({
  label,
  value,
  onChange,
  help,
}: {
  label: string;
  value: boolean;
  onChange: (value: boolean) => void;
  help?: string | undefined;
}) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 26 }}>
      <Tooltip title={help ?? ''} placement="left">
        <Box component="span" sx={{ color: 'var(--mute)' }}>
          {label}
        </Box>
      </Tooltip>
      <Switch checked={value} onChange={(_, checked) => onChange(checked)} slotProps={{ input: { 'aria-label': label } }} />
    </Box>
  );
});

interface ChoiceProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly options: readonly { readonly value: T; readonly label: string }[];
  readonly onChange: (value: T) => void;
  /** without its own label at the left */
  readonly bare?: boolean;
  readonly help?: string | undefined;
}

/** Buttons as wide as one another, or as their words ask. */
const EVEN = { padding: '0 4px' };
const BY_WORDS = { padding: '0 4px', whiteSpace: 'nowrap', width: 'auto', flex: '1 1 auto' };

/** Options with more letters than these together stand in a menu; each takes room for itself besides. */
const MOST_LETTERS = { besideLabel: 33, bare: 60 };
const EACH = 3;

function Choice<T extends string>({ label, value, options, onChange, bare, help }: ChoiceProps<T>) {
  const buttons =
    options.reduce((n, o) => n + o.label.length + EACH, 0) > (bare ? MOST_LETTERS.bare : MOST_LETTERS.besideLabel) ? (
      <Select value={value} onChange={(e) => onChange(e.target.value as T)} inputProps={{ 'aria-label': label }}>
        {options.map((o) => (
          <MenuItem key={o.value} value={o.value}>
            {o.label}
          </MenuItem>
        ))}
      </Select>
    ) : (
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={value}
        aria-label={label}
        onChange={(_, next: T | null) => next !== null && onChange(next)}
      >
        {options.map((o) => (
          <ToggleButton key={o.value} value={o.value} sx={bare ? BY_WORDS : EVEN}>
            {o.label}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
    );
  return bare ? (
    buttons
  ) : (
    <LabelRow label={label} help={help}>
      {buttons}
    </LabelRow>
  );
}

export const ChoiceRow = steady(Choice) as typeof Choice;
