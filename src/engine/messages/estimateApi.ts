import type { Quality } from '../../core/need/estimators';
import type { PersonsNeed, RasterNeed } from '../../core/need/need';
import type { GivenDepth, NetworkUse } from '../../core/need/networkUse';
import type { Plane } from '../../core/picture';
import type { NetworkCall } from './networkCalls';

/** A place of the plate, shares, that surely is a person's, and the share of the picture that they cover. */
export interface FoundPerson {
  readonly x: number;
  readonly y: number;
  readonly share: number;
}

/** One way of asking a network of somebody's own, tried on a picture. */
export interface NetworkTrial {
  /** as it came, small */
  readonly answer: Plane;
  /** what that most likely is */
  readonly gives: GivenDepth;
  /** whether it has a zero, where it is taken for distance */
  readonly fromZero: boolean;
  /** how well its order goes with another estimate of the picture, -1..1; null where there is none */
  readonly agreement: number | null;
  readonly seconds: number;
}

export type Report = (share: number) => void;

/** What workers tell from a picture alone: depth, and persons. */
export interface EstimateApi {
  /** reads the network and makes one estimate of a stand-in, so that the first real one finds all of it ready */
  readyEstimate(): Promise<void>;
  /** depth of a held plate, or of a frame of one that is a clip */
  estimate(plate: RasterNeed, quality: Quality, id: number, newest: Int32Array, report: Report): Promise<Plane | null>;
  /** the same by a network of somebody's own, of which a run takes about so many seconds */
  estimateOwn(
    plate: RasterNeed,
    use: NetworkUse,
    call: NetworkCall,
    seconds: number,
    id: number,
    newest: Int32Array,
    report: Report,
  ): Promise<Plane | null>;
  /** one way of asking such a network, tried on a plate; `estimate`: the key of a held map of it to compare with; `sure`: what the network gives is known */
  tryNetwork(plate: RasterNeed, use: NetworkUse, sure: boolean, call: NetworkCall, estimate: string | null): Promise<NetworkTrial | null>;
  /** what the persons at some places of a still cover; null where it was stopped */
  personsCover(need: PersonsNeed, id: number, newest: Int32Array, report: Report): Promise<Plane | null>;
  /** where the persons of a plate are, the largest first; null where it was stopped */
  personsFound(plate: RasterNeed, id: number, newest: Int32Array, report: Report): Promise<FoundPerson[] | null>;
}
