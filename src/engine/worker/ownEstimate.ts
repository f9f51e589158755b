import * as Comlink from 'comlink';
import { OmbrageError } from '../../core/error';
import { guessedDepth } from '../../core/estimate/own/guess';
import { answerTo, hasZero, ownNearness, SHARPER_RUNS } from '../../core/estimate/own/own';
import type { NetworkAnswer, NetworkRun } from '../../core/estimate/own/runs';
import { Aborted, unlessAborted } from '../../core/run';
import type { NetworkUse } from '../../core/need/networkUse';
import type { Plane, Raster } from '../../core/picture';
import { fitLongSide, samplePlaneLinear, stretch } from '../../core/raster/resample';
import type { NetworkTrial } from '../messages/estimateApi';
import { Newest } from '../messages/newest';
import { NETWORK_STOPPED, type NetworkCall } from '../messages/networkCalls';

/** Long side of what is shown of a trial, px. */
const TRIAL_SIDE = 320;
/** So often the share done is told while a network runs, ms. */
const TELL_MS = 200;

/** The way to a network; where that was stopped the work is needless. */
const wayTo = (call: NetworkCall) => ({
  run: async (asked: NetworkRun): Promise<NetworkAnswer> => {
    try {
      return await call(Comlink.transfer(asked, [asked.data.buffer as ArrayBuffer]));
    } catch (error) {
      throw error instanceof OmbrageError && error.code === NETWORK_STOPPED ? new Aborted() : error;
    }
  },
});

/** Depth of a plate by a network of somebody's own, of which a run takes about so long, s; null where it was stopped. */
export function ownEstimate(
  raster: Raster,
  use: NetworkUse,
  call: NetworkCall,
  seconds: number,
  newest: Newest,
  id: number,
  report: (share: number) => void,
): Promise<Plane | null> {
  let [share, since] = [0, performance.now()];
  const of = 0.85 / (use.sharper ? SHARPER_RUNS : 1);
  // a run tells nothing of how far it is: as far as such runs were by now
  const timer = setInterval(() => report(share + of * (1 - Math.exp((since - performance.now()) / 1000 / seconds))), TELL_MS);
  return unlessAborted(() =>
    ownNearness(raster, use, wayTo(call), (done) => {
      [share, since] = [done, performance.now()];
      report(done);
      return newest.is(id);
    }),
  ).finally(() => clearInterval(timer));
}

/** One way of asking a network, tried on a plate and held against another estimate of it; null where it was stopped. */
export function ownTrial(raster: Raster, use: NetworkUse, sure: boolean, call: NetworkCall, estimate: Plane | null): Promise<NetworkTrial | null> {
  return unlessAborted(async () => {
    let seconds = 0;
    const { run } = wayTo(call);
    const timed = async (asked: NetworkRun): Promise<NetworkAnswer> => {
      const answer = await run(asked);
      seconds = answer.seconds ?? 0;
      return answer;
    };
    const answer = await answerTo(raster, use, { run: timed });
    const guessed = estimate ? guessedDepth(answer, estimate, use.gives, sure) : { gives: use.gives, agreement: null };
    const { width, height } = fitLongSide(raster, TRIAL_SIDE);
    const small = samplePlaneLinear(answer, stretch(answer, width, height), width, height);
    return { ...guessed, answer: small, fromZero: hasZero(answer), seconds };
  });
}
