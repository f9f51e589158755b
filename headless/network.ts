import { readFileSync } from 'node:fs';
import { networkIsThere, provideNetwork } from '../src/core/estimate/network/network';

/** Loads the estimate's network from this repository, once. */
export function loadNetwork(): void {
  if (!networkIsThere()) provideNetwork(new Uint8Array(readFileSync(new URL('../training/network.bin', import.meta.url))));
}
