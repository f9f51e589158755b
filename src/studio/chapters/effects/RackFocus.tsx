import Button from '@mui/material/Button';
import { useState } from 'react';
import type { EffectItem } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { setDrive, type NumberAddress } from '../../../core/document/driven';
import { keysOf, sortedKeys, type Key } from '../../../core/values/drive';
import { clampNumber, frames, type NumberParam } from '../../../core/values/params';
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

/** What is clicked first was in focus, what is clicked then comes into it within so many frames from the playhead on. */
function rack(id: string, address: NumberAddress, setting: NumberParam, duration: number): Picking {
  const { frame: start, set } = useView.getState();
  const second = (from: number): Picking => ({
    id: `${id} to`,
    prompt: 'Click what comes into focus',
    take: ({ distance }) => {
      const to = clampNumber(setting, distance);
      changeSettings((s) => {
        const drive = s.effects.find((e) => e.id === address.item)?.drives[address.name];
        const keys = rackKeys(keysOf(drive) ?? [], start, Math.round(duration), from, to);
        setDrive(s, address, { kind: 'keys', keys });
        s.time.length = Math.max(s.time.length, start + Math.round(duration) + 1);
      });
      set({ picking: null });
    },
  });
  return {
    id: `${id} from`,
    prompt: 'Click what is in focus first',
    take: ({ distance }) => set({ picking: second(clampNumber(setting, distance)) }),
  };
}

/** What is clicked stays in focus. */
const following = (id: string, address: NumberAddress, setting: NumberParam): Picking => ({
  id,
  prompt: 'Click what stays in focus',
  take: ({ x, y }) => {
    useView.getState().set({ picking: null });
    void followFocus(address, setting, { x, y });
  },
});

/** Two clicks in the picture and a duration: the focus goes from one thing to the other, from the playhead on. */
export function RackFocus({ item, param }: { item: EffectItem; param: string }) {
  const { picking, frame, set } = useViewPart('picking', 'frame', 'set');
  const clip = useShot()?.plate.clip !== undefined;
  const busy = useSession((s) => s.clipDepthJob !== null);
  const [duration, setDuration] = useState(DURATION.default);
  const id = `rack ${item.id}`;
  const waits = picking?.id.startsWith(id) ?? false;
  const followed = `${id} follow`;
  const setting = effectOf(item.kind).params[param];
  const address: NumberAddress = { place: 'effect', item: item.id, name: param };
  const stop = (): void => set({ picking: null });
  return (
    <>
      <NumberRow param={DURATION} value={duration} onChange={setDuration} />
      <Button
        fullWidth
        aria-pressed={waits}
        sx={{ marginTop: '4px', ...(waits && { borderColor: 'var(--paper)' }) }}
        onClick={waits || setting?.type !== 'number' ? stop : () => set({ picking: rack(id, address, setting, duration) })}
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
          onClick={picking?.id === followed || setting?.type !== 'number' ? stop : () => set({ picking: following(followed, address, setting) })}
        >
          {picking?.id === followed ? picking.prompt : 'Focus that follows a point'}
        </Button>
      )}
    </>
  );
}
