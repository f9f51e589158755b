import { hasCamera } from '../../core/camera/path';
import type { Shot } from '../../core/document/schema';
import { addressOfFile } from '../../core/need';
import type { Size } from '../../core/raster/picture';
import { contentKey } from '../../core/shot/key';
import { engine } from '../../engine/engine';
import { shotOf, useDocument } from './documentStore';
import { requestOf } from './previewLoop';
import { useSession } from './sessionStore';
import { useView } from './viewStore';
import { follower, wobble, wobbler } from './wobble';

/** Keeps what camera moves are judged by up to date: the survey of the depth, the wobble, and the camera that follows the pointer. */
export class CameraWatch {
  /** the depth that was surveyed last */
  private surveyed = '';
  private view: Size = { width: 640, height: 360 };
  private closed = false;

  constructor(private readonly failed: (error: unknown) => void) {}

  close(): void {
    this.closed = true;
    wobbler.clear();
    follower.stop();
  }

  /** The shot as it is now, and the size that the viewer needs. */
  update(shot: Shot, view: Size): void {
    this.view = view;
    this.survey(shot);
    this.judge(shot);
  }

  private survey(shot: Shot): void {
    const { chapter, adding, wobble: wobbles, follow } = useView.getState();
    if (chapter !== 'camera' && !adding && !wobbles && !follow && !hasCamera(shot.settings)) return;
    const { framing, hfovDegrees, layers, cleanup, calibration, drives } = shot.settings;
    const { given } = useSession.getState();
    const key = contentKey(addressOfFile(shot.plate), framing, hfovDegrees, layers, cleanup, calibration, drives, given);
    if (key === this.surveyed) return;
    this.surveyed = key;
    engine()
      .survey(requestOf(shot, shot.settings.framing), given)
      .then((relief) => {
        if (this.closed || this.surveyed !== key) return;
        useSession.getState().set({ relief });
        const now = shotOf(useDocument.getState());
        if (now) this.judge(now);
      })
      .catch((error: unknown) => {
        this.surveyed = '';
        if (!this.closed) this.failed(error);
      });
  }

  private judge(shot: Shot): void {
    const { wobble: wobbles, follow } = useView.getState();
    const { relief, given } = useSession.getState();
    if (wobbles && relief) wobble(shot, relief, given, this.view);
    else wobbler.clear();
    if (follow && relief) follower.watch(shot, relief, given, this.view);
    else follower.stop();
  }
}
