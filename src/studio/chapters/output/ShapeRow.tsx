import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useLiveQuery } from 'dexie-react-hooks';
import { useEffect } from 'react';
import { database } from '../../../store/database';
import { shotsWithShape } from '../../../store/shapes';
import { LabelRow } from '../../controls/rows';
import { useDocument, useShot } from '../../state/documentStore';

interface Props {
  /** the shot whose mesh is used; null: this one's */
  readonly value: string | null;
  readonly onChange: (shot: string | null) => void;
}

/** Whose mesh is used: this shot's own, made anew, or one that was made of another shot of the same framing. */
export function ShapeRow({ value, onChange }: Props) {
  const shot = useShot()!;
  const shots = useDocument((s) => s.project?.shots) ?? [];
  const { width, height } = shot.settings.framing;
  const others = shots.filter((s) => s.id !== shot.id);
  const found = useLiveQuery(
    () =>
      shotsWithShape(
        database(),
        others.map((s) => s.id),
        { width, height },
      ),
    [others.map((s) => s.id).join(), width, height],
  );
  const gone = value !== null && found !== undefined && !found.includes(value);
  useEffect(() => {
    if (gone) onChange(null);
  }, [gone, onChange]);
  if (!found || found.length === 0) return null;
  return (
    <LabelRow label="Use the mesh of" help="A mesh that was made of a shot in the same framing fits this picture too">
      <Select
        value={gone ? '' : (value ?? '')}
        displayEmpty
        onChange={(e) => onChange(e.target.value || null)}
        inputProps={{ 'aria-label': 'Use the mesh of' }}
      >
        <MenuItem value="">this shot</MenuItem>
        {others
          .filter((s) => found.includes(s.id))
          .map((s) => (
            <MenuItem key={s.id} value={s.id}>
              {s.name}
            </MenuItem>
          ))}
      </Select>
    </LabelRow>
  );
}
