import { laneOf, type RenderLens } from '../../core/effects/definition';
import { effectOf } from '../../core/effects/registry';
import type { EffectItem, Shot } from '../../core/document/schema';
import { clampNumber, formatMetres } from '../../core/values/params';
import { setNumber } from '../../core/document/driven';
import { paramsAt, START } from '../../core/values/moment';
import { steady } from '../controls/steady';
import { changeSettings, type Gesture } from '../state/documentStore';
import { useView } from '../state/viewStore';
import { LaneShape } from './LaneShape';
import { RailHandle } from './RailHandle';
import { RowName } from '../score/RowName';
import { LEFT, type LaneRow, type RailScale } from './railLayout';

/** Effects that have a line on the rail as they are set. */
export const withLanes = (shot: Shot): EffectItem[] =>
  shot.settings.effects.filter((e) => {
    const definition = effectOf(e.kind);
    return laneOf(definition, paramsAt(definition, { values: e.values }, START), LENS) !== null;
  });
/** whether there is a lane does not depend on the lens */
const LENS = { focalPx: 1000, focalLength: 35 };

interface Props {
  /** as it is at the playhead */
  readonly item: EffectItem;
  readonly lens: RenderLens;
  readonly scale: RailScale;
  readonly row: LaneRow;
  readonly onChoose: () => void;
}

/** The lane of an effect as it is at the playhead; null where it has none. */
function laneNow({ item, lens }: Pick<Props, 'item' | 'lens'>) {
  const definition = effectOf(item.kind);
  return { definition, lane: laneOf(definition, paramsAt(definition, { values: item.values }, START), lens) };
}

/** How strongly an effect acts by distance, and what of it can be moved on the rail. */
export const EffectLane = steady(function EffectLane({ item, lens, scale, row, onChoose }: Props) {
  const { definition, lane } = laneNow({ item, lens });
  if (!lane) return null;
  const set = (name: string, distance: number, from: number, gesture: Gesture): void => {
    const param = definition.params[name];
    if (param?.type !== 'number') return;
    const value = Number(clampNumber(param, distance - from).toPrecision(4));
    changeSettings((s) => setNumber(s, { place: 'effect', item: item.id, name }, value, useView.getState().frame), gesture);
  };
  return (
    <g opacity={item.on ? 1 : 0.4} data-lane={row.folded ? 'folded' : 'open'}>
      <g onClick={onChoose} style={row.folded ? { cursor: 'pointer' } : undefined}>
        <LaneShape lane={lane} scale={scale} row={row} />
      </g>
      {(row.folded ? [] : lane.handles).map(({ param, distance, from = 0 }) => (
        <RailHandle
          key={param}
          label={`${definition.label}: ${definition.params[param]?.label ?? param}`}
          x={distance > 0 ? scale.x(distance) : LEFT}
          y={scale.axis}
          stem={row.y + row.height - scale.axis}
          shape="round"
          colour={scale.colour(distance)}
          text={formatMetres(distance)}
          value={distance === Infinity ? 1e6 : distance}
          start={distance}
          onDrag={(dx, start, gesture) => set(param, scale.moved(start > 0 ? start : scale.moved(1, -1e9), dx), from, gesture)}
          onStep={(steps, gesture) => set(param, Math.max(0.05, distance === Infinity ? 1e5 : distance) * 1.02 ** steps, from, gesture)}
        />
      ))}
    </g>
  );
});

/** The name of the effect in hand beside its lane, with its distances under it. */
export const EffectName = steady(function EffectName({ item, lens, row, onChoose }: Omit<Props, 'scale'>) {
  const { definition, lane } = laneNow({ item, lens });
  return (
    <RowName
      y={row.y}
      height={row.height}
      name={definition.label}
      below={lane ? figuresOf(lane.caption) : undefined}
      inHand
      off={!item.on}
      onChoose={onChoose}
    />
  );
});

/** What a lane's caption says besides what it is a lane of. */
const figuresOf = (caption: string): string => caption.replace(/^[^:]*: (in focus )?/, '');
