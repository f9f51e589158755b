import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Dialog from '@mui/material/Dialog';
import { useEffect, useRef } from 'react';
import { endsOfMetres, nearnessOfGiven, SHARPER_RUNS } from '../../../../../core/estimate/own/own';
import { unitRange } from '../../../../../core/estimate/unitRange';
import { valueScales, type GivenDepth, type ValueScale } from '../../../../../core/need/networkUse';
import type { Plane } from '../../../../../core/picture';
import { ChoiceRow, ToggleRow } from '../../../../controls/rows';
import { closeTrials, takeWay } from './networkTrials';
import { changeTrials, givesOf, useTrials, type Tried } from './trialStore';

export const VALUES: Readonly<Record<ValueScale, string>> = {
  imagenet: 'Mean and spread of ImageNet',
  unit: '0 to 1',
  signed: '−1 to 1',
  bytes: '0 to 255',
};

export const GIVES: readonly { readonly value: GivenDepth; readonly label: string }[] = [
  { value: 'nearness', label: 'Nearness' },
  { value: 'distance', label: 'Distance' },
  { value: 'metres', label: 'Metres' },
];

/** What a network answered as greys, near is white. */
function Greys({ answer, gives, fromZero }: { answer: Plane } & Parameters<typeof nearnessOfGiven>[1]) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    const { width, height, data } = unitRange(nearnessOfGiven(answer, { gives, fromZero }));
    const image = context.createImageData(width, height);
    for (let i = 0; i < data.length; i++) image.data.fill(Math.round(255 * data[i]!), 4 * i, 4 * i + 3);
    for (let i = 3; i < image.data.length; i += 4) image.data[i] = 255;
    context.putImageData(image, 0, 0);
  }, [answer, gives, fromZero]);
  return (
    <canvas
      ref={canvas}
      width={answer.width}
      height={answer.height}
      style={{ width: '100%', height: '100%', objectFit: 'contain', display: 'block' }}
    />
  );
}

const secondsText = (s: number): string => (s < 10 ? s.toFixed(1) : s.toFixed(0));

/** One way of asking: what came of it on this picture. A click takes it. */
function Way({ values, tried, gives, likeliest, told }: { values: ValueScale; tried: Tried; gives: GivenDepth; likeliest: boolean; told: boolean }) {
  const trial = tried?.trial ?? null;
  return (
    <ButtonBase
      disabled={!trial}
      onClick={() => takeWay(values)}
      aria-label={`Values ${VALUES[values]}`}
      sx={{
        display: 'block',
        textAlign: 'left',
        border: '1px solid',
        borderColor: likeliest ? 'var(--paper)' : 'var(--line)',
        borderRadius: '4px',
        overflow: 'hidden',
        '&:hover, &.Mui-focusVisible': { borderColor: 'var(--text)' },
      }}
    >
      <Box sx={{ height: 158, background: 'var(--surround)', color: 'var(--mute)', display: 'flex', alignItems: 'center', justifyContent: 'center' }}>
        {trial ? (
          <Greys answer={trial.answer} gives={gives} fromZero={trial.fromZero} />
        ) : (
          <Box sx={{ padding: '10px', fontSize: 11.5 }}>{tried?.failed ?? 'trying…'}</Box>
        )}
      </Box>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', padding: '5px 8px' }}>
        <span>{VALUES[values]}</span>
        {trial?.agreement != null && trial.gives === gives && (
          <Box component="span" className="mono" sx={{ color: 'var(--mute)', fontSize: 11 }}>
            {likeliest ? (told ? 'as its file says, ' : 'closest, ') : ''}
            {Math.round(100 * Math.max(0, trial.agreement))} %
          </Box>
        )}
      </Box>
    </ButtonBase>
  );
}

/** How a network is asked: the same picture by each way of giving it its values, side by side. */
export function NetworkDialog() {
  const trials = useTrials((s) => s.trials);
  if (!trials) return null;
  const { row, tried } = trials;
  const there = valueScales.flatMap((values) => {
    const trial = tried[values]?.trial;
    return trial ? [{ values, trial }] : [];
  });
  const best = there.reduce<(typeof there)[number] | null>((a, b) => (a && (a.trial.agreement ?? 0) >= (b.trial.agreement ?? 0) ? a : b), null);
  const likeliest = row.found.told.values ? row.found.use.values : best?.values;
  const shown = there.find((t) => t.values === likeliest) ?? there[0];
  const gives = shown ? givesOf(trials, shown.trial) : (trials.gives ?? row.found.use.gives);
  const ends = shown && gives === 'metres' ? endsOfMetres(shown.trial.answer) : null;
  const { size } = row.found.use;
  return (
    <Dialog
      open
      onClose={closeTrials}
      aria-labelledby="network-title"
      slotProps={{ paper: { sx: { width: 660, maxWidth: '94vw', padding: '16px 18px' } } }}
    >
      <Box id="network-title" component="h2" sx={{ margin: 0, fontSize: 15, fontWeight: 600, overflowWrap: 'anywhere' }}>
        {row.name}
      </Box>
      <Box sx={{ color: 'var(--mute)', margin: '2px 0 10px' }}>
        {row.found.told.values
          ? 'Its file says how it is given the picture’s values. '
          : 'How is it given the picture’s values? Click the map that is right. '}
        The percentages tell how well its order goes with our own estimate.
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '8px' }}>
        {valueScales.map((values) => {
          const one = tried[values];
          return (
            <Way
              key={values}
              values={values}
              tried={one}
              likeliest={values === likeliest}
              told={row.found.told.values}
              gives={one?.trial ? givesOf(trials, one.trial) : gives}
            />
          );
        })}
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: '24px', marginTop: '10px', alignItems: 'center' }}>
        <ChoiceRow label="It gives" help="Near is white above" value={gives} options={GIVES} onChange={(v) => changeTrials({ gives: v })} />
        <ToggleRow
          label="Sharper"
          help="Asked again in overlapping parts at twice the size"
          value={trials.sharper}
          onChange={(sharper) => changeTrials({ sharper })}
        />
      </Box>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', marginTop: '8px', gap: '12px' }}>
        <Box className="mono" sx={{ color: 'var(--mute)', fontSize: 11 }}>
          {'width' in size ? `${size.width}×${size.height} px` : `about ${size.side}×${size.side} px`}
          {shown && `, ${secondsText(shown.trial.seconds * (trials.sharper ? SHARPER_RUNS : 1))} s a picture`}
          {ends && `, ${ends.near.toPrecision(3)} to ${ends.far.toPrecision(3)} m`}
        </Box>
        <Button onClick={closeTrials}>Cancel</Button>
      </Box>
    </Dialog>
  );
}
