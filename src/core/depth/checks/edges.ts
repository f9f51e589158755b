import { newPlane } from '../../picture';
import { depthEdges, edgeDistance } from '../edges';
import type { CheckDefinition } from './definition';

/** The map's edges, drawn over the picture. */
export const edges: CheckDefinition = {
  kind: 'edges',
  label: 'Edges',
  help: 'The map’s edges over the picture: they should lie on those of the things',
  run: ({ raw, picture }) => {
    const marks = newPlane(raw.width, raw.height);
    const found = depthEdges(raw);
    for (let i = 0; i < found.length; i++) marks.data[i] = found[i]!;
    const off = edgeDistance(raw, picture);
    return { marks, figure: off === null ? 'no edges' : `off by ${off.toFixed(1)} px on average` };
  },
};
