import type { ReactNode } from 'react';
import { runEnds, runOf } from '../../core/camera/definition';
import { moveOf } from '../../core/camera/registry';
import { drivenNumbers, keyedLayers, type DrivenNumber } from '../../core/document/driven';
import type { Layer, MoveItem, Shot } from '../../core/document/schema';
import { clipDepthSpec } from '../../core/shot/clipLayer';
import { pinsOf } from '../../core/values/drive';
import { RowName } from '../score/RowName';
import type { Chapter } from '../state/chapterFacts';
import { useView } from '../state/viewStore';
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
  /** where what it shows is set: there it is in hand, and a click on its name goes there; null where it is only told */
  readonly there: Partial<Looked> | null;
  /** what is seen of it where it is folded: from where to where something happens, and its keys */
  readonly glimpse: { readonly from: number; readonly to: number; readonly keys: readonly number[] };
  track(scale: TimeScale, y: number): ReactNode;
  label(y: number, inHand: boolean): ReactNode;
}

/** Whether what a row shows is what is being worked on. */
export const isInHand = ({ there }: TrackRow, view: Looked): boolean =>
  there ? Object.entries(there).every(([part, value]) => view[part as keyof Looked] === value) : false;

const goTo = (there: Partial<Looked>) => () => useView.getState().set(there);

/** A name alone, of what is on or off. */
const nameAlone =
  (name: string, on: boolean, there: Partial<Looked>): TrackRow['label'] =>
  (y, inHand) => <RowName y={y} height={TRACK} name={name} inHand={inHand} off={!on} onChoose={goTo(there)} />;

function clipRow(shot: Shot, layer: Layer): TrackRow {
  const there: Partial<Looked> = { chapter: 'depth', selectedLayer: layer.id };
  return {
    key: 'clip',
    name: 'Depth',
    driven: false,
    there,
    glimpse: { from: 0, to: shot.settings.time.length - 1, keys: [] },
    track: (scale, y) => <ClipTrack shot={shot} layer={layer} scale={scale} y={y} />,
    label: (y, inHand) => <ClipName y={y} inHand={inHand} onChoose={goTo(there)} />,
  };
}

function moveRow({ settings: { time } }: Shot, item: MoveItem): TrackRow {
  const { label } = moveOf(item.kind);
  const run = runOf(moveOf(item.kind), item.values);
  const ends = run ? runEnds(run, time.length) : { from: 0, to: time.length - 1 };
  const [from, to] = [Math.max(0, ends.from), Math.min(time.length - 1, ends.to)];
  const there: Partial<Looked> = { chapter: 'camera', selectedMove: item.id };
  return {
    key: `move ${item.id}`,
    name: label,
    driven: false,
    there,
    glimpse: { from, to, keys: run ? [from, to] : [] },
    track: (scale, y) => <MoveTrack item={item} time={time} scale={scale} y={y} />,
    label: nameAlone(label, item.on, there),
  };
}

function layerRow(shot: Shot, layer: Layer): TrackRow {
  const there: Partial<Looked> = { chapter: 'depth', selectedLayer: layer.id };
  return {
    key: `layer ${layer.id}`,
    name: layer.name,
    driven: true,
    there,
    glimpse: { from: 0, to: shot.settings.time.length - 1, keys: (layer.keyed ?? []).map((k) => k.frame) },
    track: (scale, y) => <LayerTrack layer={layer} scale={scale} y={y} />,
    label: nameAlone(layer.name, layer.visible, there),
  };
}

/** Where a driven number is set. */
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
    there,
    glimpse: { from: 0, to: time.length - 1, keys: drive ? pinsOf(drive) : [] },
    track: (scale, y) => <KeyTrack number={number} time={time} scale={scale} y={y} />,
    label: (y, inHand) => <KeyName number={number} y={y} inHand={inHand} onChoose={goTo(there)} />,
  };
}

function stretchRow({ settings: { camera, framing, time } }: Shot, values: readonly number[]): TrackRow {
  const clean = (camera.clean / 100) * framing.width;
  return {
    key: 'stretch',
    name: 'Stretch',
    driven: false,
    there: null,
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
