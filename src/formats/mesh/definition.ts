import type { SceneMesh } from '../../core/mesh/scene';
import type { CameraPose } from '../../core/camera/pose';
import type { Encoders } from '../definition';

/** The way of a camera through a scene: a pose for each frame. */
export interface CameraWay {
  readonly poses: readonly CameraPose[];
  readonly fps: number;
}

/** A scene as it is written. */
export interface WrittenScene {
  readonly scene: SceneMesh;
  /** how it is called */
  readonly name: string;
  /** goes along where the format has cameras */
  readonly way?: CameraWay | undefined;
  readonly encoders: Encoders;
}
