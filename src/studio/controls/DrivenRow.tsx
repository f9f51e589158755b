import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Popover from '@mui/material/Popover';
import { lazy, Suspense, useState } from 'react';
import { numberAt, setDrive, type NumberAddress } from '../../core/document/driven';
import { driveValue, recorded, setFor, type Drive } from '../../core/values/drive';
import { clampNumber, type NumberParam } from '../../core/values/params';
import { NumberRow } from './NumberRow';
import { steady } from './steady';
import { changeSettings, shotOf, useDocument, type Gesture } from '../state/documentStore';
import { signalKey, useLive } from '../state/liveStore';
import { useView } from '../state/viewStore';

const DriveEditor = lazy(() => import('./DriveEditor').then((m) => ({ default: m.DriveEditor })));

interface Props {
  readonly address: NumberAddress;
  readonly param: NumberParam;
  /** as it is set, without its drive */
  readonly value: number;
  readonly onChange: (value: number, gesture?: Gesture) => void;
  readonly tint?: string | undefined;
  readonly disabled?: boolean;
}

/** The drive of a number of the open shot. */
const useDrive = (address: NumberAddress): Drive | undefined =>
  useDocument((s) => {
    const shot = shotOf(s);
    return shot ? numberAt(shot.settings, address)?.drive : undefined;
  });

/** A drive with what its channels give now, where it is a signal that is heard. */
function useHeard(drive: Drive | undefined): Drive | undefined {
  const now = useLive((s) => (drive && 'signal' in drive ? s.signals[signalKey(drive)] : undefined));
  return drive && 'signal' in drive && now !== undefined ? { ...drive, now } : drive;
}

/** A number's row with the round mark that opens its drive: a driven number shows its value at the playhead, and a change is recorded there. */
export function DrivenRow({ address, param, value, onChange, tint, disabled }: Props) {
  const drive = useHeard(useDrive(address));
  const frame = useView((s) => (drive ? s.frame : 0));
  const shown = drive ? clampNumber(param, driveValue(drive, value, frame)) : value;
  const set = (next: number, gesture?: Gesture): void => {
    const kept = drive && recorded(drive, next, frame);
    if (kept) changeSettings((s) => setDrive(s, address, kept), gesture);
    // what swings about the set value is moved as a whole
    else onChange(drive ? clampNumber(param, setFor(drive, value, next, frame)) : next, gesture);
  };
  return (
    <Box sx={{ position: 'relative' }}>
      <NumberRow param={param} value={shown} onChange={set} tint={tint} marked {...(disabled !== undefined && { disabled })} />
      <DriveDot address={address} label={param.label} driven={drive !== undefined} />
    </Box>
  );
}

/** The round mark at the end of a number's row: full where the number has a drive. */
const DriveDot = steady(function DriveDot({ address, label, driven }: { address: NumberAddress; label: string; driven: boolean }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <ButtonBase
        aria-label={`Drive of ${label}`}
        aria-haspopup="dialog"
        aria-pressed={driven}
        title={driven ? 'Driven over time' : 'Drive this over time'}
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{ position: 'absolute', right: 0, top: 0, width: 15, height: 20, borderRadius: '3px' }}
      >
        <Box
          component="span"
          sx={{
            width: 8,
            height: 8,
            borderRadius: '50%',
            border: '1.3px solid',
            borderColor: driven ? 'var(--paper)' : 'var(--faint)',
            background: driven ? 'var(--paper)' : 'none',
          }}
        />
      </ButtonBase>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': `Drive of ${label}`, sx: { width: 300 } } }}
      >
        {anchor && (
          <Suspense fallback={null}>
            <DriveEditor address={address} />
          </Suspense>
        )}
      </Popover>
    </>
  );
});
