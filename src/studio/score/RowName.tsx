import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { steady } from '../controls/steady';
import { NAME_LEFT, NAME_WIDE } from './measures';

interface Props {
  readonly y: number;
  readonly height: number;
  readonly name: string;
  /** a figure at the right of the name */
  readonly aside?: string | undefined;
  /** figures under the name */
  readonly below?: string | undefined;
  /** the row in hand */
  readonly inHand?: boolean;
  readonly off?: boolean;
  readonly onChoose?: (() => void) | undefined;
}

/** The name of a row of the score, in the column at its left. A click takes the row in hand. */
export const RowName = steady(function RowName({ y, height, name, aside, below, inHand = false, off = false, onChoose }: Props) {
  const words = (
    <>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: '6px' }}>
        <Box component="span" sx={{ ...CUT, flex: 1, color: inHand ? 'var(--paper)' : 'var(--text)', fontSize: 12, fontWeight: inHand ? 600 : 400 }}>
          {name}
        </Box>
        {aside && name.length <= ROOM && (
          <span className="mono" style={{ fontSize: 10, flexShrink: 0 }}>
            {aside}
          </span>
        )}
      </Box>
      {below && (
        <Box className="mono" sx={{ ...CUT, fontSize: 10, lineHeight: 1.2 }}>
          {below}
        </Box>
      )}
    </>
  );
  const place = { top: y, height, ...(off && { opacity: 0.55 }) };
  const title = [name, aside, below].filter(Boolean).join(', ');
  return onChoose ? (
    <ButtonBase title={title} onClick={onChoose} aria-pressed={inHand} sx={COLUMN} style={place}>
      {words}
    </ButtonBase>
  ) : (
    <Box title={title} sx={COLUMN} style={place}>
      {words}
    </Box>
  );
});

/** A name of more letters leaves no room for a figure. */
const ROOM = 16;

const CUT = { minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

const COLUMN = {
  position: 'absolute',
  left: NAME_LEFT,
  width: NAME_WIDE,
  display: 'flex',
  flexDirection: 'column',
  alignItems: 'stretch',
  justifyContent: 'center',
  textAlign: 'left',
  color: 'var(--mute)',
  lineHeight: 1.2,
  borderRadius: '3px',
} as const;
