import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import UpIcon from '@mui/icons-material/KeyboardArrowUpOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { inUnitOf, withHeard, type SignalDrive } from '../../core/values/drives/signal';
import { recordedOf } from '../../core/document/signals';
import { USUAL_FPS } from '../../core/values/moment';
import { defaultsOf, type NumberParam, type Param } from '../../core/values/params';
import { sentenceOf, stepRegistry, type Signal } from '../../core/values/signals/signal';
import { useShot, type Gesture } from '../state/documentStore';
import { useLive } from '../state/liveStore';
import { NumberRow } from './NumberRow';
import { ToggleRow } from './rows';

interface Props {
  readonly drive: SignalDrive;
  /** the number that it drives */
  readonly param: NumberParam;
  readonly onChange: (drive: SignalDrive, gesture?: Gesture) => void;
}

type Step = Signal['steps'][number];

/** Which channels a signal is of, and what is done to them, step by step: it reads like a sentence. */
export function SignalEditor({ drive, param, onChange }: Props) {
  const shot = useShot();
  const { signal } = drive;
  const put = (change: Partial<Signal>, gesture?: Gesture): void =>
    onChange(
      withHeard({ ...drive, signal: { ...signal, ...change } }, shot ? recordedOf(shot) : undefined, shot?.settings.time.fps ?? USUAL_FPS),
      gesture,
    );
  const steps = (next: readonly Step[], gesture?: Gesture): void => put({ steps: [...next] }, gesture);
  return (
    <>
      <Box data-testid="signal-sentence" sx={{ marginBottom: '8px' }}>
        {sentenceOf(signal)}
      </Box>
      <ChannelChoice chosen={signal.channels} onChange={(channels) => put({ channels: [...channels] })} />
      {signal.steps.map((step, k) => (
        <StepRows
          // by its place: a step may stand there twice
          key={k}
          step={step}
          param={param}
          onUp={k > 0 ? () => steps(signal.steps.toSpliced(k - 1, 2, step, signal.steps[k - 1]!)) : null}
          onChange={(values, gesture) => steps(signal.steps.with(k, { ...step, values }), gesture)}
          onDelete={() => steps(signal.steps.toSpliced(k, 1))}
        />
      ))}
      <Select
        displayEmpty
        value=""
        onChange={({ target: { value: kind } }) => steps([...signal.steps, freshStep(kind)])}
        inputProps={{ 'aria-label': 'Add a step' }}
        renderValue={() => 'Add a step'}
        sx={{ marginTop: '8px', width: '100%' }}
      >
        {stepRegistry.all.map(({ kind, label, help }) => (
          <MenuItem key={kind} value={kind}>
            {label}
            <Box component="span" sx={{ color: 'var(--mute)', marginLeft: '10px' }}>
              {help}
            </Box>
          </MenuItem>
        ))}
      </Select>
    </>
  );
}

const freshStep = (kind: string): Step => ({ kind, values: defaultsOf(stepRegistry.of(kind).params) as Step['values'] });

/** The channels that are heard, or were recorded; several mean any of them. */
function ChannelChoice({ chosen, onChange }: { chosen: readonly string[]; onChange: (channels: readonly string[]) => void }) {
  const heard = useLive((s) => Object.keys(s.channels).join('\n'));
  const recorded = useShot()?.plate.recorded ?? {};
  const names = [...new Set([...chosen, ...(heard ? heard.split('\n') : []), ...Object.keys(recorded)])].slice(0, MOST);
  if (names.length === 0) return <Box sx={{ color: 'var(--mute)', marginBottom: '6px' }}>No channel is heard here: a live plate brings some.</Box>;
  return (
    <Box role="group" aria-label="Channels" sx={{ display: 'flex', flexWrap: 'wrap', gap: '4px', marginBottom: '6px' }}>
      {names.map((name) => {
        const on = chosen.includes(name);
        return (
          <Button
            key={name}
            role="checkbox"
            aria-checked={on}
            onClick={() => onChange(on ? chosen.filter((n) => n !== name) : [...chosen, name])}
            sx={{ height: 22, minWidth: 0, padding: '0 8px', fontSize: 11.5, ...(on && { borderColor: 'var(--paper)', background: 'var(--raise)' }) }}
          >
            {name}
          </Button>
        );
      })}
    </Box>
  );
}

/** So many channels are offered by name. */
const MOST = 60;

interface StepProps {
  readonly step: Step;
  readonly param: NumberParam;
  readonly onUp: (() => void) | null;
  readonly onChange: (values: Step['values'], gesture?: Gesture) => void;
  readonly onDelete: () => void;
}

/** A step of a signal with its numbers. */
function StepRows({ step, param, onUp, onChange, onDelete }: StepProps) {
  const definition = stepRegistry.knows(step.kind) ? stepRegistry.of(step.kind) : null;
  const label = definition?.label ?? `Unknown: ${step.kind}`;
  const set = (name: string, value: number | boolean, gesture?: Gesture): void => onChange({ ...step.values, [name]: value }, gesture);
  const row = ([name, own]: [string, Param]) => {
    const value = step.values[name] ?? own.default;
    if (own.type === 'toggle')
      return <ToggleRow key={name} label={own.label} help={own.help} value={value === true} onChange={(v) => set(name, v)} />;
    if (own.type !== 'number') return null;
    return (
      <NumberRow key={name} param={inUnitOf(param, own, name, step.kind)} value={Number(value)} onChange={(v, gesture) => set(name, v, gesture)} />
    );
  };
  return (
    <Box component="section" aria-label={label} sx={{ borderTop: '1px solid var(--line)', padding: '4px 0' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', '& svg': { fontSize: 16 } }}>
        <Box component="span" title={definition?.help} sx={{ flex: 1, fontWeight: 550 }}>
          {label}
        </Box>
        {onUp && (
          <IconButton aria-label={`${label} earlier`} onClick={onUp}>
            <UpIcon />
          </IconButton>
        )}
        <IconButton aria-label={`Delete ${label}`} onClick={onDelete}>
          <DeleteIcon />
        </IconButton>
      </Box>
      {Object.entries(definition?.params ?? {}).map(row)}
    </Box>
  );
}
