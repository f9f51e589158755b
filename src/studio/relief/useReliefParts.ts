import { useEffect, useRef, useState, type RefObject } from 'react';
import { contentKey } from '../../core/key';
import { isTimed } from '../../core/document/driven';
import type { Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { engine } from '../../engine/pool/engine';
import type { Job } from '../../engine/pool/workers';
import type { Given, ReliefPart } from '../../engine/messages/protocol';
import { notifyError } from '../notices/noticeStore';
import { somethingMissing } from '../state/missing';
import { lookedAt, requestOf } from '../state/previewLoop';
import { session } from '../state/session';
import { useSession } from '../state/sessionStore';
import { useView } from '../state/viewStore';
import type { ReliefStage } from './reliefStage';
import { useRelief } from './reliefStore';

/** The whole scene has so many px at the most, the coarse one so many samples: both are made of what the viewer shows. */
const WHOLE_PIXELS = 1e6;
const COARSE_SAMPLES = 24e3;
/** A change that follows another sooner than this is shown coarsely only, ms. */
const QUIET_MS = 220;

const sizeFor = ({ width, height }: Size, pixels: number): Size => {
  const scale = Math.min(1, Math.sqrt(pixels / (width * height)));
  return { width: Math.max(1, Math.round(width * scale)), height: Math.max(1, Math.round(height * scale)) };
};

const freed = (part: ReliefPart | null): void => part?.surfaces.forEach((s) => s.picture?.bitmap.close());

/** What is on its way for the view in space. */
export type ReliefState = 'coming' | 'coarse' | 'whole' | 'no depth';

/** A state of the scene that is to be seen. */
interface Wanted {
  readonly shot: Shot;
  readonly given: Given;
  readonly density: number;
  readonly cut: boolean;
  readonly behind: boolean;
  /** nothing follows at once: it is worth the whole */
  readonly rests: boolean;
}

/** Asks for scenes one after the other: what is wanted meanwhile waits, and only the newest of it. A coarse one that is under way is finished and seen, or a clip that plays would never be. */
class Asking {
  private wanted: Wanted | null = null;
  private whole: Job<ReliefPart> | null = null;
  private busy = false;
  private closed = false;
  private seen = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly stage: RefObject<ReliefStage | null>,
    private readonly on: (state: ReliefState) => void,
  ) {}

  want(wanted: Wanted): void {
    this.wanted = wanted;
    clearTimeout(this.timer);
    this.whole?.cancel();
    if (!this.busy) void this.run();
  }

  close(): void {
    this.closed = true;
    this.wanted = null;
    clearTimeout(this.timer);
    this.whole?.cancel();
  }

  private async run(): Promise<void> {
    this.busy = true;
    let last: Wanted | null = null;
    while (this.wanted && !this.closed) {
      last = this.wanted;
      this.wanted = null;
      // at first what is in front, which is there much sooner than what is made up behind it
      const front = !this.seen && last.behind;
      if (!(await this.ask('coarse', front ? { ...last, behind: false } : last))) {
        last = null;
        continue;
      }
      this.seen = true;
      if (front) this.wanted ??= last;
    }
    this.busy = false;
    if (!last?.rests || this.closed) return;
    const rests = last;
    this.timer = setTimeout(() => {
      this.busy = true;
      void this.ask('whole', rests).then(() => {
        this.busy = false;
        if (this.wanted && !this.closed) void this.run();
      });
    }, QUIET_MS);
  }

  /** Whether it is seen now. */
  private async ask(kind: 'coarse' | 'whole', { shot, given, density, cut, behind }: Wanted): Promise<boolean> {
    const size = sizeFor(session().viewSize(shot), WHOLE_PIXELS);
    const step = kind === 'whole' ? density : Math.max(2, Math.ceil(Math.sqrt((size.width * size.height) / COARSE_SAMPLES)));
    const job = engine().relief(requestOf(lookedAt(shot), size), given, { step, cut, behind, pictures: kind === 'coarse' });
    if (kind === 'whole') this.whole = job;
    try {
      const part = await job.done;
      if (!part || this.closed || !this.stage.current) {
        freed(part);
        return false;
      }
      if (kind === 'coarse') this.stage.current.dropWhole();
      this.stage.current.setPart(kind, part);
      this.on(kind);
      return true;
    } catch (error) {
      if (!this.closed) notifyError(error);
      return false;
    } finally {
      this.whole = null;
    }
  }
}

/** Asks for the scene whenever it has changed: coarsely at once, whole when nothing follows. The newest wins; a clip that plays is seen coarsely, as fast as frames come. */
export function useReliefParts(stage: RefObject<ReliefStage | null>, shot: Shot | null): ReliefState {
  const given = useSession((s) => s.given);
  const depthStamp = useSession((s) => s.depthStamp);
  const frame = useView((s) => (shot && isTimed(shot) ? s.frame : 0));
  const playing = useView((s) => s.playing);
  const { density, cut, behind } = useRelief();
  const [state, setState] = useState<ReliefState>('coming');
  const asking = useRef<Asking | null>(null);
  const missing = shot ? somethingMissing(shot.plate, shot.settings, given) : true;
  const noDepth = shot !== null && !shot.settings.layers.some((l) => l.visible);
  const key = shot && contentKey(shot.plate.sha256, lookedAt(shot).settings, given, depthStamp, frame, density, cut, behind, playing);
  useEffect(() => {
    const made = new Asking(stage, setState);
    asking.current = made;
    return () => {
      made.close();
      asking.current = null;
    };
  }, [stage]);
  useEffect(() => {
    if (shot && !missing && !noDepth) asking.current?.want({ shot, given, density, cut, behind, rests: !playing });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key says what of the shot matters
  }, [key, missing, noDepth]);
  return noDepth ? 'no depth' : state;
}
