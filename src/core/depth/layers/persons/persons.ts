import { addressOfFile, FIRST_FRAME, frameAt } from '../../../need/need';
import { constantPlane } from '../../../picture';
import { defineLayer } from '../../definition';
import { placeMap } from '../mapLayer';
import { personsSchema, personsSeries, type PersonsContent } from './content';

/** What was found, as it is. */
const AS_IT_IS = { turnOver: false, low: 0, high: 100 };

/** Persons that were clicked in the picture: a part of it that effects can be limited to. Depth stays as it is below. */
export const personsLayer = defineLayer({
  kind: 'persons',
  label: 'Persons',
  help: 'Persons you click: a part of the picture for effects. Depth stays as it is',
  limits: true,
  readsBelow: true,
  params: {},
  content: personsSchema,
  needs: ({ content, plate, at }) => {
    const series = personsSeries(addressOfFile(plate), content);
    if (series === null) return [];
    if (plate.clip) return [{ is: 'kept', of: plate, series, frame: frameAt(plate, at) }];
    return [{ is: 'persons', of: plate, frame: FIRST_FRAME, places: content.clicked.map(({ x, y }) => ({ x, y })) }];
  },
  summary: (_, { clicked }: PersonsContent) => (clicked.length === 0 ? 'click one' : clicked.length === 1 ? '1 person' : `${clicked.length} persons`),
  build: (input) => ({
    nearness: input.below,
    coverage: input.map ? placeMap(input.map, input, AS_IT_IS) : constantPlane(input.width, input.height, 0),
  }),
});
