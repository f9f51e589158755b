import { moveValues } from '../../core/camera/definition';
import { poseAt } from '../../core/path/path';
import { ViewGeometry, type Placed, type PlateLens } from '../../core/camera/pose';
import { moveOf } from '../../core/camera/registry';
import { parallaxOf } from '../../core/path/stereo';
import { rulerDistance, rulerOf } from '../../core/depth/ruler';
import { calibrationOf } from '../../core/document/calibrationOf';
import { setNumber } from '../../core/document/driven';
import type { MoveItem, Shot } from '../../core/document/schema';
import type { Lane } from '../../core/matte/lane';
import { hfovOf } from '../../core/document/framing';
import { clampNumber, formatMetres } from '../../core/values/params';
import { lensOf } from '../state/shotLens';
import { changeSettings, type Gesture } from '../state/documentStore';
import { useView } from '../state/viewStore';
import { LaneShape } from './LaneShape';
import { RailHandle } from './RailHandle';
import { RowName } from '../score/RowName';
import type { LaneRow, RailScale } from './railLayout';

/** A lane of the camera: how far things move by their distance, and what sets the distance that stands still. */
export interface CameraLaneItem {
  readonly key: string;
  readonly lane: Lane;
  readonly label: string;
  /** beside the lane: what it is of, and how far things move */
  readonly name: string;
  readonly figures: string;
  set(distance: number, gesture: Gesture): void;
}

const POINTS = 33;
/** Frames of a path that are looked at. */
const WAYPOINTS = 13;

const px = (v: number): string => `${Math.abs(v).toFixed(0)} px`;

/** The lanes of a shot's camera: of the move in hand, and of two eyes. `now` is the shot as it is at the playhead. */
export function cameraLanes(shot: Shot, now: Shot, selected: string | null): readonly CameraLaneItem[] {
  const { moves, stereo } = shot.settings.camera;
  const item = moves.find((m) => m.id === selected) ?? moves[0];
  const moved = item && moveLane(item, shot, now);
  return [...(moved ? [moved] : []), ...(stereo.on ? [eyesLane(shot, now)] : [])];
}

/** Distances along the rail at which a lane is drawn, m. */
function laneDistances(now: Shot): readonly number[] {
  const ruler = rulerOf(calibrationOf(now.settings.calibration), 'perspective');
  return Array.from({ length: POINTS }, (_, k) => rulerDistance(ruler, k / (POINTS - 1)));
}

/** How far what lies at a distance moves in the picture over the whole path of one move, px. */
function movedBy(item: MoveItem, { settings: { camera, time } }: Shot, lens: PlateLens): (distance: number) => number {
  const hfov = hfovOf(lens.width, lens.focalPx);
  const alone = { time, camera: { ...camera, moves: [{ ...item, on: true }] } };
  const at = (frame: number, z: number): Placed => {
    const place = { x: 0, y: 0, q: 0 };
    const g = new ViewGeometry(lens, poseAt(alone, hfov, { frame, fps: time.fps }));
    // off the middle, where a zoom is seen as well
    g.forward(lens.width * 0.75, lens.height * 0.6, 1 / z, place);
    return place;
  };
  const frames = Array.from({ length: WAYPOINTS }, (_, k) => (k * (time.length - 1)) / (WAYPOINTS - 1));
  return (z) => {
    const places = frames.map((f) => at(f, z)).filter((p) => Number.isFinite(p.x + p.y));
    if (places.length < 2) return 0;
    const span = (of: (p: Placed) => number): number => Math.max(...places.map(of)) - Math.min(...places.map(of));
    return Math.max(
      span((p) => p.x),
      span((p) => p.y),
    );
  };
}

/** How far a move moves things by their distance; null where it has no distance that stands still. */
function moveLane(item: MoveItem, shot: Shot, now: Shot): CameraLaneItem | null {
  const definition = moveOf(item.kind);
  const { fixedDistance } = definition;
  if (!fixedDistance) return null;
  const distances = laneDistances(now);
  const here = now.settings.camera.moves.find((m) => m.id === item.id) ?? item;
  const distance = Number((moveValues(definition, here.values) as Record<string, unknown>)[fixedDistance]);
  const ways = distances.map(movedBy(item, shot, lensOf(shot)));
  const most = Math.max(1, ...ways.map(Math.abs));
  const param = definition.params[fixedDistance]!;
  return {
    key: `move ${item.id}`,
    label: `${definition.label}: ${param.label}`,
    name: definition.label,
    figures: `near ${px(ways[0]!)}, far ${px(ways[ways.length - 1]!)}`,
    lane: {
      caption: `${definition.label}: ${param.label.toLowerCase()} ${formatMetres(distance)}, near end moves ${px(ways[0]!)}, far end ${px(ways[ways.length - 1]!)}`,
      points: distances.map((z, k) => ({ distance: z, strength: Math.abs(ways[k]!) / most })),
      handles: [{ param: fixedDistance, distance }],
    },
    set: (value, gesture) =>
      changeSettings((s) => {
        if (param.type !== 'number') return;
        const to = Number(clampNumber(param, value).toPrecision(4));
        setNumber(s, { place: 'move', item: item.id, name: fixedDistance }, to, useView.getState().frame);
      }, gesture),
  };
}

/** How far apart two eyes see things by their distance. */
function eyesLane(shot: Shot, now: Shot): CameraLaneItem {
  const { stereo } = shot.settings.camera;
  const distances = laneDistances(now);
  const screen = stereo.screen === 'infinite' ? 1e6 : stereo.screen;
  const lens = lensOf(shot);
  const shares = distances.map((z) => parallaxOf(stereo, lens, 1 / z));
  const most = Math.max(0.1, ...shares.map(Math.abs));
  const [near, far] = [`${shares[0]!.toFixed(1)} %`, `${shares[shares.length - 1]!.toFixed(1)} %`];
  return {
    key: 'two eyes',
    label: 'Two eyes: in the screen',
    name: 'Two eyes',
    figures: `near ${near}, far ${far}`,
    lane: {
      caption: `Two eyes: ${formatMetres(screen)} lies in the screen, near ${near}, far ${far}`,
      points: distances.map((z, k) => ({ distance: z, strength: Math.abs(shares[k]!) / most })),
      handles: [{ param: 'screen', distance: screen }],
    },
    set: (value, gesture) =>
      changeSettings((s) => void (s.camera.stereo.screen = Number(Math.min(1e6, Math.max(0.01, value)).toPrecision(4))), gesture),
  };
}

interface Props {
  readonly lane: CameraLaneItem;
  readonly scale: RailScale;
  readonly row: LaneRow;
}

export function CameraLane({ lane: { lane, label, set }, scale, row }: Props) {
  return (
    <g data-lane="open">
      <LaneShape lane={lane} scale={scale} row={row} />
      {lane.handles.map(({ param, distance }) => (
        <RailHandle
          key={param}
          label={label}
          x={scale.x(distance)}
          y={scale.axis}
          stem={row.y + row.height - scale.axis}
          shape="round"
          colour={scale.colour(distance)}
          text={formatMetres(distance)}
          value={distance}
          start={distance}
          onDrag={(dx, start, gesture) => set(scale.moved(start, dx), gesture)}
          onStep={(steps, gesture) => set(distance * 1.02 ** steps, gesture)}
        />
      ))}
    </g>
  );
}

export const CameraName = ({ lane: { name, figures }, row }: { lane: CameraLaneItem; row: LaneRow }) => (
  <RowName y={row.y} height={row.height} name={name} below={figures} inHand />
);
