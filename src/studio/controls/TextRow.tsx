import InputBase from '@mui/material/InputBase';
import { useState } from 'react';
import { LabelRow } from './rows';

/** A line of text that is taken with Enter, or when it is left; Escape leaves it as it was. */
export function TextRow({ label, help, value, onChange }: { label: string; help?: string; value: string; onChange: (text: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  const commit = (): void => {
    if (text !== null && text.trim() !== value) onChange(text.trim());
    setText(null);
  };
  return (
    <LabelRow label={label} help={help}>
      <InputBase
        value={text ?? value}
        onFocus={() => setText(value)}
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === 'Enter') (e.target as HTMLElement).blur();
          else if (e.key === 'Escape') setText(null);
        }}
        slotProps={{ input: { 'aria-label': label } }}
      />
    </LabelRow>
  );
}
