import { engine } from '../../engine/pool/engine';
import { checkNetworkSize } from '../../formats/onnx/facts';
import { database, type NetworkRow } from '../../store/database';
import { checkRoom } from '../../store/media';
import { putNetwork } from '../../store/networks';

/** Takes a network into this browser. Throws OmbrageError that names it. */
export async function keepNetwork(file: File): Promise<NetworkRow> {
  checkNetworkSize(file.name, file.size);
  await checkRoom(file.name, file.size);
  return putNetwork(database(), await engine().readNetwork(file, file.name.slice(0, 200)), file);
}
