import InputBase from '@mui/material/InputBase';
import { LabelRow } from './rows';
import { useTyped } from './useTyped';

/** A line of text beside its label. */
export function TextRow({ label, help, value, onChange }: { label: string; help?: string; value: string; onChange: (text: string) => void }) {
  const typed = useTyped(value, onChange);
  return (
    <LabelRow label={label} help={help}>
      <InputBase {...typed} slotProps={{ input: { 'aria-label': label } }} />
    </LabelRow>
  );
}
