import type { ReactNode } from 'react';
import type { Shot } from '../../core/document/schema';
import type { ChapterFacts } from '../state/chapterFacts';
import { RowName } from '../score/RowName';
import { CameraLane, cameraLanes, CameraName } from './CameraLane';
import { DepthLane } from './DepthLane';
import type { LaneRow, RailScale } from './railLayout';

/** A lane of what a chapter has in hand, before those of effects. */
export interface OwnLane {
  readonly key: string;
  /** in the drawing of the rail */
  draw(scale: RailScale, row: LaneRow): ReactNode;
  /** at its left */
  name(row: LaneRow): ReactNode;
}

interface InHand {
  readonly selectedLayer: string | null;
  readonly selectedMove: string | null;
}

const lanesOf: Readonly<Record<NonNullable<ChapterFacts['inHand']>, (shot: Shot, now: Shot, chosen: InHand) => readonly OwnLane[]>> = {
  layer: (shot, now, { selectedLayer }) => {
    const layer = now.settings.layers.find((l) => l.id === selectedLayer);
    return [
      {
        key: 'layer',
        draw: (scale, { y, height }) => <DepthLane key="layer" shot={shot} layer={layer} scale={scale} y={y} height={height} />,
        name: ({ y, height }) => <RowName key="layer" y={y} height={height} name={layer?.name ?? 'Choose a layer'} inHand={layer !== undefined} />,
      },
    ];
  },
  moves: (shot, now, { selectedMove }) =>
    cameraLanes(shot, now, selectedMove).map((lane) => ({
      key: lane.key,
      draw: (scale, row) => <CameraLane key={lane.key} lane={lane} scale={scale} row={row} />,
      name: (row) => <CameraName key={lane.key} lane={lane} row={row} />,
    })),
};

/** The lanes of what a chapter has in hand; none where that is an effect. */
export const ownLanes = ({ inHand }: ChapterFacts, shot: Shot, now: Shot, chosen: InHand): readonly OwnLane[] =>
  inHand ? lanesOf[inHand](shot, now, chosen) : [];
