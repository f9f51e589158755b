import { setNumber } from '../../core/document/driven';
import { formatMetres } from '../../core/values/params';
import { changeSettings, type Gesture } from '../state/documentStore';
import { useView } from '../state/viewStore';
import { RailHandle } from './RailHandle';

interface Props {
  readonly which: 'near' | 'far';
  readonly x: number;
  /** how far down the ruler's line lies */
  readonly axis: number;
  readonly distance: number;
  readonly colour: string;
  readonly limits: readonly [number, number];
}

/** An end of the map: dragging doubles or halves its distance every 120 px. */
export function EndHandle({ which, x, axis, distance, colour, limits }: Props) {
  const finite = (d: number): number => (d === Infinity ? 1e5 : d);
  const set = (value: number, gesture: Gesture): void =>
    changeSettings((s) => {
      const v = Math.min(limits[1], Math.max(limits[0], value));
      s.calibration.scaled = true;
      setNumber(s, { place: 'shot', item: '', name: `calibration.${which}` }, Number(v.toPrecision(4)), useView.getState().frame);
    }, gesture);
  return (
    <RailHandle
      label={which === 'near' ? 'Near end' : 'Far end'}
      x={x}
      y={axis}
      shape="end"
      colour={colour}
      text={formatMetres(distance)}
      value={distance === Infinity ? 1e6 : distance}
      start={distance}
      onDrag={(dx, start, gesture) => set(finite(start) * 2 ** (dx / 120), gesture)}
      onStep={(steps, gesture) => set(finite(distance) * 1.02 ** steps, gesture)}
    />
  );
}
