import { endsOfMetres } from '../../../../../core/estimate/own/own';
import { newLayer } from '../../../../../core/document/defaults';
import type { Layer } from '../../../../../core/document/schema';
import { describeError, OmbrageError } from '../../../../../core/error';
import { estimateLayer } from '../../../../../core/depth/layers/estimate';
import { OWN_QUALITY } from '../../../../../core/need/estimators';
import { pictureNeed } from '../../../../../core/need/need';
import { valueScales, type NetworkUse, type ValueScale } from '../../../../../core/need/networkUse';
import { engine } from '../../../../../engine/pool/engine';
import { database } from '../../../../../store/database';
import { keepUse, removeNetwork } from '../../../../../store/networks';
import { changeSettings, shotOf, useDocument } from '../../../../state/documentStore';
import { session } from '../../../../state/session';
import { momentOf } from '../../../../state/shotNow';
import { useView } from '../../../../state/viewStore';
import { notify, notifyError } from '../../../../notices/noticeStore';
import { keepNetwork } from '../../../../bringIn/networkFiles';
import { calibrationBetween } from '../../importMap';
import { givesOf, useTrials, type Tried, type Trials } from './trialStore';

const nothingTried: Trials['tried'] = { imagenet: null, unit: null, signed: null, bytes: null };
let round = 0;
let stop: () => void = () => undefined;

/** The ways are no longer looked at. */
export function closeTrials(): void {
  round++;
  stop();
  stop = () => undefined;
  useTrials.setState({ trials: null });
}

/** Takes a network in, and tries on the open shot how it is to be asked. */
export async function bringNetwork(file: File): Promise<void> {
  try {
    const row = await keepNetwork(file);
    try {
      await tryWays(row);
    } catch (error) {
      // one that cannot be run is of no use in the list
      if (!row.use) await removeNetwork(database(), row.sha256);
      throw error;
    }
  } catch (error) {
    notifyError(error);
  }
}

/** Tries the ways in which a network may be asked, the likeliest first. */
export async function tryWays(row: Trials['row']): Promise<void> {
  const shot = shotOf(useDocument.getState());
  if (!shot) return;
  closeTrials();
  const mine = ++round;
  const { use, told } = row.found;
  useTrials.setState({ trials: { row, tried: nothingTried, gives: told.gives ? use.gives : null, sharper: false } });
  const at = momentOf(shot);
  const plate = pictureNeed(shot.plate, at, shot.plate.opaque);
  const estimate = await session()
    .provider.comparison(shot, at)
    .catch(() => null);
  let { size } = use;
  const run = async (values: ValueScale): Promise<Tried> => {
    const sizes = [size, ...otherSizes(size)];
    for (const [k, one] of sizes.entries()) {
      const job = engine().tryNetwork(plate, { ...use, size: one, values }, told.gives, estimate);
      stop = job.cancel;
      try {
        const trial = await job.done;
        // what has ended is not to be stopped: its network is asked again in a moment
        stop = () => undefined;
        if (trial) size = one;
        return trial && { trial, size };
      } catch (error) {
        if (!(error instanceof OmbrageError)) throw error;
        // what its sides must be multiples of stands in no file
        if (error.code === 'network-failed' && k < sizes.length - 1) continue;
        if (WRONG_HERE.includes(error.code)) return { failed: describeError(error) };
        throw error;
      }
    }
    return null;
  };
  try {
    for (const values of [use.values, ...valueScales.filter((v) => v !== use.values)]) {
      const tried = await run(values);
      if (mine !== round || !tried) return;
      useTrials.setState(({ trials }) => ({ trials: trials && { ...trials, tried: { ...trials.tried, [values]: tried } } }));
    }
  } catch (error) {
    if (mine !== round) return;
    closeTrials();
    throw error;
  }
}

/** What may be otherwise by another way of giving the picture; what is wrong by itself ends the trials. */
const WRONG_HERE: readonly string[] = ['wrong-answer', 'network-failed'];

/** Multiples that sides of pictures are usually asked to be, with the side that goes with them, px. */
const SIZES: readonly NetworkUse['size'][] = [
  { multiple: 14, side: 518 },
  { multiple: 32, side: 384 },
  { multiple: 64, side: 384 },
];
const otherSizes = (size: NetworkUse['size']): readonly NetworkUse['size'][] =>
  'multiple' in size ? SIZES.filter((s) => 'multiple' in s && s.multiple !== size.multiple) : [];

/** The layer that is to ask a network: the chosen one where it estimates, or the first that does. */
function askingLayer(layers: readonly Layer[]): Layer | undefined {
  const estimates = layers.filter((l) => l.kind === estimateLayer.kind && !l.locked);
  return estimates.find((l) => l.id === useView.getState().selectedLayer) ?? estimates[0];
}

/** From now on an estimate of the open shot asks a network so; metres set the near and far ends. One step of undo. */
export function askSo(use: NetworkUse): void {
  let id = '';
  changeSettings((s) => {
    let layer = askingLayer(s.layers);
    if (!layer) s.layers.unshift((layer = newLayer(estimateLayer.kind)));
    const asked = s.layers.find((l) => l.id === layer.id)!;
    asked.values.quality = OWN_QUALITY;
    asked.content = { network: use };
    id = asked.id;
    if (use.ends) Object.assign(s.calibration, calibrationBetween(use.ends));
  });
  useView.getState().set({ selectedLayer: id });
  if (!use.ends) return;
  const { near, far } = use.ends;
  notify({
    kind: 'note',
    text: `${use.name} tells metres: near is ${near.toPrecision(3)} m, far ${far.toPrecision(3)} m.`,
    hint: 'The ends were set in Calibrate; undo takes them back.',
  });
}

/** One of the ways is taken. */
export function takeWay(values: ValueScale): void {
  const { trials } = useTrials.getState();
  const tried = trials?.tried[values];
  if (!trials || !tried?.trial) return;
  const { trial, size } = tried;
  const gives = givesOf(trials, trial);
  const use = { ...trials.row.found.use, size, values, gives, fromZero: gives === 'distance' && trial.fromZero, sharper: trials.sharper };
  keepUse(database(), use.sha256, use, trial.seconds).catch(notifyError);
  askSo(gives === 'metres' ? { ...use, ends: endsOfMetres(trial.answer) } : use);
  closeTrials();
}
