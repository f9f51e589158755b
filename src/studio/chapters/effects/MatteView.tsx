import Box from '@mui/material/Box';
import { ChoiceRow } from '../../controls/rows';
import { useViewPart } from '../../state/viewStore';

const WAYS = [
  { value: 'none', label: 'Result' },
  { value: 'matte-alone', label: 'Matte' },
  { value: 'matte', label: 'Squares' },
  { value: 'matte-black', label: 'Black' },
  { value: 'matte-white', label: 'White' },
];

/** What is seen while a cut is made: the finished picture, its matte, or what is cut out over something on which faults show. */
export function MatteView() {
  const { check, set } = useViewPart('check', 'set');
  const shown = WAYS.some((w) => w.value === check) ? check! : 'none';
  return (
    <Box sx={{ marginBottom: '6px' }}>
      <ChoiceRow bare label="See" value={shown} options={WAYS} onChange={(v) => set({ check: v === 'none' ? null : v })} />
    </Box>
  );
}
