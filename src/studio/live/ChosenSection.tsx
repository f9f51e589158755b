import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import UpIcon from '@mui/icons-material/KeyboardArrowUpOutlined';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { lazy, Suspense } from 'react';
import { shotOfChoice, withAmong } from '../../core/document/chosen';
import type { Choice, Chosen, Shot } from '../../core/document/schema';
import { defaultsOf, count } from '../../core/values/params';
import { stepRegistry, type Signal } from '../../core/values/signals/signal';
import { countStep } from '../../core/values/signals/steps/count';
import { gateStep } from '../../core/values/signals/steps/gate';
import { Section } from '../controls/rows';
import { changeShot, useDocument, type Gesture } from '../state/documentStore';
import { useLive } from '../state/liveStore';
import { driveOf, nameOf } from './chooser';

const SignalEditor = lazy(() => import('../controls/SignalEditor').then((m) => ({ default: m.SignalEditor })));

/** The live shot as it is set. */
const ITSELF: Choice = { shot: null, take: null };
/** Which one is shown, as a number that signals give. */
const WHICH = count({ label: 'Which, from 0', min: 0, max: 10, lowest: 0, highest: 99, default: 0 });

const step = (kind: string): Signal['steps'][number] => ({
  kind,
  values: defaultsOf(stepRegistry.of(kind).params) as Signal['steps'][number]['values'],
});
/** Each time something comes on the next one is shown. */
const FIRST: Chosen = withAmong(
  { among: new Array<Choice>(4).fill(ITSELF), signal: { channels: [], steps: [step(gateStep.kind), step(countStep.kind)] } },
  [ITSELF],
);

const wordOf = (choice: Choice, shot: Shot, shots: readonly Shot[]): string => {
  const seen = shotOfChoice(choice, shot, shots);
  return seen ? nameOf(seen) || 'This shot as it is set' : 'Gone';
};
const sameChoice = (a: Choice, b: Choice): boolean => a.shot === b.shot && a.take === b.take;

/** What a signal chooses to be shown: this shot, its takes, other shots of the project and theirs. */
export function ChosenSection({ shot }: { shot: Shot }) {
  const project = useDocument((s) => s.project);
  const shows = useLive((s) => s.shows);
  const shots = project?.shots ?? [];
  const chosen = shot.plate.live?.chosen;
  const among = chosen?.among ?? [];
  const put = (next: Chosen | undefined, gesture?: Gesture): void =>
    changeShot((s) => {
      const { live } = s.plate;
      if (!live) return;
      if (next && next.among.length > 0) live.chosen = next;
      else delete live.chosen;
    }, gesture);
  const list = (next: readonly Choice[]): void => put(withAmong(chosen ?? FIRST, next));
  const takesOf = (s: Shot, id: string | null): Choice[] => s.takes.map((take) => ({ shot: id, take: take.id }));
  const others = shots.filter((s) => s.id !== shot.id);
  const offered = [ITSELF, ...takesOf(shot, null), ...others.flatMap((s) => [{ shot: s.id, take: null }, ...takesOf(s, s.id)])].filter(
    (choice) => !among.some((c) => sameChoice(c, choice)),
  );
  return (
    <Section title="Shown" aside={chosen && <span className="mono">{shows || 'this shot'}</span>}>
      <Box sx={{ color: 'var(--mute)', fontSize: 11.5, marginBottom: '6px' }}>
        A signal can choose what is shown: this shot, one of its takes, or another shot.
      </Box>
      {among.length > 0 && (
        <Box component="ol" aria-label="What is chosen from" sx={{ listStyle: 'none', margin: 0, padding: 0 }}>
          {among.map((choice, k) => {
            const word = wordOf(choice, shot, shots);
            return (
              <Box
                component="li"
                key={`${choice.shot} ${choice.take}`}
                sx={{ display: 'flex', alignItems: 'center', minHeight: 28, '& svg': { fontSize: 16 } }}
              >
                <Box component="span" className="mono" sx={{ width: 22, color: 'var(--mute)' }}>
                  {k}
                </Box>
                <Box component="span" sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                  {word}
                </Box>
                {k > 0 && (
                  <IconButton aria-label={`${word} earlier`} onClick={() => list(among.toSpliced(k - 1, 2, choice, among[k - 1]!))}>
                    <UpIcon />
                  </IconButton>
                )}
                <IconButton aria-label={`Take ${word} out`} onClick={() => list(among.toSpliced(k, 1))}>
                  <DeleteIcon />
                </IconButton>
              </Box>
            );
          })}
        </Box>
      )}
      <Select
        displayEmpty
        value=""
        disabled={offered.length === 0}
        onChange={({ target: { value } }) => {
          const choice = offered[Number(value)];
          // what is shown first is this shot
          if (choice) list(among.length === 0 && !sameChoice(choice, ITSELF) ? [ITSELF, choice] : [...among, choice]);
        }}
        inputProps={{ 'aria-label': 'Add what can be shown' }}
        renderValue={() => 'Add what can be shown'}
        sx={{ width: '100%' }}
      >
        {offered.map((choice, k) => (
          <MenuItem key={`${choice.shot} ${choice.take}`} value={k}>
            {wordOf(choice, shot, shots)}
          </MenuItem>
        ))}
      </Select>
      {chosen && (
        <Box sx={{ marginTop: '10px' }}>
          <Suspense fallback={null}>
            <SignalEditor drive={driveOf(chosen)} param={WHICH} onChange={({ signal }, gesture) => put({ ...chosen, signal }, gesture)} />
          </Suspense>
        </Box>
      )}
    </Section>
  );
}
