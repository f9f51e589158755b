import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { lazy, Suspense } from 'react';
import { defaultsOf } from '../../core/values/params';
import { estimateLayer } from '../../core/depth/layers/estimate';
import { newLayer } from '../../core/document/defaults';
import type { LivePlate } from '../../core/document/schema';
import { channelSources } from '../../live/channels/registry';
import { liveSources } from '../../live/registry';
import { ParamRows } from '../controls/ParamRows';
import { LabelRow, Section, ToggleRow } from '../controls/rows';
import { TextRow } from '../controls/TextRow';
import { changeShot, useShot, type Gesture } from '../state/documentStore';

const ChosenSection = lazy(() => import('./ChosenSection').then((m) => ({ default: m.ChosenSection })));
const Channels = lazy(() => import('./Channels').then((m) => ({ default: m.Channels })));

/** Where the pictures of a live plate come from, how it is set, and its channels. */
export function LiveSection({ live }: { live: LivePlate }) {
  const shot = useShot();
  const source = liveSources.knows(live.source) ? liveSources.of(live.source) : null;
  const choose = (kind: string): void =>
    changeShot((s) => {
      const next = liveSources.of(kind);
      s.plate.live = {
        source: kind,
        values: defaultsOf(next.params),
        hears: s.plate.live?.hears ?? [],
        ...(s.plate.live?.chosen && { chosen: s.plate.live.chosen }),
      };
      const { layers } = s.settings;
      // what sees no depth has it estimated
      if (!next.ends && !layers.some((l) => l.kind === estimateLayer.kind)) layers.unshift(newLayer(estimateLayer.kind));
    });
  const set = (name: string, value: number | boolean | string, gesture?: Gesture): void =>
    changeShot((s) => {
      if (s.plate.live) s.plate.live.values[name] = value;
    }, gesture);
  return (
    <>
      <Section title="Live">
        <LabelRow label="Source">
          <Select value={source ? live.source : ''} onChange={(e) => choose(e.target.value)} inputProps={{ 'aria-label': 'Source' }}>
            {liveSources.all.map(({ kind, label }) => (
              <MenuItem key={kind} value={kind}>
                {label}
              </MenuItem>
            ))}
          </Select>
        </LabelRow>
        <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '4px 0 6px' }}>{source?.help ?? `${live.source} is not known here.`}</Box>
        {Object.entries(source?.texts ?? {}).map(([name, { label, help, default: usual }]) => (
          <TextRow key={name} label={label} help={help} value={String(live.values[name] ?? usual)} onChange={(text) => set(name, text)} />
        ))}
      </Section>
      {source && Object.keys(source.params).length > 0 && (
        <ParamRows params={source.params} values={live.values} onChange={set} tintOf={() => 'var(--paper)'} />
      )}
      <Section title="Channels">
        <Suspense fallback={null}>
          <Channels />
        </Suspense>
      </Section>
      <Section title="Also heard">
        {channelSources.all.map(({ kind, label, help }) => (
          <ToggleRow
            key={kind}
            label={label}
            help={help}
            value={live.hears.includes(kind)}
            onChange={(on) =>
              changeShot((s) => {
                if (s.plate.live) s.plate.live.hears = on ? [...s.plate.live.hears, kind] : s.plate.live.hears.filter((k) => k !== kind);
              })
            }
          />
        ))}
      </Section>
      <Suspense fallback={null}>{shot && <ChosenSection shot={shot} />}</Suspense>
    </>
  );
}
