import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { numberAt, setDrive, type DrivenNumber, type NumberAddress } from '../../core/document/driven';
import { easingOptions } from '../../core/camera/definition';
import { drives, driveValue, keysOf, newDrive, recorded, sortedKeys, type Drive, type Key } from '../../core/values/drive';
import { driveFrames } from '../../core/values/drives/definition';
import { driveOf } from '../../core/values/drives/registry';
import { clampNumber, formatNumber, type NumberParam } from '../../core/values/params';
import { lazy, Suspense } from 'react';
import { NumberRow } from './NumberRow';
import { ChoiceRow } from './rows';
import { changeSettings, useShot, type Gesture } from '../state/documentStore';
import { goTo } from '../state/playback';
import { useView } from '../state/viewStore';

const SignalEditor = lazy(() => import('./SignalEditor').then((m) => ({ default: m.SignalEditor })));

const FIXED = { kind: null, label: 'Fixed', help: 'The same at every frame.' };
const KINDS: readonly { readonly kind: Drive['kind'] | null; readonly label: string; readonly help: string }[] = [FIXED, ...drives];

/** How far a number swings that is given a drive: a tenth of its track. */
const swingOf = (param: NumberParam, set: number): number =>
  param.scale === 'log' ? Number((0.25 * set).toPrecision(2)) : Number(((param.max - param.min) / 10).toPrecision(2));

/** What changes a number over time: which sort of drive, and how it is set. */
export function DriveEditor({ address }: { address: NumberAddress }) {
  const shot = useShot();
  const frame = useView((s) => s.frame);
  const number = shot && numberAt(shot.settings, address);
  if (!shot || !number) return null;
  const { drive, param, set } = number;
  const { length } = shot.settings.time;
  const put = (next: Drive | null, gesture?: Gesture): void => changeSettings((s) => setDrive(s, address, next), gesture);
  const choose = (kind: Drive['kind'] | null): void => {
    if (kind === (drive?.kind ?? null)) return;
    put(kind && newDrive(kind, drive ? clampNumber(param, driveValue(drive, set, frame)) : set, swingOf(param, finite(param, set)), frame, length));
  };
  return (
    <Box sx={{ padding: '10px 12px 12px' }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', marginBottom: '7px' }}>
        <Box component="span" sx={{ fontWeight: 600 }}>
          {number.of}, {param.label.toLowerCase()}
        </Box>
        <span className="mono">{formatNumber(param, drive ? clampNumber(param, driveValue(drive, set, frame)) : set)}</span>
      </Box>
      <Box
        role="radiogroup"
        aria-label="Sort of drive"
        sx={{ display: 'grid', gridTemplateColumns: `repeat(${KINDS.length},1fr)`, gap: '3px', marginBottom: '6px' }}
      >
        {KINDS.map(({ kind, label }) => {
          const on = kind === (drive?.kind ?? null);
          return (
            <Button
              key={label}
              role="radio"
              aria-checked={on}
              onClick={() => choose(kind)}
              sx={{
                minWidth: 0,
                padding: '0 2px',
                height: 24,
                fontSize: 11.5,
                ...(on && { borderColor: 'var(--paper)', background: 'var(--raise)' }),
              }}
            >
              {label}
            </Button>
          );
        })}
      </Box>
      <Box sx={{ color: 'var(--mute)', fontSize: 11.5, marginBottom: '6px' }}>{KINDS.find((k) => k.kind === (drive?.kind ?? null))!.help}</Box>
      {drive && <Fields number={number} drive={drive} frame={frame} onChange={put} />}
    </Box>
  );
}

/** A number that a swing can be told from. */
const finite = (param: NumberParam, value: number): number => (Number.isFinite(value) ? value : param.max);

interface FieldsProps {
  readonly number: DrivenNumber;
  readonly drive: Drive;
  readonly frame: number;
  readonly onChange: (drive: Drive, gesture?: Gesture) => void;
}

/** How a drive is set: by keys, or by its numbers. */
function Fields({ number: { param, set }, drive, frame, onChange }: FieldsProps) {
  const keys = keysOf(drive);
  if ('signal' in drive)
    return (
      <Suspense fallback={null}>
        <SignalEditor drive={drive} param={param} onChange={onChange} />
      </Suspense>
    );
  if (keys)
    return (
      <Keys
        keys={keys}
        param={param}
        frame={frame}
        onChange={(changed) => onChange({ kind: 'keys', keys: changed })}
        onAdd={() => onChange(recorded(drive, clampNumber(param, driveValue(drive, set, frame)), frame)!)}
      />
    );
  return (
    <>
      {driveOf(drive.kind)
        .fields?.(param)
        .map(({ param: own, get, put }) => (
          <NumberRow key={own.label} param={own} value={get(drive)} onChange={(v, gesture) => onChange(put(drive, v), gesture)} />
        ))}
      {'easing' in drive && (
        <ChoiceRow label="Easing" options={easingOptions} value={drive.easing} onChange={(easing) => onChange({ ...drive, easing })} />
      )}
    </>
  );
}

interface KeysProps {
  readonly keys: readonly Key[];
  readonly param: NumberParam;
  readonly frame: number;
  readonly onChange: (keys: Key[]) => void;
  readonly onAdd: () => void;
}

/** Every key with its frame, its value and the way to the next. */
function Keys({ keys, param, frame, onChange, onAdd }: KeysProps) {
  const sorted = sortedKeys(keys);
  const put = (k: number, change: Partial<Key>): void => onChange(sortedKeys(sorted.map((key, i) => (i === k ? { ...key, ...change } : key))));
  return (
    <>
      {sorted.map((key, k) => (
        <Box
          // by its place in the list: a key that is moved keeps the focus
          key={k}
          sx={{ display: 'grid', gridTemplateColumns: '1fr 24px', borderTop: '1px solid var(--line)', padding: '3px 0', alignItems: 'center' }}
        >
          <Box>
            <NumberRow param={driveFrames(`Key ${k + 1} at`)} value={key.frame} onChange={(v) => put(k, { frame: Math.round(v) })} />
            <NumberRow param={{ ...param, label: `Key ${k + 1} value`, names: {} }} value={key.value} onChange={(v) => put(k, { value: v })} />
            <ChoiceRow label={`Key ${k + 1} then`} options={easingOptions} value={key.easing} onChange={(easing) => put(k, { easing })} />
          </Box>
          <IconButton
            aria-label={`Delete key ${k + 1}`}
            disabled={sorted.length === 1}
            onClick={() => onChange(sorted.filter((_, i) => i !== k))}
            sx={{ '& svg': { fontSize: 16 } }}
          >
            <DeleteIcon />
          </IconButton>
        </Box>
      ))}
      <Box sx={{ display: 'flex', gap: '6px', marginTop: '7px' }}>
        <Button fullWidth disabled={sorted.some((k) => k.frame === frame)} onClick={onAdd}>
          Add key at frame {frame}
        </Button>
        <Button onClick={() => goTo(sorted.find((k) => k.frame > frame)?.frame ?? sorted[0]!.frame)}>Next key</Button>
      </Box>
    </>
  );
}
