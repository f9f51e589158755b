import { readFileSync } from 'node:fs';
import { networkIsThere, provideNetwork } from '../src/core/estimate/network/network';
import { peopleAreThere, providePeople } from '../src/core/estimate/people/people';

const trained = (name: string): Uint8Array => new Uint8Array(readFileSync(new URL(`../training/${name}`, import.meta.url)));

/** Loads the estimate's networks from this repository, once. */
export function loadNetwork(): void {
  if (!networkIsThere()) provideNetwork(trained('network.bin'));
  if (!peopleAreThere()) providePeople(trained('people.bin'));
}
