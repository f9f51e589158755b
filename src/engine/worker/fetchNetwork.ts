import { OmbrageError } from '../../core/error';
import { ESTIMATE_VERSION } from '../../core/need/estimateKey';
import { provideNetwork } from '../../core/estimate/network/network';
import { providePeople } from '../../core/estimate/people/people';

const fetched = async (name: string): Promise<Uint8Array> => {
  const response = await fetch(`/models/${name}.bin?v=${ESTIMATE_VERSION}`);
  if (!response.ok) throw new Error(String(response.status));
  return new Uint8Array(await response.arrayBuffer());
};

/** The estimate's networks, fetched once by the worker that needs them. */
let networks: Promise<void> | null = null;
export function fetchNetwork(): Promise<void> {
  networks ??= Promise.all([fetched('estimate').then(provideNetwork), fetched('people').then(providePeople)]).then(
    () => undefined,
    () => {
      networks = null;
      throw new OmbrageError(
        'no-network',
        'The network that estimates depth could not be fetched.',
        'Check the connection, then choose “Estimate again” in Depth.',
      );
    },
  );
  return networks;
}
