import type { ReactNode } from 'react';
import { moveValues, runEnds, runOf } from '../../core/camera/definition';
import { moveOf } from '../../core/camera/registry';
import { drivenNumbers, keyedLayers, type DrivenNumber } from '../../core/document/driven';
import type { Layer, MoveItem, Shot } from '../../core/document/schema';
import { clipDepthSpec } from '../../core/shot/clipLayer';
import { pinsOf } from '../../core/values/drive';
import { RowName } from '../score/RowName';
import { useView, type Chapter } from '../state/viewStore';
import { ClipName, ClipTrack } from './ClipTrack';
import { KeyName, KeyTrack } from './KeyTrack';
import { LayerTrack } from './LayerTrack';
import { MoveTrack } from './MoveTrack';
import { TRACK, type TimeScale } from './scale';
import { StretchTrack } from './StretchTrack';

/** What of the view decides which rows are in hand. */
export interface Looked {
  readonly chapter: Chapter;
  readonly selectedLayer: string | null;
  readonly selectedEffect: string | null;
  readonly selectedMove: string | null;
}

/** A row of the timeline. */
export interface TrackRow {
  readonly key: string;
  readonly name: string;
  /** by keys or otherwise: where nothing is in hand the first such row is */
  readonly driven: boolean;
  isInHand(view: Looked): boolean;
  /** what is seen of it where it is folded: from where to where something happens, and its keys */
  readonly glimpse: { readonly from: number; readonly to: number; readonly keys: readonly number[] };
  track(scale: TimeScale, y: number): ReactNode;
  label(y: number, inHand: boolean): ReactNode;
}

const go = (to: Partial<Looked>): void => useView.getState().set(to);

function clipRow(shot: Shot, layer: Layer): TrackRow {
  return {
    key: 'clip',
    name: 'Depth',
    driven: false,
    isInHand: (view) => view.chapter === 'depth' && view.selectedLayer === layer.id,
    glimpse: { from: 0, to: shot.settings.time.length - 1, keys: [] },
    track: (scale, y) => <ClipTrack shot={shot} layer={layer} scale={scale} y={y} />,
    label: (y, inHand) => <ClipName y={y} inHand={inHand} onChoose={() => go({ chapter: 'depth', selectedLayer: layer.id })} />,
  };
}

function moveRow({ settings: { time } }: Shot, item: MoveItem): TrackRow {
  const definition = moveOf(item.kind);
  const run = runOf(definition, item.values);
  const ends = run ? runEnds(run, time.length) : { from: 0, to: time.length - 1 };
  const [from, to] = [Math.max(0, ends.from), Math.min(time.length - 1, ends.to)];
  const period = run ? null : (definition.period?.(moveValues(definition, item.values)) ?? null);
  return {
    key: `move ${item.id}`,
    name: definition.label,
    driven: false,
    isInHand: (view) => view.chapter === 'camera' && view.selectedMove === item.id,
    glimpse: { from, to, keys: run || period === null ? [from, to] : [] },
    track: (scale, y) => <MoveTrack item={item} time={time} scale={scale} y={y} />,
    label: (y, inHand) => (
      <RowName
        y={y}
        height={TRACK}
        name={definition.label}
        inHand={inHand}
        off={!item.on}
        onChoose={() => go({ chapter: 'camera', selectedMove: item.id })}
      />
    ),
  };
}

function layerRow(shot: Shot, layer: Layer): TrackRow {
  const keys = (layer.keyed ?? []).map((k) => k.frame);
  return {
    key: `layer ${layer.id}`,
    name: layer.name,
    driven: true,
    isInHand: (view) => view.chapter === 'depth' && view.selectedLayer === layer.id,
    glimpse: { from: 0, to: shot.settings.time.length - 1, keys },
    track: (scale, y) => <LayerTrack layer={layer} scale={scale} y={y} />,
    label: (y, inHand) => (
      <RowName
        y={y}
        height={TRACK}
        name={layer.name}
        inHand={inHand}
        off={!layer.visible}
        onChoose={() => go({ chapter: 'depth', selectedLayer: layer.id })}
      />
    ),
  };
}

/** Where a driven number is set, so that a click on its name goes there. */
function placeOf({ place, item, name }: DrivenNumber): Partial<Looked> {
  switch (place) {
    case 'effect':
      return { chapter: 'effects', selectedEffect: item };
    case 'move':
      return { chapter: 'camera', selectedMove: item };
    case 'layer':
      return { chapter: 'depth', selectedLayer: item };
    case 'cleanup':
      return { chapter: 'depth' };
    case 'shot':
      return { chapter: name.startsWith('calibration.') ? 'calibrate' : 'plate' };
  }
}

function numberRow({ settings: { time } }: Shot, number: DrivenNumber): TrackRow {
  const { place, item, name, of, param, drive } = number;
  const there = placeOf(number);
  return {
    key: `${place}/${item}/${name}`,
    name: `${of}, ${param.label.toLowerCase()}`,
    driven: true,
    isInHand: (view) => Object.entries(there).every(([part, value]) => view[part as keyof Looked] === value),
    glimpse: { from: 0, to: time.length - 1, keys: drive ? pinsOf(drive) : [] },
    track: (scale, y) => <KeyTrack number={number} time={time} scale={scale} y={y} />,
    label: (y, inHand) => <KeyName number={number} y={y} inHand={inHand} onChoose={() => go(there)} />,
  };
}

function stretchRow({ settings: { camera, framing, time } }: Shot, values: readonly number[]): TrackRow {
  const clean = (camera.clean / 100) * framing.width;
  return {
    key: 'stretch',
    name: 'Stretch',
    driven: false,
    isInHand: () => false,
    glimpse: { from: 0, to: time.length - 1, keys: [] },
    track: (scale, y) => <StretchTrack clean={clean} length={time.length} values={values} scale={scale} y={y} />,
    label: (y) => <RowName y={y} height={TRACK} name="Stretch" aside={`clean to ${clean.toFixed(0)} px`} />,
  };
}

/** The rows of a shot's timeline, in the order of the chain; `stretch`: how wide its moves tear the picture open, where that is known. */
export function rowsOf(shot: Shot, stretch: readonly number[]): readonly TrackRow[] {
  const { layers, camera } = shot.settings;
  const estimate = [...layers].reverse().find((l) => l.visible && clipDepthSpec(shot.plate, l) !== null);
  return [
    ...(estimate ? [clipRow(shot, estimate)] : []),
    ...keyedLayers(shot.settings).map((layer) => layerRow(shot, layer)),
    ...drivenNumbers(shot.settings).map((number) => numberRow(shot, number)),
    ...camera.moves.map((item) => moveRow(shot, item)),
    // its row is there before its figures, so that nothing moves when they come
    ...(camera.moves.length > 0 ? [stretchRow(shot, stretch)] : []),
  ];
}
