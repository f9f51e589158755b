import type { PlateLens } from '../../core/camera/pose';
import type { Shot } from '../../core/document/schema';
import { cameraLens } from '../../core/shot/cameraStep';
import { requestOf } from './previewLoop';

/** The lens of a shot's output at its first frame, as its moves see it. */
export const lensOf = (shot: Shot): PlateLens => cameraLens(requestOf(shot, shot.settings.framing, { frame: 0, fps: shot.settings.time.fps }));
