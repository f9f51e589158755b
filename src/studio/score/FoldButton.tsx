import FoldedIcon from '@mui/icons-material/ChevronRightOutlined';
import OpenIcon from '@mui/icons-material/ExpandMoreOutlined';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { steady } from '../controls/steady';
import { NAME_LEFT, NAME_WIDE } from './measures';

interface Props {
  readonly y: number;
  readonly height: number;
  /** the names of the rows that fold away */
  readonly names: readonly string[];
  /** what they are, in the plural */
  readonly what: string;
  readonly open: boolean;
  readonly onToggle: () => void;
}

/** Says which rows are folded away, and unfolds them; or folds them again. */
export const FoldButton = steady(function FoldButton({ y, height, names, what, open, onToggle }: Props) {
  const more = names.length - 1;
  return (
    <ButtonBase
      aria-expanded={open}
      title={open ? `Fold ${what}` : names.join(', ')}
      onClick={onToggle}
      sx={{
        position: 'absolute',
        left: NAME_LEFT,
        width: NAME_WIDE,
        justifyContent: 'flex-start',
        color: 'var(--faint)',
        fontSize: 11,
        borderRadius: '3px',
        '&:hover': { color: 'var(--text)' },
      }}
      style={{ top: y, height }}
    >
      <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
        {open ? `Fold ${what}` : `${names[0] ?? ''}${more > 0 ? `, ${more} more` : ''}`}
      </Box>
      {open ? <OpenIcon sx={{ fontSize: 14 }} /> : <FoldedIcon sx={{ fontSize: 14 }} />}
    </ButtonBase>
  );
});
