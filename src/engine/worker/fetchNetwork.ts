import { OmbrageError } from '../../core/error';
import { ESTIMATE_VERSION } from '../../core/need/estimateKey';
import { provideNetwork } from '../../core/estimate/network/network';

/** The estimate's network, fetched once by the worker that needs it. */
let network: Promise<void> | null = null;
export function fetchNetwork(): Promise<void> {
  network ??= fetch(`/models/estimate.bin?v=${ESTIMATE_VERSION}`)
    .then((response) => (response.ok ? response.arrayBuffer() : Promise.reject(new Error(String(response.status)))))
    .then((bytes) => provideNetwork(new Uint8Array(bytes)))
    .catch(() => {
      network = null;
      throw new OmbrageError(
        'no-network',
        'The network that estimates depth could not be fetched.',
        'Check the connection, then choose “Estimate again” in Depth.',
      );
    });
  return network;
}
