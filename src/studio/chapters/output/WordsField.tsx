import InputBase from '@mui/material/InputBase';

/** What a page says to who does not see it. */
export const WordsField = ({ words, onChange }: { words: string; onChange: (words: string) => void }) => (
  <InputBase
    value={words}
    onChange={(e) => onChange(e.target.value)}
    placeholder="What is to be seen, for who does not see it"
    inputProps={{ 'aria-label': 'Words for who does not see it', maxLength: 500 }}
    multiline
    maxRows={3}
    fullWidth
    sx={{ marginTop: '6px', padding: '4px 8px', border: '1px solid var(--line2)', borderRadius: '4px', fontSize: 12.5 }}
  />
);
