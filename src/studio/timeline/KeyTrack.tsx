import { useRef } from 'react';
import type { DrivenNumber } from '../../core/document/driven';
import type { ShotTime } from '../../core/document/schema';
import { driveValue, keysOf, pinsOf } from '../../core/values/drive';
import { clampNumber, formatNumber, trackPosition } from '../../core/values/params';
import { useTint } from '../controls/useTint';
import { goTo } from '../state/playback';
import { useView } from '../state/viewStore';
import { RowName } from '../score/RowName';
import { copyKeys, deleteKeys, isSelected, moveKeys, pasteKeys, selectKey, useKeys, type KeyAddress } from './keySelection';
import { curvePath, LABELS, TRACK, type TimeScale } from './scale';
import { TrackHandle } from './TrackHandle';
import { steady } from '../controls/steady';

interface Props {
  readonly number: DrivenNumber;
  readonly time: ShotTime;
  readonly scale: TimeScale;
  readonly y: number;
}

/** A driven number: its curve, and a pin for each of its keys. */
export const KeyTrack = steady(function KeyTrack({ number, time, scale, y }: Props) {
  const { param, drive, set, of } = number;
  const tint = useTint();
  const selected = useKeys((s) => s.selected);
  if (!drive) return null;
  const value = (f: number): number => clampNumber(param, driveValue(drive, set, f));
  // the curve fills its track: from the least to the largest value that occurs
  const places = Array.from({ length: 65 }, (_, k) => trackPosition(param, value((k * (time.length - 1)) / 64)));
  const [least, most] = [Math.min(...places), Math.max(...places)];
  const share = (f: number): number => (most - least < 1e-6 ? 0.5 : (trackPosition(param, value(f)) - least) / (most - least));
  const { place, item, name } = number;
  return (
    <g>
      <line x1={LABELS} x2={LABELS + scale.span} y1={y + TRACK / 2} y2={y + TRACK / 2} stroke="var(--line)" strokeWidth={5} />
      <path d={curvePath(scale, y, TRACK, share)} fill="none" stroke="var(--mute)" strokeWidth={1} />
      {pinsOf(drive).map((at, k) => {
        const key: KeyAddress = { place, item, name, frame: at };
        return (
          <Pin
            // by its place in the row: a pin that is moved keeps the focus
            key={k}
            address={key}
            movable={keysOf(drive) !== null}
            label={`${of}, ${param.label.toLowerCase()}: key at frame ${at}`}
            text={formatNumber(param, value(at))}
            colour={param.distance ? tint(value(at)) : 'var(--paper)'}
            on={isSelected(selected, key)}
            scale={scale}
            y={y}
          />
        );
      })}
    </g>
  );
});

/** A driven number's name beside its track, and its value at the playhead. */
export const KeyName = steady(function KeyName({ number: { param, drive, set, of }, y, inHand, onChoose }: NameProps) {
  const frame = useView((s) => s.frame);
  if (!drive) return null;
  const value = formatNumber(param, clampNumber(param, driveValue(drive, set, frame)));
  return <RowName y={y} height={TRACK} name={`${of}, ${param.label.toLowerCase()}`} aside={value} inHand={inHand} onChoose={onChoose} />;
});

interface NameProps {
  readonly number: DrivenNumber;
  readonly y: number;
  readonly inHand: boolean;
  readonly onChoose: (() => void) | undefined;
}

interface PinProps {
  readonly address: KeyAddress;
  readonly movable: boolean;
  readonly label: string;
  readonly text: string;
  readonly colour: string;
  readonly on: boolean;
  readonly scale: TimeScale;
  readonly y: number;
}

/** A pin on a track: dragged, or moved with the arrow keys; Delete deletes, Ctrl C and Ctrl V copy. */
function Pin({ address, movable, label, text, colour, on, scale, y }: PinProps) {
  const grabbed = useRef<readonly KeyAddress[]>([]);
  const x = scale.x(address.frame);
  /** what has the focus is meant, and what is selected with it */
  const meant = (): readonly KeyAddress[] => {
    const all = useKeys.getState().selected;
    return isSelected(all, address) ? all : [address];
  };
  const onKey = (e: React.KeyboardEvent): boolean => {
    const control = e.ctrlKey || e.metaKey;
    if (e.key === 'Delete' || e.key === 'Backspace') deleteKeys(meant());
    else if (e.key === 'Enter') goTo(address.frame);
    else if (control && e.key === 'c') copyKeys(meant());
    else if (control && e.key === 'v') pasteKeys();
    else return false;
    return true;
  };
  return (
    <TrackHandle
      label={label}
      frame={address.frame}
      scale={scale}
      text={text}
      movable={movable}
      onGrab={(more) => {
        selectKey(address, more);
        grabbed.current = useKeys.getState().selected;
      }}
      onDrag={(by, _, gesture) => grabbed.current.length > 0 && moveKeys(grabbed.current, by, gesture)}
      onStep={(by, gesture) => moveKeys(meant(), by, gesture)}
      onKey={onKey}
      onFocus={() => !isSelected(useKeys.getState().selected, address) && selectKey(address, false)}
      onDoubleClick={() => goTo(address.frame)}
    >
      <line x1={x} x2={x} y1={y + 8} y2={y + TRACK - 2} stroke={colour} strokeWidth={1.5} />
      <rect x={x - 8} y={y} width={16} height={TRACK} fill="transparent" />
      <circle cx={x} cy={y + 7} r={4} fill={on ? colour : 'var(--base)'} stroke={colour} strokeWidth={1.5} />
    </TrackHandle>
  );
}
