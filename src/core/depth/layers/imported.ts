import { choice } from '../../values/params';
import { defineLayer } from '../definition';
import { mapParams, placeMap, type Fit } from './mapLayer';

/** A depth map from a file, laid over the plate. */
export const importedLayer = defineLayer({
  kind: 'imported',
  label: 'Imported map',
  help: 'A depth map from a file',
  source: 'media',
  params: {
    fit: choice<Fit>({
      label: 'Fit',
      default: 'stretch',
      help: 'How a map of another shape meets the plate',
      options: [
        { value: 'stretch', label: 'Stretch' },
        { value: 'fit', label: 'Fit' },
        { value: 'cover', label: 'Cover' },
      ],
    }),
    ...mapParams,
  },
  summary: (p) => (p.turnOver ? 'turned over' : 'white is near'),
  build: (input) => input.map && { nearness: placeMap(input.map, input, input.params), coverage: null },
});
