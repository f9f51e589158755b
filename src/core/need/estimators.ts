import { OmbrageError } from '../error';
import { registryOf } from '../values/registry';
import type { NetworkUse } from './networkUse';

/** A way to tell depth from a picture, as far as others need to know of it; how it works stands in `core/estimate`. */
interface EstimatorFacts {
  readonly kind: string;
  readonly label: string;
  /** a quicker one that is shown until this one is done */
  readonly first: string | null;
  /** of a clip: it is estimated every so many frames, and carried to those between. A draft's own errors are larger than what that costs. */
  readonly every: number;
  /** what a frame takes, about: seconds of one processor, and bytes that its map fills */
  readonly seconds: number;
  readonly bytes: number;
  /** asks a network of somebody's own */
  readonly own?: boolean;
}

const all = [
  { kind: 'draft', label: 'Draft', first: null, every: 4, seconds: 0.5, bytes: 90e3 },
  { kind: 'fine', label: 'Fine', first: 'draft', every: 2, seconds: 2, bytes: 120e3 },
  { kind: 'own', label: 'Own', first: 'draft', every: 2, seconds: 6, bytes: 120e3, own: true },
] as const satisfies readonly EstimatorFacts[];

export type Quality = (typeof all)[number]['kind'];

/** The ways to tell depth from a picture, the quickest first. */
export const estimatorRegistry = registryOf<EstimatorFacts & { readonly kind: Quality; readonly first: Quality | null }>('estimator', all);
export const estimators = estimatorRegistry.all;
export const qualities = estimators.map((e) => e.kind);
export const estimatorOf = (kind: Quality): (typeof estimators)[number] => estimatorRegistry.named(kind);

/** The one that is there soonest. */
export const QUICKEST: Quality = all[0].kind;
/** The one that is meant where nothing else is said. */
export const USUAL_QUALITY: Quality = 'fine';

/** One after the other, the best first: itself, and those that are shown until it is done. */
export function downFrom(kind: Quality): readonly Quality[] {
  const { first } = estimatorOf(kind);
  return first === null ? [kind] : [kind, ...downFrom(first)];
}

/** Those that need nothing but what ships with the page. */
export const builtIn = (): readonly (typeof estimators)[number][] => estimators.filter(({ own }) => !own);
/** The one that asks a network of somebody's own. */
export const OWN_QUALITY: Quality = all.find((e) => 'own' in e)!.kind;

/** How depth is told from a picture: by which of the ways, and where it asks a network of somebody's own, by which. */
export interface EstimateBy {
  readonly quality: Quality;
  readonly network?: NetworkUse | undefined;
}

/** The network of somebody's own that is asked; null where it is not. */
export const networkOf = ({ quality, network }: EstimateBy): NetworkUse | null => (estimatorRegistry.named(quality).own && network) || null;

/** A quality as somebody typed it. Throws OmbrageError. */
export function namedQuality(text: string): Quality {
  const found = builtIn().find(({ kind }) => kind === text)?.kind;
  if (!found)
    throw new OmbrageError(
      'bad-setting',
      `"${text}" is no quality.`,
      `Give ${builtIn()
        .map((e) => e.kind)
        .join(' or ')}.`,
    );
  return found;
}
