import { toggle } from '../../values/params';
import { defineLayer } from '../definition';
import { placeMap } from './mapLayer';

/** A depth map from a file, stretched over the plate. */
export const importedLayer = defineLayer({
  kind: 'imported',
  label: 'Imported map',
  source: 'media',
  params: { turnOver: toggle({ label: 'Turn over', default: false, help: 'Swap near and far' }) },
  summary: (p) => (p.turnOver ? 'turned over' : 'white is near'),
  build: (input) => input.map && placeMap(input.map, input, input.params.turnOver),
});
