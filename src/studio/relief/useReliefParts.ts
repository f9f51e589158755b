import { useEffect, useRef, useState, type RefObject } from 'react';
import { contentKey } from '../../core/key';
import type { Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { isTimed } from '../../core/document/driven';
import { engine } from '../../engine/pool/engine';
import type { Job } from '../../engine/pool/workers';
import type { ReliefPart, ReliefSpec } from '../../engine/messages/protocol';
import { notifyError } from '../notices/noticeStore';
import { somethingMissing } from '../state/missing';
import { session } from '../state/session';
import { lookedAt, requestOf } from '../state/previewLoop';
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

const freed = (part: ReliefPart | null): void => part?.surfaces.forEach((s) => s.picture.close());

/** What is on its way for the view in space. */
export type ReliefState = 'coming' | 'coarse' | 'whole' | 'no depth';

/**
 * Asks for the scene whenever it has changed: coarsely at once, whole when nothing follows. One request at a time; the newest wins. A clip that plays is
 * seen coarsely frame by frame.
 */
export function useReliefParts(stage: RefObject<ReliefStage | null>, shot: Shot | null): ReliefState {
  const given = useSession((s) => s.given);
  const depthStamp = useSession((s) => s.depthStamp);
  const frame = useView((s) => (shot && isTimed(shot) ? s.frame : 0));
  const playing = useView((s) => s.playing);
  const { density, cut, behind } = useRelief();
  const [state, setState] = useState<ReliefState>('coming');
  const job = useRef<Job<ReliefPart> | null>(null);
  const next = useRef<(() => void) | null>(null);
  const missing = shot ? somethingMissing(shot.plate, shot.settings, given) : true;
  const noDepth = shot !== null && !shot.settings.layers.some((l) => l.visible);
  const key = shot && contentKey(shot.plate.sha256, lookedAt(shot).settings, given, depthStamp, frame, density, cut, behind);
  useEffect(() => {
    if (!shot || missing || noDepth) {
      setState(noDepth ? 'no depth' : 'coming');
      return;
    }
    let current = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const ask = async (kind: 'coarse' | 'whole'): Promise<void> => {
      const size = sizeFor(session().viewSize(shot), WHOLE_PIXELS);
      const spec: ReliefSpec = {
        step: kind === 'whole' ? density : Math.max(2, Math.ceil(Math.sqrt((size.width * size.height) / COARSE_SAMPLES))),
        cut,
        behind,
      };
      job.current = engine().relief(requestOf(lookedAt(shot), size), given, spec);
      try {
        const part = await job.current.done;
        if (!part || !stage.current || !current) return freed(part);
        if (kind === 'coarse') stage.current.dropWhole();
        stage.current.setPart(kind, part);
        setState(kind);
      } catch (error) {
        if (current) notifyError(error);
      } finally {
        job.current = null;
        next.current?.();
      }
    };
    const begin = (): void => {
      next.current = null;
      if (!current) return;
      void ask('coarse').then(() => {
        if (current && !playing) timer = setTimeout(() => void ask('whole'), QUIET_MS);
      });
    };
    // what is under way ends first: its worker would answer both
    if (job.current) {
      job.current.cancel();
      next.current = begin;
    } else begin();
    return () => {
      current = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key says what of the shot matters
  }, [key, missing, noDepth, playing, stage]);
  useEffect(
    () => () => {
      next.current = null;
      job.current?.cancel();
    },
    [],
  );
  return state;
}
