import * as Comlink from 'comlink';
import type { FoundUse } from '../../core/estimate/own/guess';
import { estimatorOf, networkOf, type EstimateBy } from '../../core/need/estimators';
import type { PersonsNeed, RasterNeed } from '../../core/need/need';
import type { NetworkUse } from '../../core/need/networkUse';
import type { Plane } from '../../core/picture';
import type { FoundPerson, NetworkTrial } from '../messages/estimateApi';
import { ClipWorkers } from './clipWorkers';
import { OwnNetworks } from './ownNetworks';
import type { Job } from './workers';

/** Depth told from pictures, by what ships with the page or by networks of somebody's own. */
export class EstimateWorkers extends ClipWorkers {
  private readonly networks = new OwnNetworks();

  override close(): void {
    this.networks.stop();
    super.close();
  }

  /** `many`: one of many, so that every worker takes its share, and whoever is in need of one waits for the end of one estimate. */
  estimate(plate: RasterNeed, by: EstimateBy, report: (share: number) => void, many = false): Job<Plane> {
    const network = networkOf(by);
    const told = Comlink.proxy(report);
    if (!network) return this.job((worker, id, words) => worker.estimate(plate, by.quality, id, words, told) as Promise<Plane>, !many);
    const seconds = this.networks.secondsOf(network) ?? estimatorOf(by.quality).seconds;
    return this.networks.job(network, (call) =>
      this.job((worker, id, words) => worker.estimateOwn(plate, network, Comlink.proxy(call), seconds, id, words, told) as Promise<Plane>, !many),
    );
  }

  /** What the persons at some places of a still cover. */
  personsCover(need: PersonsNeed, report: (share: number) => void): Job<Plane> {
    return this.job((worker, id, words) => worker.personsCover(need, id, words, Comlink.proxy(report)) as Promise<Plane>);
  }

  /** Where the persons of a plate are, the largest first. */
  personsFound(plate: RasterNeed, report: (share: number) => void): Job<readonly FoundPerson[]> {
    return this.job((worker, id, words) => worker.personsFound(plate, id, words, Comlink.proxy(report)) as Promise<readonly FoundPerson[]>);
  }

  /** Lets go of the network that was asked last, with its memory. */
  releaseNetwork(): void {
    this.networks.stop();
  }

  /** What a file tells of its network. */
  readNetwork(file: Blob, name: string): Promise<FoundUse> {
    return this.networks.read(file, name);
  }

  /** One way of asking a network, tried on a plate and held against a map of it. */
  tryNetwork(plate: RasterNeed, use: NetworkUse, sure: boolean, estimate: string | null): Job<NetworkTrial> {
    return this.networks.job(use, (call) =>
      this.job((worker) => worker.tryNetwork(plate, use, sure, Comlink.proxy(call), estimate) as Promise<NetworkTrial>),
    );
  }
}
