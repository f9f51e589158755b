import Button from '@mui/material/Button';
import { useState } from 'react';
import type { EffectItem } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { setDrive, type NumberAddress } from '../../../core/document/driven';
import { keysOf, sortedKeys, type Key } from '../../../core/values/drive';
import { clampNumber, frames } from '../../../core/values/params';
import { NumberRow } from '../../controls/NumberRow';
import { changeSettings, useShot } from '../../state/documentStore';
import { followFocus } from '../../state/followFocus';
import type { Picking } from '../../state/picking';
import { useSession } from '../../state/sessionStore';
import { useView, useViewPart } from '../../state/viewStore';

const DURATION = frames({ label: 'Takes', min: 2, max: 240, lowest: 1, highest: 36000, default: 24, help: 'Frames, or seconds such as 1 s' });

/** Keys of a rack: in focus at one distance, then at another, so many frames later; those outside of it stay. */
export function rackKeys(old: readonly Key[], start: number, duration: number, from: number, to: number): Key[] {
  const outside = old.filter((k) => k.frame < start || k.frame > start + duration);
  return sortedKeys([...outside, { frame: start, value: from, easing: 'ease' }, { frame: start + duration, value: to, easing: 'ease' }]);
}

/** Two clicks in the picture and a duration: the focus goes from one thing to the other, from the playhead on. */
export function RackFocus({ item, param }: { item: EffectItem; param: string }) {
  const { picking, frame, set } = useViewPart('picking', 'frame', 'set');
  const clip = useShot()?.plate.clip !== undefined;
  const busy = useSession((s) => s.clipDepthJob !== null);
  const [duration, setDuration] = useState(DURATION.default);
  const id = `rack ${item.id}`;
  const waits = picking?.id.startsWith(id) ?? false;
  const begin = (): void => {
    const setting = effectOf(item.kind).params[param];
    if (setting?.type !== 'number') return;
    const address: NumberAddress = { place: 'effect', item: item.id, name: param };
    const start = useView.getState().frame;
    const second = (from: number): Picking => ({
      id: `${id} to`,
      prompt: 'Click what comes into focus',
      take: ({ distance }) => {
        const to = clampNumber(setting, distance);
        changeSettings((s) => {
          const drive = s.effects.find((e) => e.id === item.id)?.drives[param];
          const keys = rackKeys(keysOf(drive) ?? [], start, Math.round(duration), from, to);
          setDrive(s, address, { kind: 'keys', keys });
          s.time.length = Math.max(s.time.length, start + Math.round(duration) + 1);
        });
        set({ picking: null });
      },
    });
    set({
      picking: {
        id: `${id} from`,
        prompt: 'Click what is in focus first',
        take: ({ distance }) => set({ picking: second(clampNumber(setting, distance)) }),
      },
    });
  };
  const followed = `${id} follow`;
  const follow = (): void => {
    const setting = effectOf(item.kind).params[param];
    if (setting?.type !== 'number') return;
    set({
      picking: {
        id: followed,
        prompt: 'Click what stays in focus',
        take: ({ x, y }) => {
          set({ picking: null });
          void followFocus({ place: 'effect', item: item.id, name: param }, setting, { x, y });
        },
      },
    });
  };
  return (
    <>
      <NumberRow param={DURATION} value={duration} onChange={setDuration} />
      <Button
        fullWidth
        aria-pressed={waits}
        sx={{ marginTop: '4px', ...(waits && { borderColor: 'var(--paper)' }) }}
        onClick={waits ? () => set({ picking: null }) : begin}
      >
        {waits && picking?.id !== followed ? picking!.prompt : `Rack focus from frame ${frame}`}
      </Button>
      {clip && (
        <Button
          fullWidth
          disabled={busy}
          aria-pressed={picking?.id === followed}
          title="The focus is read where a point goes, frame by frame, and becomes keys"
          sx={{ marginTop: '4px' }}
          onClick={picking?.id === followed ? () => set({ picking: null }) : follow}
        >
          {picking?.id === followed ? picking.prompt : 'Focus that follows a point'}
        </Button>
      )}
    </>
  );
}
