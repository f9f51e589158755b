import type { PathFigures } from '../../core/path/judged';
import { hasCamera } from '../../core/path/path';
import type { Relief } from '../../core/camera/relief';
import type { Shot } from '../../core/document/schema';
import { addressOfFile } from '../../core/need/need';
import type { Size } from '../../core/picture';
import { contentKey } from '../../core/key';
import { engine } from '../../engine/pool/engine';
import { shotOf, useDocument } from './documentStore';
import { requestOf } from './previewLoop';
import { useSession } from './sessionStore';
import { lensOf } from './shotLens';
import { factsOf } from './chapterFacts';
import { useView } from './viewStore';
import { follower, wobble, wobbler } from './wobble';

/** Keeps what camera moves are judged by up to date: the survey of the depth, the figures of the path, the wobble, and the camera that follows the pointer. */
export class CameraWatch {
  /** the depth that was surveyed last */
  private surveyed = '';
  /** the path that was judged last, what is being judged, and what waits for that */
  private judged = '';
  private judgedBy: Relief | null = null;
  private judging = false;
  private waiting: (() => void) | null = null;
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
    this.follow(shot);
  }

  private survey(shot: Shot): void {
    const { chapter, adding, wobble: wobbles, follow } = useView.getState();
    if (!factsOf(chapter).measures && !adding && !wobbles && !follow && !hasCamera(shot.settings)) return;
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
        if (now) this.follow(now);
      })
      .catch((error: unknown) => {
        this.surveyed = '';
        if (!this.closed) this.failed(error);
      });
  }

  /** What follows from the survey and the moves. */
  private follow(shot: Shot): void {
    const { wobble: wobbles, follow } = useView.getState();
    const { relief, given } = useSession.getState();
    this.judge(shot, relief);
    if (wobbles && relief) wobble(shot, relief, given, this.view);
    else wobbler.clear();
    if (follow && relief) follower.watch(shot, relief, given, this.view);
    else follower.stop();
  }

  /** The figures of the path are worked out by a worker, once for each path; while one is at it only the newest path waits. */
  private judge(shot: Shot, relief: Relief | null): void {
    const { set, path } = useSession.getState();
    if (!relief || !hasCamera(shot.settings)) {
      this.judged = '';
      if (path) set({ path: null });
      return;
    }
    const { camera, time } = shot.settings;
    const lens = lensOf(shot);
    const key = contentKey(camera.moves, camera.stereo, time.length, time.fps, lens);
    if (key === this.judged && relief === this.judgedBy) return;
    this.judged = key;
    this.judgedBy = relief;
    const run = (): void => {
      this.waiting = null;
      this.judging = true;
      engine()
        .judgePath({ camera, time }, lens, relief)
        .then((found: PathFigures) => {
          if (!this.closed && this.judged !== '') set({ path: found });
        })
        .catch((error: unknown) => {
          this.judged = '';
          if (!this.closed) this.failed(error);
        })
        .finally(() => {
          this.judging = false;
          this.waiting?.();
        });
    };
    if (this.judging) this.waiting = run;
    else run();
  }
}
